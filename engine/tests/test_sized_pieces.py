"""Sizes by calculation against the closed forms of beams, and against each other."""

from dataclasses import replace
from math import pi, sqrt

import numpy as np
import pytest

from hewel_engine.processes import Process
from hewel_engine.strength.sizing import (
    Bent,
    allowed,
    block,
    boss,
    greatest_load,
    plate,
    rib_pitch,
    ribbed,
    sized,
    solved,
    under,
    ways,
    whole_lines,
)
from hewel_engine.walls.lines import Comb

P = Process()
COMB = Comb.of(P)
X, UP = np.array([1.0, 0, 0]), np.array([0, 0, 1.0])
FLAT = allowed(P, X, UP, 2.0)
ARM = Bent("arm", 60.0, 20.0, 30.0)
PANEL = Bent("panel", 100.0, 40.0, 50.0, sag=1.0)


def test_along_the_layers_and_across_them_different_strengths_are_allowed():
    stock = P.stock
    assert FLAT.stress == pytest.approx(stock.x_t / 2, rel=1e-6) and FLAT.lean == pytest.approx(0)
    skin = allowed(P, X, UP, 2.0, normal=UP)
    assert skin.stress == pytest.approx((stock.x_t + stock.readings["x_a"].value) / 4), "of a plate that lies"
    assert allowed(P, X, UP, 2.0, normal=np.array([0, 1.0, 0])).stress == FLAT.stress
    across = allowed(P, UP, UP, 2.0)
    assert across.stress == pytest.approx(stock.z_t / 2, rel=1e-6) and across.mode == "interlayer_tension"
    assert (FLAT.stiffness, across.stiffness) == pytest.approx((stock.e_xy, stock.e_z))
    half = allowed(P, X + UP, UP, 1.0)
    assert half.stress == pytest.approx(1 / sqrt((0.5 / stock.z_t) ** 2 + (0.5 / stock.z_s) ** 2), rel=1e-6)
    turned = allowed(P, np.array([0, 3.0, 0]), np.array([0, -2.0, 0]), 2.0)
    assert turned.stress == pytest.approx(across.stress)


def test_an_arm_of_whole_lines_is_solved_for_its_load():
    made = solved(ARM, FLAT, P, lambda t: plate(20.0, max(t, 1e-3)))
    exact = sqrt(6 * 30 * 60 / (20 * FLAT.stress))
    assert made.size == pytest.approx(exact, abs=1e-3) and made.governs == "strength"
    assert made.reserve == pytest.approx(1.0, rel=1e-3)
    assert made.gives == pytest.approx(4 * 30 * 60**3 / (FLAT.stiffness * 20 * exact**3), rel=1e-3)
    rounded = ways(ARM, FLAT, P, 3.0)["lines"]
    assert rounded.size == whole_lines(exact, COMB) >= exact and rounded.reserve >= 1


def test_a_panel_that_may_sag_little_is_solved_for_stiffness():
    made = solved(PANEL, FLAT, P, lambda t: plate(40.0, max(t, 1e-3)))
    exact = (5 * 50 * 100**3 * 12 / (384 * FLAT.stiffness * 40 * 1.0)) ** (1 / 3)
    assert made.size == pytest.approx(exact, abs=1e-3) and made.governs == "stiffness"
    assert made.gives == pytest.approx(1.0, rel=1e-3)


def test_a_ribbed_section_is_that_of_its_two_rectangles():
    """Against the sum about the plate's bottom, and a plate twice as thick where rib and plate are one."""
    made = ribbed(40.0, 2.0, 1.5, 10.0, 40.0)
    a1, a2, y1, y2 = 40 * 2.0, 1.5 * 10, 1.0, 7.0
    about_bottom = 40 * 2.0**3 / 3 + 1.5 * 10**3 / 12 + a2 * y2**2
    middle = (a1 * y1 + a2 * y2) / (a1 + a2)
    assert made.second == pytest.approx(about_bottom - (a1 + a2) * middle**2)
    assert made.edge == pytest.approx(12 - middle)
    full = ribbed(40.0, 2.0, 40.0, 2.0, 40.0)
    assert full.second == pytest.approx(plate(40.0, 4.0).second) and full.edge == pytest.approx(2.0)


