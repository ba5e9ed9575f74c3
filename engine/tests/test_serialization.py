"""What is kept of a solution must tell the same as the solution: reserves, demand, motion, a field to draw."""

import json
from dataclasses import replace

import numpy as np
import pytest
from shapes import box, mesh_of, rod

from hewel_engine.geometry.frames import sphere_directions
from hewel_engine.io.packing import pack_field
from hewel_engine.loads.cases import read_loads
from hewel_engine.materials import MATERIALS
from hewel_engine.processes import Process
from hewel_engine.strength.allowables import Circumstances
from hewel_engine.strength.batches import reserves_by_weld
from hewel_engine.strength.criterion import Strengths, indices
from hewel_engine.strength.guess import compared
from hewel_engine.strength.lines import Lie
from hewel_engine.strength.reserves import (
    CriticalPoints,
    LayerWelds,
    allowed,
    critical_points,
    field,
    kept_back,
    plate_of,
    reserve_of,
    reserves,
    sectioned,
    worst_in_layers,
)
from hewel_engine.strength.serialization import Movement, all_directions, decisive, field_of, serialized, unpacked
from hewel_engine.strength.stressing import in_service, stressed
from hewel_engine.strength.volume import volume_of

UP = np.array([0, 0, 1.0])
END = {"plane": {"point": [0, 0, 60], "normal": [0, 0, 1]}}
LOADS = {
    "fixed": [{"on": {"plane": {"point": [0, 0, 0], "normal": [0, 0, -1]}}}],
    "cases": [
        {"name": "push", "loads": [{"on": END, "force_n": [60, 0, 0]}]},
        {"name": "jolt", "nature": "shock", "loads": [{"on": END, "force_n": [0, 0, 700]}]},
    ],
}
PROCESS = Process(infill=1.0, layer=0.5)
STOCK = list(MATERIALS.values())


@pytest.fixture(scope="module")
def post():
    """A post 12 × 12 × 60 with a bore across it, held at its foot."""
    solid = box(12, 12, 60).translate((0, 0, 30)) - rod(40, 2.5, axis="y").translate((0, 0, 40))
    return stressed(mesh_of(solid), None, read_loads(LOADS), PROCESS, voxel_count=15_000)


@pytest.fixture(scope="module")
def result(post):
    tip = Movement((0, 0, 60), (1, 0, 0))
    return json.loads(
        json.dumps(serialized(post, PROCESS, sectioned(post.mesh, UP, PROCESS), list(read_loads(LOADS).holds), [tip]))
    )


@pytest.mark.parametrize("bound", ["value", "low", "high"])
@pytest.mark.parametrize("material", STOCK, ids=lambda m: m.key)
def test_the_points_kept_tell_what_all_points_tell(post, result, material, bound):
    for row, case in zip(reserves(post, material, UP, 2.0, bound), result["cases"], strict=True):
        factors = post.cases[0].factors
        kept = reserve_of(
            unpacked(case["felt"]), UP, result["plate_mm"], allowed(material, factors, bound), kept_back(factors, 2.0)
        )
        assert kept.reserve == pytest.approx(row.reserve, rel=1e-4)
        assert (kept.mode, kept.at) == (row.mode, pytest.approx(row.at, abs=1e-3))
        assert kept.z == pytest.approx(row.z, abs=1e-3) and kept.deflection == pytest.approx(row.deflection)


def test_every_layer_demands_what_its_worst_point_does(post, result):
    for row, case in zip(reserves(post, PROCESS.stock, UP), result["cases"], strict=True):
        demand = np.array(case["demand"])
        assert len(demand) == 120 and demand.max() == pytest.approx(1 / row.reserve, rel=1e-4)
        assert demand[int(row.z / 0.5)] == demand.max() and demand[int(row.z / 0.5) + 6] < demand.max()
    push = result["cases"][0]
    by_section = np.array(push["by_section"])
    z = 0.25 + 0.5 * np.arange(120)
    hand = 60 * (60 - z) * 6 / (12**4 / 12) / 28  # M·c/I over Z_t: the fibre where it pulls
    assert by_section[20:60] == pytest.approx(hand[20:60], rel=0.03)
    assert np.array(push["demand"])[20:60] == pytest.approx(hand[20:60], rel=0.08)
    assert push["sections"]["bending_nmm"][0] == pytest.approx(60 * (60 - 0.25), rel=1e-3)


