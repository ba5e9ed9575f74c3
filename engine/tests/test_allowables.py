"""From a material's value to what may be used of it: the knock-downs line by line, and what testing bars is worth."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hewel_engine.materials import MATERIALS
from hewel_engine.strength.allowables import (
    UNTESTED,
    Circumstances,
    bound_share,
    cyclic,
    heat,
    knock_downs,
    product,
    strengths,
    tolerance_factor,
)


def test_the_knock_downs_line_by_line():
    petg = MATERIALS["petg"]
    assert knock_downs(petg, "static", None, Circumstances()) == []
    lines = knock_downs(petg, "sustained", None, Circumstances(50.5, scatter=True, bond=0.9))
    assert [(f.key, round(f.value, 4), f.on) for f in lines] == [
        ("sustained", 0.4, "all"), ("heat", 0.5, "all"), ("scatter", 0.65, "all"), ("bond", 0.9, "across"),
    ]  # fmt: skip
    assert product(lines, "all") == pytest.approx(0.13) and product(lines, "across") == 0.9
    (shock,) = knock_downs(petg, "shock", None, Circumstances())
    assert shock.value == 2 and shock.on == "load"
    assert cyclic(1e6) == pytest.approx(0.25) and cyclic(1) == 1 and cyclic(1e3) == pytest.approx(0.625)
    assert heat(23, 78) == 1 and heat(78, 78) == 0 and heat(100, 78) == 0 and heat(10, 78) == 1
    assert [f.key for f in knock_downs(MATERIALS["pa"], "cyclic", 1e5, Circumstances(wet=True))] == ["cyclic", "wet"]
    assert knock_downs(petg, "static", None, Circumstances(wet=True)) == []
    low, high = strengths(petg, "low"), strengths(petg, "high")
    assert low.z_t == pytest.approx(0.4 * 45) and high.z_t == pytest.approx(0.8 * 45) and low.x_t == high.x_t == 45


@settings(max_examples=40, deadline=None)
@given(st.floats(0.1, 1), st.floats(0.1, 1), st.floats(1, 5))
def test_factors_act_where_they_say(bond, sustained, factor):
    s = strengths(MATERIALS["petg"]).times(sustained, bond)
    assert s.z_t == pytest.approx(28 * bond * sustained) and s.x_t == pytest.approx(45 * sustained)
    assert s.z_c == pytest.approx(50 * sustained)


@pytest.mark.parametrize(("count", "k"), [(3, 5.31), (5, 3.40), (10, 2.57), (30, 2.08)])
def test_the_tolerance_factor_is_the_noncentral_t(count, k):
    """The values of the tables for 95 % of parts with 90 % confidence."""
    assert tolerance_factor(count) == pytest.approx(k, abs=0.005)


def test_testing_always_pays():
    """Five bars of usual scatter allow more than no coupon does, and more bars more."""
    shares = [bound_share(n, 0.10) for n in (1, 2, 3, 5, 10, 30, 100)]
    assert shares == sorted(shares) and shares[0] > UNTESTED
    assert 1 - tolerance_factor(5) * 0.10 == pytest.approx(0.66, abs=0.005), "by themselves"
    assert bound_share(1000, 0.10) == pytest.approx(1 - 1.645 * 0.10, abs=0.01)
    assert bound_share(5, 0.30) < bound_share(5, 0.10) < bound_share(5, 0.03)


def test_coupons_count_by_the_number_of_their_bars():
    """Mean − k·s with the prior's 10 %, of the fewest bars; a mean of nobody knows how many proves nothing."""

    def line(*counts):
        request = {"value": 30.0, "origin": "coupon"}
        own = {n: request | {"count": k} for n, k in zip(("x_t", "z_t", "z_s"), counts, strict=False)}
        return knock_downs(MATERIALS["petg"].with_own(own), "static", None, Circumstances(scatter=True))[0]

    assert line(5, 12, 10).value == pytest.approx(bound_share(5, 0.10)) and line(5, 12, 10).origin == "coupon"
    assert "5 bars" in line(5, 12, 10).words and line(5, 5, 30).value < line(10, 10, 30).value < 1
    assert line(30, 30).value == line(30, None, 30).value == UNTESTED and line(30, 30).origin == "handbook"


def test_wet_counts_for_every_nylon():
    for key, counts in (("pa", True), ("pa_cf", True), ("petg", False)):
        keys = [f.key for f in knock_downs(MATERIALS[key], "static", None, Circumstances(wet=True))]
        assert ("wet" in keys) == counts
