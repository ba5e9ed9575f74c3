"""A wall set to another thickness by moving one of its faces: closed forms, what must stay, refusals in words."""

from math import pi

import manifold3d as m3
import numpy as np
import pytest
from shapes import box, mesh_of, rod, rotation
from test_adapting import UP, adapt, good, rework

from hewel_engine.advice.adapting import Bench
from hewel_engine.edits.tools import Impossible
from hewel_engine.geometry.features import find_bores
from hewel_engine.geometry.rays import RayScene
from hewel_engine.processes import Process
from hewel_engine.walls.lines import Comb
from hewel_engine.walls.thickness import thickness_of
from hewel_engine.walls.zones import walls_of

P = Process()
COMB = Comb.of(P)


def rib(thick=1.0, at=(0, 0, 0)) -> m3.Manifold:
    """A rib 30 high and 50 long on a plate of whole lines."""
    plate = box(60, 40, COMB.width(5)).translate((0, 0, COMB.width(5) / 2))
    return (plate + box(50, thick, 30).translate((0, 0, 15))).translate(at)


def step(centre, thickness=None) -> dict:
    return {
        "key": "wall",
        "kind": "wall",
        "centre_mm": list(centre),
        "set": {"thickness_mm": thickness} if thickness else {},
    }


def zone_at(mesh, kind="sound"):
    return next(z for z in walls_of(thickness_of(mesh), COMB).zones if z.kind == kind)


def test_a_rib_with_a_slit_becomes_two_whole_lines():
    found = good(rework(mesh_of(rib()), [step((0, 0, 16))]))
    assert found.unfit == []
    (done,) = found.applied
    assert done.tool.key == "wall" and done.kind == "wall"
    taken = (1.0 - COMB.width(2)) * 50 * (30 - COMB.width(5))
    assert done.removed - done.added == pytest.approx(taken, rel=1e-3)
    assert not any(z.kind == "gap" for z in walls_of(thickness_of(found.mesh), COMB).zones)


def test_a_thickness_set_by_hand_is_what_it_becomes():
    found = good(rework(mesh_of(rib()), [step((0, 0, 16), 1.671)]))
    (done,) = found.applied
    assert done.added == pytest.approx(0.671 * 50 * (30 - COMB.width(5)), rel=1e-3)
    t = thickness_of(found.mesh)
    rib_ = t.counts & (np.abs(t.mesh.normals[:, 1]) > 0.99) & (t.ball < 5)
    assert t.ball[rib_] == pytest.approx(1.671, rel=0.01)
    assert "0.67 mm outward" in done.tool.words and done.as_dict()["was_mm"] == pytest.approx(1.0, rel=1e-3)


def test_every_wrong_wall_is_set_when_it_is_asked_for():
    two = rib(1.0, (0, -8, 0)) + rib(0.6, (0, 8, 0))
    found = good(adapt(two, keys=("wall",)))
    assert [a.tool.key for a in found.applied] == ["wall"] * 2
    assert {z.kind for z in walls_of(thickness_of(found.mesh), COMB).zones} <= {"sound", "heavy"}


@pytest.mark.parametrize("seed", range(6))
def test_turned_anyhow_it_comes_out_the_same(seed):
    turn = rotation(seed)
    part = rib(1.05).transform(np.c_[turn, [4, -3, 9]])
    found = rework(mesh_of(part), [step(turn @ [0, 0, 16] + [4, -3, 9])], turn @ UP)
    assert found.unfit == [] and found.mesh.closed
    (done,) = found.applied
    assert abs(done.removed - done.added) == pytest.approx((1.05 - COMB.width(2)) * 50 * (30 - COMB.width(5)), rel=2e-3)


def test_a_round_wall_moves_along_its_radius_and_a_bore_is_left_as_it_is():
    tube = rod(30, 12, sides=96) - rod(40, 12 - 1.05, sides=96)
    mesh = mesh_of(tube.translate((0, 0, 15)))
    at = zone_at(mesh, "gap").centre
    found = good(rework(mesh, [step(at, 1.671)]))
    assert found.unfit == []
    before, after = (find_bores(m, RayScene(m))[0].diameter for m in (mesh, found.mesh))
    assert after == pytest.approx(before, abs=1e-6), "a pin fits as before"
    (done,) = found.applied
    outer = 12 - 1.05 + 1.671
    assert done.added == pytest.approx(30 * (outer**2 - 12**2) * pi, rel=0.01)


def test_what_cannot_be_is_said_why():
    taper = m3.Manifold.extrude(m3.CrossSection([np.array([[0, 0], [40, 0], [40, 1.2], [0, 0.9]])]), 30)
    mesh = mesh_of(taper)
    zone = max(walls_of(thickness_of(mesh), COMB).zones, key=lambda z: z.area)
    (_, why), = rework(mesh, [step(zone.centre, 2.0)]).unfit  # fmt: skip
    assert "tapers" in why or "go on past it" in why
    (_, why), = rework(mesh_of(rib()), [step((0, 0, 90))]).unfit  # fmt: skip
    assert "No wall is found there" in why
    (_, why), = rework(mesh_of(rib(1.671)), [step((0, 0, 16), 1.671)]).unfit  # fmt: skip
    assert "already" in why
    (_, why), = rework(mesh_of(rib()), [step((0, 0, 16), 80.0)]).unfit  # fmt: skip
    assert "not between" in why


def test_it_is_looked_at_before_it_is_proved():
    bench = Bench.of(mesh_of(rib()), UP, P, [])
    tool, adds, takes = bench.looked_at(step((0, 0, 16), 1.264))
    assert tool.key == "wall" and len(adds) and not len(takes)
    with pytest.raises(Impossible, match="No wall"):
        bench.looked_at(step((0, 0, 90)))
