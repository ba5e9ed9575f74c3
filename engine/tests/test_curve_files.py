"""Curves out of files: however a stand writes them, the same rows."""

import numpy as np
import pytest

from hewel_engine.errors import InputError
from hewel_engine.trials.curve_files import curve_of, table_of

STROKE, FORCE = [0.0, 0.5, 1.25], [0.0, 120.5, 1234.5]


def written(separator: str, comma: bool, head: str, kilo: bool = False) -> str:
    number = lambda v: f"{v:.4f}".replace(".", ",") if comma else f"{v:.4f}"
    rows = [
        separator.join((number(t), number(s), number(f / 1000 if kilo else f)))
        for t, s, f in zip((0.0, 0.1, 0.2), STROKE, FORCE, strict=True)
    ]
    return "\n".join([head, *rows]) + "\n"


@pytest.mark.parametrize(("text", "units"), [
    (written(",", False, "time,stroke,force"), ("", "")),
    (written(";", True, "Zeit [s];Weg [mm];Kraft [N]"), ("mm", "N")),
    (written("\t", False, "t (s)\tcrosshead (mm)\tload (kN)", kilo=True), ("mm", "kN")),
    (written(";", True, "Run 7;;\nZeit;Weg;Kraft\ns;mm;kN", kilo=True), ("mm", "kN")),
    ("\ufeff" + written("|", False, "a|displacement|Force"), ("", "")),
])  # fmt: skip
def test_the_same_rows_come_of_any_way_of_writing(text, units):
    table = table_of(text)
    assert (table.stroke, table.force) == (1, 2) and (table.units[1], table.units[2]) == units
    stroke, force = curve_of(table, 1, 2, "", "")
    assert stroke == pytest.approx(STROKE) and force == pytest.approx(FORCE)


def test_what_is_not_told_is_asked_for():
    table = table_of(written(",", False, "a,b,c"))
    assert table.stroke is None and table.force is None and table.names == ["a", "b", "c"]
    _, force = curve_of(table, 1, 2, "mm", "kN")
    assert force == pytest.approx(np.array(FORCE) * 1000)


def test_gaps_are_no_numbers():
    table = table_of("s,force\n0,1\n0.1,\n0.2,x\n0.3,4\n")
    assert np.isnan(table.rows[1, 1]) and np.isnan(table.rows[2, 1]) and table.rows[3, 1] == 4


@pytest.mark.parametrize(("text", "says"), [
    ("", "empty"), ("hello\nworld\n", "No row of numbers"), ("1\n2\n3\n", "No row of numbers"),
    (",".join(["1"] * 60) + "\n", "columns"),
])  # fmt: skip
def test_what_is_no_curve_is_said(text, says):
    with pytest.raises(InputError, match=says):
        table_of(text)


def test_columns_and_units_that_cannot_be_are_refused():
    table = table_of(written(",", False, "t,s,f"))
    for stroke, force, unit in ((1, 1, ""), (1, 9, ""), (1, 2, "furlong")):
        with pytest.raises(InputError):
            curve_of(table, stroke, force, unit, "")