def test_a_block_is_a_box_with_a_core_by_its_share():
    s = P.shell
    empty = block(20.0, 12.0, replace(P, infill=0.0))
    assert empty.second == pytest.approx((20 * 12**3 - (20 - 2 * s) * (12 - 2 * s) ** 3) / 12)
    assert block(20.0, 12.0, replace(P, infill=1.0)).second == pytest.approx(20 * 12**3 / 12)
    some = block(20.0, 12.0, P)
    assert empty.second < some.second < 20 * 12**3 / 12 and empty.area < some.area < 240


def test_both_schools_carry_the_same_arm_and_say_what_it_costs():
    made = ways(ARM, FLAT, P, 3.0)
    for name in ("lines", "ribs", "block"):
        assert made[name].reserve >= 1 - 1e-6, name
        assert made[name].grams == pytest.approx(made[name].section.area * 60 * 1e-3 * P.stock.density)
        assert made[name].seconds > 0
    assert made["ribs"].grams < made["lines"].grams
    deep = ways(replace(ARM, load=300.0), FLAT, P, 3.0)
    assert deep["ribs"].size > made["ribs"].size and deep["block"].size > made["block"].size


def test_what_is_there_carries_so_much():
    most, ends = greatest_load(ARM, plate(20.0, 3.0), FLAT)
    assert most == pytest.approx(FLAT.stress * 20 * 9 / (6 * 60)) and ends == "strength"
    most, ends = greatest_load(replace(ARM, sag=0.1), plate(20.0, 3.0), FLAT)
    assert most == pytest.approx(0.1 * FLAT.stiffness * 20 * 27 / (4 * 60**3)) and ends == "stiffness"
    assert under(replace(ARM, load=most, sag=0.1), plate(20.0, 3.0), FLAT, P, 3.0).gives == pytest.approx(0.1)


def test_ribs_so_far_apart_that_the_panel_between_gives_its_sag():
    pitch = rib_pitch(2.0, 0.01, 0.2, 2000.0)
    strip = Bent("panel", pitch, 1.0, 0.01 * pitch)
    assert strip.given(2000.0 * plate(1.0, 2.0).second) == pytest.approx(0.2)


def test_a_boss_for_a_pull_has_whole_lines_of_wall():
    may = allowed(P, UP, UP, 2.0)
    out, carries = boss(400.0, 4.0, may, P)
    assert carries >= 400 and carries == pytest.approx(may.stress * pi * (out**2 - 16) / 4)
    lines = [COMB.width(n) for n in range(2, 40)]
    assert min(abs((out - 4) / 2 - w) for w in lines) < 1e-9
    assert boss(4000.0, 4.0, may, P)[0] > out


def test_nothing_carries_more_than_there_is():
    assert solved(replace(ARM, load=1e12), FLAT, P, lambda t: plate(20.0, max(t, 1e-3))) is None
    result = sized(replace(ARM, load=1e12), 3.0, X, UP, 2.0, P)
    assert result["ways"]["lines"] is None and result["ways"]["as_it_is"]["reserve"] < 1


def test_all_that_is_told_of_a_panel():
    result = sized(PANEL, 2.0, X, UP, 2.0, P)
    assert result["rib_pitch_mm"] == pytest.approx(rib_pitch(2.0, 50 / 4000, 1.0, FLAT.stiffness))
    assert result["most_ends"] == "stiffness" and result["ways"]["ribs"]["gives_mm"] <= 1.0
    assert sized(ARM, 2.0, X, UP, 2.0, P)["rib_pitch_mm"] is None
