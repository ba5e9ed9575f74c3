"""Numbers as people write them."""

import pytest

from hewel.quantities import NotUnderstood, any_quantity, in_unit, understood


@pytest.mark.parametrize(
    "typed, what, n",
    [
        ("12 kgf", "force", 117.6798),
        ("3 N·m", "moment", 3000),
        ("0.5 in", "length", 12.7),
        ("1.2kN", "force", 1200),
        (" 40 ", "force", 40),
        ("−4 N", "force", -4),
        ("6 bar", "pressure", 0.6),
        ("2 lbf·in", "moment", 225.96966),
        ("9.80665 m/s²", "acceleration", 1),
        ("1 g", "acceleration", 1),
        ("1e3 N", "force", 1000),
    ],
)
def test_what_people_write(typed, what, n):
    assert understood(typed, what) == pytest.approx(n, rel=1e-6)


@pytest.mark.parametrize(
    "typed", ["12 apples", "1,5 kN", "kN", "", "3 mm", "5 N^9", "1e400 N", "12 __class__", "12 N; x", "nan N", "12 5 N"]
)
def test_what_is_no_force_is_told_with_a_way_to_write_one(typed):
    with pytest.raises(NotUnderstood) as caught:
        understood(typed, "force")
    assert "Write" in str(caught.value)


def test_any_quantity_keeps_its_unit():
    assert any_quantity("45 °C") == (45.0, "°C") and any_quantity("12") == (12.0, "")
    with pytest.raises(NotUnderstood, match="no unit “apples”"):
        any_quantity("12 apples")


def test_units_of_records():
    assert in_unit("0.016 in", "mm") == pytest.approx(0.4064)
    assert in_unit("50 °", "° from vertical") == 50 and in_unit("320 K", "°C") == pytest.approx(46.85)
    assert in_unit("12 per kg", "per kg") == 12
