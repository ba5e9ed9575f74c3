"""Arms of a part: measured from one place, reckoned by their cards, standing and lying."""

from itertools import pairwise
from math import sqrt

import manifold3d as m3
import numpy as np
import pytest
from shapes import box, by_chance, mesh_of, rod, rotation

from hewel_engine.advice.adapting import reworked
from hewel_engine.errors import InputError
from hewel_engine.flexing.sums import Bent, allowed_strain, flex, notch, over
from hewel_engine.geometry.arms import arm_at
from hewel_engine.geometry.rays import RayScene
from hewel_engine.materials import MATERIALS
from hewel_engine.processes import Process
from hewel_engine.reckoning.pins import snap, spring
from hewel_engine.walls.lines import Comb

UP, SIDE = np.array([0.0, 0, 1]), np.array([0.0, 1, 0])
PETG = Process(material="petg")
BASE = box(30, 20, 10).translate((0, 0, -5))
ARM = box(2, 8, 20).translate((0, 0, 10))
CATCH = m3.Manifold.extrude(m3.CrossSection([[(0, 0), (1.5, 0), (0, 4)]]), 8).rotate((90, 0, 0)).translate((1, 4, 16))


def arm_of(solid, point=(-1, 0, 8), normal=(-1, 0, 0), turn=None, shift=(0, 0, 0)):
    turn = np.eye(3) if turn is None else turn
    mesh = mesh_of(solid.transform(np.c_[turn, shift]))
    return arm_at(mesh, RayScene(mesh), turn @ np.array(point, float) + shift, turn @ np.array(normal, float))


@pytest.mark.parametrize("seed", by_chance(1, 10))
def test_an_arm_is_measured_however_it_is_turned(seed):
    turn = rotation(seed)
    arm = arm_of(BASE + ARM + CATCH, turn=turn, shift=(3, -2, 7))
    assert (arm.thickness, arm.width) == (pytest.approx(2, abs=0.01), pytest.approx(8, abs=0.05))
    assert arm.length == pytest.approx(16, abs=0.15) and arm.catch == pytest.approx(1.5, abs=0.06)
    assert abs(arm.along @ (turn @ UP)) > 0.999 and abs(arm.bends @ (turn @ [1, 0, 0])) > 0.999
    assert arm.along @ (turn @ UP) > 0 and arm.radius == 0 and not arm.held_twice


def test_a_taper_a_fillet_and_a_leaf():
    wedge = m3.Manifold.extrude(m3.CrossSection([[(-1, 0), (1, 0), (0, 24), (-1, 24)]]), 6)
    tapered = arm_of(BASE + wedge.rotate((90, 0, 0)).translate((0, 3, 0)))
    assert (tapered.thickness, tapered.thickness_end) == (pytest.approx(2, abs=0.02), pytest.approx(1, abs=0.02))
    round_root = BASE + ARM
    for s in (1, -1):
        round_root += box(2, 8, 2).translate((s * 2, 0, 1)) - rod(20, 2, 64, "y").translate((s * 3, 0, 2))
    held = arm_of(round_root, (-1, 0, 10))
    assert held.radius == pytest.approx(2, rel=0.1) and held.length == pytest.approx(18, abs=0.2)
    leaf = BASE + box(30, 20, 4).translate((0, 0, 26)) + box(1.6, 8, 24).translate((0, 0, 12))
    both = arm_of(leaf, (-0.8, 0, 12))
    assert both.held_twice and both.length == pytest.approx(24, abs=0.1) and both.catch == 0


@pytest.mark.parametrize(
    ("solid", "point", "words"),
    [
        (BASE, (-15, 0, -5), "held nowhere"),
        (ARM, (-1, 0, 8), "held nowhere"),
        (BASE + box(6, 8, 7).translate((0, 0, 3.5)), (-3, 0, 3), "too stout"),
    ],
)
def test_what_is_no_arm_says_so(solid, point, words):
    with pytest.raises(InputError, match=words):
        arm_of(solid, point)


def test_a_broad_short_arm_is_not_taken_for_its_own_width():
    wall = arm_of(box(60, 40, 6).translate((0, 0, -3)) + box(3, 36, 20).translate((0, 0, 10)), (-1.5, 0, 12))
    assert (wall.width, wall.length) == (pytest.approx(36, abs=0.1), pytest.approx(20, abs=0.15))


