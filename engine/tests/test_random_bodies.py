"""Bodies made by chance from a fixed seed: what must hold for every solid, however it looks."""

import manifold3d as m3
import numpy as np
import pytest
import shapely
from shapes import box, mesh_of, rod, rotation

from hewel_engine.geometry.mending import count_bodies, mended, winding_number
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.plans import as_polygons
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.io.exports import standing
from hewel_engine.overhangs.layers import hanging
from hewel_engine.overhangs.support import beyond_limit
from hewel_engine.parts.facts import facts_of
from hewel_engine.processes import Process


def body(seed: int) -> Mesh:
    """A few blocks and rods, joined and cut, turned anyhow."""
    chance = np.random.default_rng(seed)
    solid = box(*chance.uniform(15, 40, 3))
    for _ in range(4):
        tool = (
            box(*chance.uniform(4, 25, 3))
            if chance.random() < 0.5
            else rod(chance.uniform(5, 50), chance.uniform(2, 9), 24)
        )
        turn = np.hstack([rotation(int(chance.integers(1 << 30))), chance.uniform(-15, 15, (3, 1))])
        tool = tool.transform(turn)
        solid = solid + tool if chance.random() < 0.6 else solid - tool
    return mesh_of(max(solid.decompose(), key=m3.Manifold.volume))


SEEDS = range(12)


@pytest.mark.parametrize("seed", SEEDS)
def test_a_sound_body_is_left_as_it_is(seed):
    part = body(seed)
    again, notes = mended(part.triangles)
    assert notes == []
    assert again.closed
    assert again.volume == pytest.approx(part.volume)
    assert again.centre_of_mass == pytest.approx(part.centre_of_mass)
    assert count_bodies(again) == 1


@pytest.mark.parametrize("seed", SEEDS)
def test_layers_add_up_to_the_solid(seed):
    part = body(seed)
    stack = LayerStack(part, rotation(seed + 100)[2], 0.05)
    area = stack.integrals[:, 0]
    assert area.sum() * 0.05 == pytest.approx(part.volume, rel=2e-3)
    for k in range(7, stack.count, 40):
        outline = as_polygons(stack.plan(k))
        assert outline.is_valid
        assert outline.area == pytest.approx(area[k], abs=5e-3)
        centre = stack.integrals[k, 1:3] / area[k]
        assert (outline.centroid.x, outline.centroid.y) == pytest.approx(tuple(centre), abs=1e-3)


@pytest.mark.parametrize("seed", SEEDS)
def test_a_point_is_inside_a_layer_when_the_solid_winds_round_it(seed):
    part = body(seed)
    stack = LayerStack(part, rotation(seed + 200)[2], 0.5)
    k = stack.count // 2
    outline = as_polygons(stack.plan(k))
    height = stack.first + k * stack.pitch
    chance = np.random.default_rng(seed)
    low, high = stack.points[:, :2].min(axis=0), stack.points[:, :2].max(axis=0)
    triangles = stack.points[part.faces]
    for x, y in chance.uniform(low, high, (25, 2)):
        if outline.boundary.distance(shapely.Point(x, y)) < 1e-3:
            continue
        around = winding_number(np.array([x, y, height]), triangles)
        assert outline.contains(shapely.Point(x, y)) == (around > 0.5)


@pytest.mark.parametrize("seed", SEEDS)
def test_facts_and_regions_do_not_depend_on_the_frame(seed):
    part = body(seed)
    turn = rotation(seed + 300)
    moved = part.moved(turn, np.array([60.0, -20, 5]))
    here, there = facts_of(part), facts_of(moved)
    assert [round(b.diameter, 3) for b in here.bores] == [round(b.diameter, 3) for b in there.bores]
    assert [f.area for f in here.flats] == pytest.approx([f.area for f in there.flats])
    up = rotation(seed + 400)[2]

    def count(mesh, b):
        found = hanging(LayerStack(mesh, b, 0.4), Process(), beyond_limit(mesh, b, Process().limit))
        return [r.island for r in found].count(True)

    assert count(part, up) == count(moved, turn @ up)


@pytest.mark.parametrize("seed", SEEDS)
def test_what_goes_out_is_the_same_solid_on_the_plate(seed):
    part = body(seed)
    out = standing(part, rotation(seed + 500)[1])
    assert out.box[0] == pytest.approx([0, 0, 0], abs=1e-9)
    assert out.volume == pytest.approx(part.volume)
    assert out.areas == pytest.approx(part.areas)