def test_a_point_moves_as_timoshenko_says():
    """A plain post: F·L³/(3EI) + F·L/(κGA)."""
    end = {"plane": {"point": [0, 0, 120], "normal": [0, 0, 1]}}
    push = {"name": "push", "loads": [{"on": end, "force_n": [6, 0, 0]}]}
    loads = read_loads({"fixed": LOADS["fixed"], "cases": [push]})
    plain = stressed(mesh_of(box(12, 12, 120).translate((0, 0, 60))), None, loads, PROCESS, voxel_count=17_280)
    tip = (0, 0, 120)
    result = serialized(
        plain, PROCESS, sectioned(plain.mesh, UP, PROCESS), [], [Movement(tip, (1, 0, 0)), Movement(tip, (0, 1, 0))]
    )
    along, beside = result["cases"][0]["moved_mm"]
    e, g = 2000, 2000 / (2 * 1.38)
    assert along == pytest.approx(6 * 120**3 / (3 * e * 12**4 / 12) + 6 * 120 / (5 / 6 * g * 144), rel=0.025)
    assert abs(beside) < 0.01 * along


def test_the_points_of_all_directions_serve_those_between(post):
    ups = sphere_directions()
    rows = all_directions(post, PROCESS, ups)
    assert np.array([reserve for reserve, _ in rows]) == pytest.approx(field(post, PROCESS.stock, ups), rel=1e-6)
    rng = np.random.default_rng(5)
    between = rng.normal(size=(200, 3))
    between /= np.linalg.norm(between, axis=1)[:, None]
    factors = [row.factors for row in post.cases]
    kept = field_of([case for _, case in rows], PROCESS.stock, factors, between)
    true = field(post, PROCESS.stock, between)
    assert (kept >= true * (1 - 1e-5)).all() and kept == pytest.approx(true, rel=0.02)
    assert rows and all(len(case.places) < 1500 for _, case in rows)


def test_knock_downs_are_put_on_afterwards(post):
    loads, around = read_loads(LOADS), Circumstances(45.0)
    served = in_service(post, loads, PROCESS.stock, around)
    asked = stressed(post.mesh, None, loads, PROCESS, around, voxel_count=15_000)
    for a, b in zip(reserves(served, PROCESS.stock, UP), reserves(asked, PROCESS.stock, UP), strict=True):
        assert a.reserve == pytest.approx(b.reserve, rel=1e-6)
    assert reserves(served, PROCESS.stock, UP)[0].reserve == pytest.approx(
        reserves(post, PROCESS.stock, UP)[0].reserve * (78 - 45) / 55, rel=1e-6
    )


def test_the_field_to_draw_holds_the_worst_place(post):
    grid, values = volume_of(post, PROCESS.stock, UP)
    for cells, row in zip(values, reserves(post, PROCESS.stock, UP), strict=True):
        assert cells.max() == pytest.approx(1 / row.reserve, rel=1e-5)
        x, y, z = np.floor(grid.places(np.array(row.at))).astype(int)
        near = cells[max(z - 1, 0) : z + 2, max(y - 1, 0) : y + 2, max(x - 1, 0) : x + 2]
        assert near.max() == pytest.approx(cells.max())
    # Where nothing was read, in the air beside the part too, the nearest cell's stands; held faces are left out.
    assert values[0, 0].max() == 0 and values[0, 5].min() > 0
    data = pack_field(grid, values)
    x, y, z, cases = np.frombuffer(data, "<u4", 4, 4)
    assert (int(z), int(y), int(x), int(cases)) == (*grid.shape, 2) and len(data) == 44 + x * y * z * 2
    most = np.frombuffer(data, "<f4", 2, 36)
    cells = np.frombuffer(data, np.uint8, int(x * y * z), 44).reshape(z, y, x)
    assert cells / 254.5 * most[0] == pytest.approx(values[0].astype(float), abs=float(most[0]) / 250)


def test_a_fine_grid_is_drawn_coarser(post, monkeypatch):
    monkeypatch.setattr("hewel_engine.strength.volume.ROOM", 2000)
    grid, values = volume_of(post, PROCESS.stock, UP)
    assert np.prod(grid.shape) < 3000 and grid.size > 1.5 * post.size
    assert values[0].max() == pytest.approx(1 / reserves(post, PROCESS.stock, UP)[0].reserve, rel=1e-5)


def test_what_was_expected_beside_what_was_found(post):
    found = reserves(post, PROCESS.stock, UP)[0]
    assert found.mode == "interlayer_tension"
    same = compared("between layers", list(found.at), found, 62.0)
    assert same.way and same.place and same.away == 0
    x, y, z = found.at
    assert compared("between layers", [x + 30, y, z - 2], found, 62.0).away == pytest.approx(2), "one layer, one place"
    lines = replace(found, at=(30, 0, 10), mode="in_layer")
    elsewhere = compared("between layers", [0, 0, 50], lines, 62.0)
    assert not elsewhere.way and not elsewhere.place and elsewhere.away == 50
    assert compared("creeps", None, found, 62.0) == type(same)(None, None, None)