def test_a_hole_through_what_holds_it_is_no_end_of_an_arm():
    clip = box(30, 18, 24) - box(30, 10, 24).translate((5, 0, 0)) - rod(40, 2.6, 32, "x").translate((-12, 0, 0))
    jaw = arm_of(clip, (4, 9, 0), (0, 1, 0))
    assert (jaw.thickness, jaw.width, jaw.length) == (
        pytest.approx(4, abs=0.02), pytest.approx(24, abs=0.1), pytest.approx(25, abs=0.3)
    )  # fmt: skip
    assert jaw.along @ [1, 0, 0] > 0.999 and not jaw.held_twice


def test_a_face_that_was_moved_inward_is_still_its_arm():
    thin = arm_of(BASE + box(1.2, 8, 20).translate((0.4, 0, 10)), (-1, 0, 8))
    assert thin.thickness == pytest.approx(1.2, abs=1e-3) and thin.root[0] == pytest.approx(0.4, abs=0.01)
    with pytest.raises(InputError, match="any more"):
        arm_of(BASE + box(1.2, 8, 20).translate((6, 0, 10)), (-1, 0, 8))


# ------------------------------------------------------------------ sums


def test_a_snap_that_lies_is_its_card():
    """ε = 1.5·t·y/L² against 0.6 ε_y."""
    arm = arm_of(BASE + ARM + CATCH)
    found = flex(arm, Bent(deflection=1.2), PETG, SIDE)
    (_, strain, *_), _ = snap(arm.length, arm.thickness, arm.width, 1.0, 1.0, 1.2, 2000.0, 0.4, 30.0, 45.0)
    assert found.strain == pytest.approx(strain, rel=1e-3) and found.stands == pytest.approx(0, abs=0.5)
    assert found.allowed == pytest.approx(0.6 * 0.04, rel=1e-3) and found.notch == 1
    assert found.reserve == pytest.approx(0.6 * 0.04 / strain, rel=2e-3) and found.verdict == "holds"
    secant = 2000 / (1 + (2000 * 0.04 / 45 - 1) * strain / 0.04)
    assert found.force == pytest.approx(8 * 2**2 * secant * strain / (6 * arm.length), rel=0.02)


def test_the_same_snap_standing_fails_and_turning_is_what_helps():
    arm = arm_of(BASE + ARM + CATCH)
    standing = flex(arm, Bent(deflection=1.2), PETG, UP)
    assert standing.stands == pytest.approx(90, abs=0.5) and standing.verdict == "fails"
    assert standing.allowed == pytest.approx(0.3 * 28 / 1750, rel=1e-3)
    assert standing.lying > 1 and "stands across its layers" in standing.says[0]
    leaning = flex(arm, Bent(deflection=1.2), PETG, np.array([0.0, np.sin(np.pi / 4), np.cos(np.pi / 4)]))
    assert standing.reserve <= leaning.reserve < flex(arm, Bent(deflection=1.2), PETG, SIDE).reserve


@pytest.mark.parametrize("grade", sorted(MATERIALS))
def test_what_is_allowed_never_rises_as_an_arm_is_stood_up_further_than_where_shear_rules(grade):
    material = MATERIALS[grade]
    rows = [allowed_strain(material, t, False) for t in (0, 15, 30, 45, 90)]
    assert rows[0] == pytest.approx(0.6 * material.yield_strain)
    assert rows[-1] == pytest.approx(min(0.3 * material.z_t / material.e_z, rows[0]))
    assert all(a >= b - 1e-12 for a, b in pairwise(rows[:4]))


def test_what_would_hold_does_hold_when_it_is_drawn():
    """Thickness in whole lines, length, root: put in, each just holds."""
    arm = arm_of(BASE + ARM + CATCH)
    asked = Bent(deflection=1.3, repeated=True)
    found = flex(arm, asked, PETG, SIDE)
    assert found.verdict == "fails" and found.notch == pytest.approx(0.907 * (0.225 / arm.thickness) ** (-1 / 3))
    comb = Comb.of(PETG)
    assert any(found.thickness == pytest.approx(comb.width(k)) for k in range(2, 10))
    thin = flex(arm, Bent(deflection=1.3, repeated=True, thickness=found.thickness), PETG, SIDE)
    assert thin.verdict == "holds"
    long = flex(arm, Bent(deflection=1.3, repeated=True, length=found.length), PETG, SIDE)
    assert 1 < long.reserve < 1.03, "a little to spare"
    assert arm.length / sqrt(found.reserve) < found.length < 1.02 * arm.length / sqrt(found.reserve)
    gentle = flex(arm, Bent(deflection=0.75, repeated=True), PETG, SIDE)
    assert gentle.verdict == "fails" and gentle.radius is not None
    assert flex(arm, Bent(deflection=0.75, repeated=True, radius=gentle.radius), PETG, SIDE).reserve >= 1 - 1e-6