def test_the_plate_is_where_the_part_stands(post):
    assert plate_of(post, UP) == pytest.approx(0) and plate_of(post, -UP) == pytest.approx(-60)


@pytest.mark.parametrize("seed", range(4))
def test_no_material_fails_first_at_a_point_that_was_left_out(seed):
    rng = np.random.default_rng(seed)
    stress = rng.normal(size=(2000, 6)) * np.exp(rng.normal(size=(2000, 1)))
    normals = rng.normal(size=(2000, 3))
    normals /= np.linalg.norm(normals, axis=1)[:, None]
    normals[::5] = UP
    case = CriticalPoints(
        "any", rng.normal(size=(2000, 3)), Lie(normals, rng.integers(0, 4, 2000)), stress, 0.0, np.zeros(2000)
    )
    few = decisive(case, UP, np.array([7, -1]))
    assert len(few.places) < 40
    for _ in range(200):
        strength = Strengths(*np.exp(rng.normal(size=6)))
        all_, some = (indices(c.stress, UP, strength, c.lie).worst.max() for c in (case, few))
        assert some == pytest.approx(all_, rel=1e-12)


@pytest.mark.parametrize("seed", range(3))
def test_a_weld_of_its_own_in_every_layer_counts_as_if_all_points_were_kept(post, result, seed):
    """Whatever welds the layers get, the few points that are kept give the reserve that all of them give; and by hand
    layer by layer: the greatest share of any layer over its own weld.
    """
    rng = np.random.default_rng(seed)
    count = len(result["area_mm2"])
    value = np.clip(rng.uniform(0.2, 1.2, count), 0, 1) if seed else np.where(np.arange(count) == count // 2, 0.05, 1.0)
    welds = LayerWelds(value, 0.9 * value, PROCESS.layer)
    for row, kept in zip(post.cases, result["cases"], strict=True):
        every, few = critical_points(post, row), unpacked(kept["felt"])
        least = []
        for case in (every, few):
            strength = allowed(PROCESS.stock, row.factors).times(1.0, welds.at(case, UP, plate_of(post, UP)))
            least.append(reserve_of(case, UP, plate_of(post, UP), strength))
        assert least[1].reserve == pytest.approx(least[0].reserve, rel=1e-4)
        strength = allowed(PROCESS.stock, row.factors)
        used = indices(every.stress, UP, strength, every.lie)
        parting, _ = worst_in_layers(every, used.interlayer, UP, plate_of(post, UP), PROCESS.layer, count)
        rest = np.maximum(used.in_layer, used.compression).max()
        assert 1 / least[0].reserve == pytest.approx(max(rest, (parting / value).max()), rel=1e-6)


def test_a_single_weak_layer_is_where_it_parts(post, result):
    count = len(result["area_mm2"])
    value = np.ones(count)
    value[80] = 0.02
    case, row = unpacked(result["cases"][0]["felt"]), post.cases[0]
    strength = allowed(PROCESS.stock, row.factors).times(1.0, LayerWelds(value, value, PROCESS.layer).at(case, UP, 0.0))
    assert reserve_of(case, UP, 0.0, strength).z == pytest.approx(80.5 * PROCESS.layer, abs=post.size)


def test_reserves_of_many_batches_at_once_are_those_of_each(post, result):
    rng = np.random.default_rng(4)
    count = len(result["area_mm2"])
    weld = rng.uniform(0.3, 1, (6, count))
    cases = [unpacked(c["felt"]) for c in result["cases"]]
    lines = [row.factors for row in post.cases]
    found = reserves_by_weld(cases, PROCESS.stock, lines, 2.0, UP, 0.0, PROCESS.layer, weld, 0.8 * weld)
    for n, of_layers in enumerate(weld):
        rows = []
        for case, own in zip(cases, lines, strict=True):
            share = LayerWelds(of_layers, of_layers, PROCESS.layer).at(case, UP, 0.0)
            strength = allowed(PROCESS.stock, own).times(1.0, share)
            rows.append(reserve_of(case, UP, 0.0, strength, kept_back(own, 2.0)).reserve)
        assert found.reserve[n] == pytest.approx(min(rows)) and found.case[n] == np.argmin(rows)
        assert 0.8 * found.reserve[n] - 1e-9 <= found.low[n] <= found.reserve[n]
    none = reserves_by_weld(cases, PROCESS.stock, lines, 2.0, UP, 0.0, PROCESS.layer, np.ones((1, count)), weld[:1])
    assert none.reserve[0] == pytest.approx(min(r.reserve for r in reserves(post, PROCESS.stock, UP, 2.0)), rel=1e-5)