def test_a_leaf_is_a_guided_beam():
    leaf = BASE + box(30, 20, 4).translate((0, 0, 26)) + box(1.6, 8, 24).translate((0, 0, 12))
    arm = arm_of(leaf, (-0.8, 0, 12))
    found = flex(arm, Bent(deflection=0.5), PETG, SIDE)
    (_, _, strain), _ = spring(1, arm.width, arm.thickness, arm.length, 2000.0, 0.5)
    assert found.strain == pytest.approx(strain) and found.mating is None


def test_nothing_to_bend_by_is_said_and_a_steep_catch_locks():
    plain = flex(arm_of(BASE + ARM), Bent(), PETG, SIDE)
    assert plain.reserve == np.inf and "type it" in plain.says[0] and plain.thickness is None
    locked = flex(arm_of(BASE + ARM + CATCH), Bent(angle_out=90), PETG, SIDE)
    assert locked.holding is None and locked.mating > 0 and locked.deflection == pytest.approx(1.5, abs=0.06)
    assert notch(0.2, 2.0, False) == 1 and notch(4.0, 2.0, True) == 1


def test_over_all_directions_it_is_as_in_each_alone():
    arm, asked = arm_of(BASE + ARM + CATCH), Bent(repeated=True)
    ups = np.array([UP, SIDE, [0.6, 0, 0.8], [0, -0.6, 0.8]])
    each = [flex(arm, asked, PETG, up).reserve for up in ups]
    assert over(arm, asked, PETG, ups) == pytest.approx(each)
    assert np.isinf(over(arm_of(BASE + ARM), Bent(), PETG, ups)).all(), "nothing bends it"


# ------------------------------------------------------------------ cures


LYING = box(30, 8, 10).translate((0, 0, -5))
"""A base as wide as the arm on it, so that both lie on the plate."""


def cured(mesh, key, **numbers):
    made = {"key": key, "kind": "fit", "centre_mm": [-1.0, 0.0, 8.0], "axis": [-1.0, 0.0, 0.0], "end_mm": None,
            "on": True, "set": numbers, "may_fill": True}  # fmt: skip
    return reworked(mesh, SIDE, PETG, [], [made])


def test_an_arm_is_made_longer_with_its_catch():
    before = mesh_of(LYING + ARM + CATCH)
    came = cured(before, "lengthened_arm", by_mm=6.0)
    assert came.unfit == [], came.unfit
    place = np.array([-1.0, 0, 8]), np.array([-1.0, 0, 0])
    was, now = (arm_at(mesh, RayScene(mesh), *place) for mesh in (before, came.mesh))
    assert now.length == pytest.approx(was.length + 6, abs=0.05) and now.catch == pytest.approx(was.catch, abs=0.02)
    assert came.mesh.volume - before.volume == pytest.approx(2 * 8 * 6, rel=1e-3)
    asked = Bent(repeated=True)
    assert flex(now, asked, PETG, SIDE).reserve > 1.5 * flex(was, asked, PETG, SIDE).reserve
    wall = LYING + ARM + CATCH + box(4, 8, 60).translate((13, 0, 0)) + box(15, 8, 3).translate((7.5, 0, 24))
    assert "into the part" in cured(mesh_of(wall), "lengthened_arm", by_mm=6.0).unfit[0][1]
    leaf = LYING + ARM + box(30, 8, 4).translate((0, 0, 22))
    assert "both ends" in cured(mesh_of(leaf), "lengthened_arm", by_mm=3.0).unfit[0][1]


def test_a_root_is_rounded_on_both_sides_once():
    before = mesh_of(LYING + ARM)
    came = cured(before, "rounded_root", radius_mm=1.5)
    assert came.unfit == [], came.unfit
    now = arm_at(came.mesh, RayScene(came.mesh), np.array([-1.0, 0, 10]), np.array([-1.0, 0, 0]))
    assert now.radius == pytest.approx(1.5, rel=0.3)
    fillet = (1 - np.pi / 4) * 1.5**2 * 8
    assert 2 * 0.7 * fillet < came.mesh.volume - before.volume < 2 * 1.7 * fillet
    assert "already" in cured(came.mesh, "rounded_root", radius_mm=1.5).unfit[0][1]
