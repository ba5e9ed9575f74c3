"""From stress to reserve: sections, knock-downs, and the whole way by closed forms."""

import json
from dataclasses import replace

import manifold3d as m3
import meshio
import numpy as np
import pytest
from shapes import box, mesh_of, rod, rotation

from hewel_engine.cli.main import main
from hewel_engine.errors import InputError
from hewel_engine.geometry.frames import sphere_directions
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.geometry.voxels import filled
from hewel_engine.io.stl import write_stl
from hewel_engine.loads.cases import read_loads
from hewel_engine.materials import MATERIALS
from hewel_engine.parts.facts import facts_of
from hewel_engine.processes import Process
from hewel_engine.strength import material_field
from hewel_engine.strength.allowables import (
    Circumstances,
)
from hewel_engine.strength.explorer import explored
from hewel_engine.strength.fasteners import fasteners, pressed
from hewel_engine.strength.fixes import fixes
from hewel_engine.strength.reserves import critical_points, demand, field, plate_of, reserves, sectioned, sections_of
from hewel_engine.strength.statics import perforated, section_of
from hewel_engine.strength.stock import Service, beside
from hewel_engine.strength.stressing import stressed
from hewel_engine.strength.submodels import looked_closely, unresolved

UPS = sphere_directions()


# --------------------------------------------------------------------------- sections


def test_sections_by_hand():
    circle = section_of(m3.CrossSection.circle(5, 512).translate((3, -7)))
    assert circle.area == pytest.approx(np.pi * 25, rel=1e-3) and circle.centre == pytest.approx([3, -7])
    assert circle.xx == pytest.approx(np.pi * 625 / 4, rel=1e-3) == circle.yy
    assert circle.shear_factor == pytest.approx((4 / 3, 4 / 3), rel=1e-3)
    assert circle.torsion == pytest.approx(np.pi * 625 / 2, rel=2e-3)
    assert circle.twist / circle.torsion == pytest.approx(2 / (np.pi * 125), rel=0.01)
    strip = section_of(m3.CrossSection.square((40, 2), True))
    assert strip.xx == pytest.approx(2 * 40**3 / 12) and strip.yy == pytest.approx(40 * 8 / 12)
    assert strip.shear_factor == pytest.approx((1.5, 1.5))
    assert strip.torsion == pytest.approx(40 * 8 / 3 * (1 - 0.63 * 2 / 40), rel=0.015)
    assert strip.twist / strip.torsion == pytest.approx(3 / (40 * 4), rel=0.1)
    square = section_of(m3.CrossSection.square((10, 10), True).rotate(33))
    assert square.torsion == pytest.approx(0.1406e4, rel=0.01)
    assert square.twist / square.torsion == pytest.approx(4.81e-3, rel=0.04)
    assert abs(square.xy) < 1e-6 and square.xx == pytest.approx(1e4 / 12)
    for inner, rel in ((4.5, 0.01), (2.5, 0.03)):
        ring = section_of(m3.CrossSection.circle(5, 512) - m3.CrossSection.circle(inner, 512))
        polar = np.pi / 2 * (5**4 - inner**4)
        assert ring.torsion == pytest.approx(polar, rel=rel)
        assert ring.twist / ring.torsion == pytest.approx(5 / polar, rel=0.03)
    tube = section_of(m3.CrossSection.square((10, 10), True) - m3.CrossSection.square((8, 8), True))
    assert tube.torsion == pytest.approx(9**4 / 9, rel=0.1)
    assert tube.twist / tube.torsion == pytest.approx(1.2 / (2 * 81), rel=0.02)  # a line from a sharp inner corner


def test_a_core_counts_by_its_share():
    plan, core = m3.CrossSection.square((10, 10), True), m3.CrossSection.square((6, 8), True)
    got = section_of(plan, core, 0.04)
    assert got.area == pytest.approx(100 - 0.96 * 48) and got.xx == pytest.approx((1e4 - 0.96 * 8 * 216) / 12)


TOP = {"plane": {"point": [0, 0, 50], "normal": [0, 0, 1]}}
BAR = {
    "fixed": [{"on": {"plane": {"point": [0, 0, -50], "normal": [0, 0, -1]}}}],
    "cases": [
        {"name": "push", "loads": [{"on": TOP, "force_n": [10, 0, 0]}]},
        {"name": "pull", "loads": [{"on": TOP, "force_n": [0, 0, 900]}]},
        {"name": "twist", "loads": [{"on": TOP, "moment_nmm": [0, 0, 800]}]},
    ],
}
SOLID = Process(infill=1.0)


@pytest.fixture(scope="module")
def bar():
    """A square bar 10 × 12 × 100, standing, held at its foot."""
    return stressed(mesh_of(box(10, 12, 100)), None, read_loads(BAR), SOLID, voxel_count=12_000, solid=True)


def test_the_ledger_of_a_bar(bar):
    rows = sections_of(bar, sectioned(bar.mesh, np.array([0, 0, 1.0]), replace(SOLID, layer=0.5)))
    push = [r for r in rows if r["case"] == "push"]
    assert len(push) == 200 and all(r["area_mm2"] == pytest.approx(120) for r in push)
    for r in push[::20]:
        moment = 10 * (100 - r["z_mm"])
        assert r["bending_nmm"] == pytest.approx(moment, abs=1) and r["shear_n"] == pytest.approx(10, abs=1e-3)
        assert r["sigma_max_mpa"] == pytest.approx(moment * 5 / (12 * 1000 / 12), rel=1e-3, abs=5e-3)
        assert r["tau_max_mpa"] == pytest.approx(1.5 * 10 / 120, rel=1e-2)
    pull, twist = ([r for r in rows if r["case"] == name] for name in ("pull", "twist"))
    assert pull and all(r["normal_force_n"] == pytest.approx(900, abs=0.01) for r in pull)
    assert pull and all(r["sigma_max_mpa"] == pytest.approx(7.5, rel=1e-3) for r in pull)
    assert twist and all(abs(r["torque_nmm"]) == pytest.approx(800, abs=0.1) for r in twist)


def test_sections_and_finite_elements_agree_on_a_bar(bar):
    """Away from the clamp both give M·y/I and N/A, and a torque's shear within the estimate's few per cent."""
    up = np.array([0, 0, 1.0])
    layers = demand(bar, bar.cases[0], MATERIALS["petg"], up, 5.0)
    z = 5.0 * np.arange(len(layers)) + 2.5
    hand = 10 * (100 - z + 2.5) * 5 / 1000 / 28  # the fibre at the layer's lower side; I = 12·10³/12
    assert layers[2:18] == pytest.approx(hand[2:18], rel=0.06, abs=0.005)
    push, pull, twist = reserves(bar, MATERIALS["petg"], up)
    assert push.mode == "interlayer_tension" and push.z < 8 and push.reserve == pytest.approx(28 / 5, rel=0.1)
    assert pull.mode == "interlayer_tension" and pull.reserve == pytest.approx(28 / 7.5, rel=0.12)
    assert twist.mode == "interlayer_shear" and twist.reserve == pytest.approx(
        20 / (800 / (0.2193 * 12 * 100)), rel=0.12
    )
    assert "splits between layers" in push.sentence and "“push”" in push.sentence


def test_turning_the_layers_along_the_pull(bar):
    along = reserves(bar, MATERIALS["petg"], np.array([1.0, 0, 0]))[1]
    tilted = reserves(bar, MATERIALS["petg"], np.array([1, 0, 1]) / np.sqrt(2))[1]
    assert along.mode == "in_layer", "skins on its level faces: lines along the pull and across it"
    assert along.reserve == pytest.approx((45 + 28) / 2 / 7.5, rel=0.05)
    assert tilted.mode == "interlayer_mixed"
    assert tilted.reserve == pytest.approx(1 / np.hypot(3.75 / 28, 3.75 / 20), rel=0.12)
    every = field(bar, MATERIALS["petg"], UPS)
    assert every.shape == (3, len(UPS))
    best = UPS[int(np.argmax(every[1]))]
    assert abs(best[2]) < 0.4  # layers along the pull
    here = int(np.argmax(UPS[:, 2]))
    assert every[:, here] == pytest.approx([r.reserve for r in reserves(bar, MATERIALS["petg"], UPS[here])], rel=1e-4)


def test_a_reserve_falls_as_the_load_grows(bar):
    twice = json.loads(json.dumps(BAR))
    for case in twice["cases"]:
        case["factor"] = 2.0
    double = stressed(bar.mesh, None, read_loads(twice), SOLID, voxel_count=12_000, solid=True)
    for up in rotation(3):
        one, two = (reserves(found, MATERIALS["petg"], up) for found in (bar, double))
        assert [r.reserve for r in two] == pytest.approx([r.reserve / 2 for r in one], rel=1e-4)


def turned_loads(turn):
    result = json.loads(json.dumps(BAR))
    regions = [result["fixed"][0]["on"]] + [c["loads"][0]["on"] for c in result["cases"]]
    for region in regions:
        for key in ("point", "normal"):
            region["plane"][key] = (turn @ region["plane"][key]).tolist()
    for case in result["cases"]:
        for key in ("force_n", "moment_nmm"):
            if key in case["loads"][0]:
                case["loads"][0][key] = (turn @ case["loads"][0][key]).tolist()
    return read_loads(result)


@pytest.mark.parametrize(("seed", "rel"), [(None, 1e-3), (4, 0.1), (6, 0.1)])
def test_turning_part_loads_and_direction_together_changes_nothing(bar, seed, rel):
    """A quarter turn keeps the grid: then to rounding. Askew the grid cuts the part otherwise: to what it resolves."""
    turn = np.array([[0, 0, 1.0], [1, 0, 0], [0, 1, 0]]) if seed is None else rotation(seed)
    mesh = Mesh(bar.mesh.vertices @ turn.T, bar.mesh.faces)
    found = stressed(mesh, None, turned_loads(turn), SOLID, voxel_count=12_000, solid=True)
    for up in ([0, 0, 1.0], [1.0, 0, 0], [0.6, 0, 0.8]):
        here, there = reserves(bar, MATERIALS["petg"], np.array(up)), reserves(found, MATERIALS["petg"], turn @ up)
        assert [r.reserve for r in there] == pytest.approx([r.reserve for r in here], rel=rel)


# --------------------------------------------------------------------------- walls, skins, core


def test_the_fabric_weighs_what_the_lines_weigh():
    mesh, process = mesh_of(box(40, 30, 20)), Process()
    voxels = filled(mesh, 0.5)
    wall = process.width + 2 * process.spacing
    full = 1e9 / process.stock.density
    core = (40 - 2 * wall) * (30 - 2 * wall) * (20 - 2 * 4 * 0.2)
    sectioned = material_field.layered(mesh, voxels, process, np.array([0, 0, 1.0]))
    assert sectioned.mass.sum() * full == pytest.approx(24000 - 0.8 * core, rel=0.01)
    lying = material_field.layered(mesh, voxels, process, np.array([1.0, 0, 0]))
    core = (40 - 8 * 0.2) * (30 - 2 * wall) * (20 - 2 * wall)
    assert lying.mass.sum() * full == pytest.approx(24000 - 0.8 * core, rel=0.01)
    all_round = material_field.screening(mesh, voxels, process)
    core = (40 - 2 * wall) * (30 - 2 * wall) * (20 - 2 * wall)
    assert all_round.mass.sum() * full == pytest.approx(24000 - 0.8 * core, rel=0.01)
    assert material_field.solid(voxels, process).mass.sum() * full == pytest.approx(24000, rel=1e-5)
    assert sectioned.stiffness.min() == pytest.approx(0.2**2, rel=1e-5)  # the core: φ^m
    assert sectioned.relief.min() == pytest.approx(0.2**0.5, rel=1e-5)


def test_more_perimeters_carry_more():
    mesh = mesh_of(box(20, 20, 60))
    loads = read_loads(json.loads(json.dumps(BAR).replace("50", "30")))
    found = [
        stressed(mesh, None, loads, Process(perimeters=n, infill=f), voxel_count=20_000, up=np.array([0, 0, 1.0]))
        for n, f in ((2, 0.2), (4, 0.2), (4, 1.0))
    ]
    thin, thick, full = (reserves(f, MATERIALS["petg"], np.array([0, 0, 1.0]))[0].reserve for f in found)
    assert thin < thick < full


def test_perimeters_against_infill():
    """On a short bar under bending: both carry more with more of either, and the mass is that of the lines."""
    mesh, process = mesh_of(box(20, 20, 40)), Process(layer=0.4, top_bottom=2)
    loads = read_loads(json.loads(json.dumps(BAR).replace("50", "20")))
    up = np.array([0, 0, 1.0])
    pairs = list(explored(mesh, None, loads, process, up, Circumstances(), 1.0, (2, 5), (0.1, 1.0), 6000))
    assert [(p.perimeters, p.infill) for p in pairs] == [(2, 0.1), (2, 1.0), (5, 0.1), (5, 1.0)]
    thin, full, thick, full_too = pairs
    assert thin.reserve < thick.reserve < full.reserve == pytest.approx(full_too.reserve, rel=1e-6)
    assert full.mass == pytest.approx(16 * 1.27, rel=1e-4)
    (hollow,) = explored(mesh, None, loads, process, up, Circumstances(), 1.0, (3,), (0.0,), 6000)
    assert 0 < hollow.reserve < full.reserve and hollow.mass < thick.mass
    wall = process.width + 4 * process.spacing
    core = (20 - 2 * wall) ** 2 * (40 - 2 * 2 * 0.4)
    assert thick.mass == pytest.approx((16000 - 0.9 * core) * 1.27e-3, rel=0.02)


def test_a_pair_that_finds_no_rest_is_told_and_the_others_go_on(monkeypatch):
    from hewel_engine.strength import explorer

    mesh, loads = mesh_of(box(20, 10, 10)), read_loads(
        {"fixed": [{"on": {"plane": {"point": [-10, 0, 0], "normal": [-1, 0, 0]}}}],
         "cases": [{"name": "pull", "loads": [{"on": {"plane": {"point": [10, 0, 0], "normal": [1, 0, 0]}},
                                               "force_n": [9, 0, 0]}]}]}
    )  # fmt: skip
    solve = explorer.stressed

    def loose(*given, **more):
        if given[3].infill == 0:
            raise InputError("bad_loads", "It finds no rest.", "Fill it.")
        return solve(*given, **more)

    monkeypatch.setattr(explorer, "stressed", loose)
    up = np.array([0, 0, 1.0])
    none, some = explored(mesh, None, loads, Process(), up, Circumstances(), 1.0, (2,), (0.0, 0.4), 4000)
    assert none.reserve is None and none.case == "It finds no rest." and 0 < none.mass < some.mass
    assert some.reserve > 0 and some.case == "pull"


# --------------------------------------------------------------------------- what cannot be calculated


def test_a_motion_left_free_is_named():
    loads = json.loads(json.dumps(BAR))
    loads["fixed"] = [{"on": {"plane": {"point": [0, 0, -50], "normal": [0, 0, -1]}}, "how": "sliding"}]
    with pytest.raises(InputError, match="slides along") as error:
        stressed(mesh_of(box(10, 12, 100)), None, read_loads(loads), SOLID, voxel_count=2000)
    assert error.value.code == "bad_loads" and "push" in error.value.message
    loads["fixed"] = []
    with pytest.raises(InputError, match="Nothing is held"):
        stressed(mesh_of(box(10, 12, 100)), None, read_loads(loads), SOLID, voxel_count=2000)


# --------------------------------------------------------------------------- fasteners, stock, perforated layers


def test_what_each_bolt_has_to_hold():
    """A bracket on two washers, pulled off its seat: each holds half, and a pull off the middle pries."""
    plate = box(60, 20, 6).translate((0, 0, 3)) + box(6, 20, 24).translate((0, 0, 12))
    washer = lambda x: {
        "on": {"plane": {"point": [0, 0, 6], "normal": [0, 0, 1]}, "name": f"bolt at {x}"},
        "how": "bolted", "washer": {"centre_mm": [x, 0, 6], "outer_mm": 10},
    }  # fmt: skip
    pull = {"on": {"plane": {"point": [0, 0, 24], "normal": [0, 0, 1]}}, "force_n": [0, 0, 100]}
    loads = read_loads({"fixed": [washer(-20), washer(20)], "cases": [{"name": "off", "loads": [pull]}]})
    found = stressed(mesh_of(plate), None, loads, SOLID, voxel_count=12_000, solid=True)
    both = fasteners(found, found.cases[0], list(loads.holds), MATERIALS["petg"], np.array([0, 0, 1.0]))
    assert [f.name for f in both] == ["bolt at -20", "bolt at 20"]
    for bolt in both:
        assert bolt.pull == pytest.approx(50, rel=0.02) and bolt.thickness == pytest.approx(6, abs=0.01)
        assert bolt.through == pytest.approx(50 / (np.pi * 10 * 6), rel=0.02)
        assert bolt.pressure > 50 / (np.pi * 25) and bolt.pressure_limit == pytest.approx(0.4 * 50)
        # Between a hinge and a clamp: the arm of 20 mm less the washer's half, shared with the middle of the plate.
        assert 0.05 * 50 * 20 < bolt.prying < 0.75 * 50 * 20


def test_a_washer_presses_as_a_ring_and_never_pulls():
    """N/A + M/W within the kern; beyond, the force stands on three times its distance from the rim."""
    area = np.pi / 4 * (10**2 - 5.5**2)
    modulus = np.pi * (10**4 - 5.5**4) / 320
    assert pressed(300, 0, 10, area) == pytest.approx(300 / area)
    assert pressed(300, 200, 10, area) == pytest.approx(300 / area + 200 / modulus)
    kern = modulus / area
    assert pressed(300, 300 * kern, 10, area) == pytest.approx(2 * 300 / area), "its other rim is just let go"
    steps = [pressed(300, 300 * off, 10, area) for off in np.linspace(0, 4.5, 60)]
    assert (np.diff(steps) > 0).all() and steps[-1] > 3 * steps[0]
    assert pressed(0, 200, 10, area) == pytest.approx(200 / modulus)


def test_a_bolt_that_lies_in_the_layers_presses_on_them_edgewise():
    plate = box(40, 20, 6).translate((0, 0, 3))
    loads = read_loads({
        "fixed": [{"on": {"plane": {"point": [0, 0, 6], "normal": [0, 0, 1]}}, "how": "bolted",
                   "washer": {"centre_mm": [-12, 0, 6], "outer_mm": 10}}],
        "cases": [{"name": "pull", "loads": [{"on": {"plane": {"point": [0, 0, 0], "normal": [0, 0, -1]}},
                                              "force_n": [0, 0, -50]}]}],
    })  # fmt: skip
    found = stressed(mesh_of(plate), None, loads, SOLID, voxel_count=4_000, solid=True)
    limit = lambda up: (
        fasteners(found, found.cases[0], list(loads.holds), MATERIALS["petg"], np.array(up))[0].pressure_limit
    )
    assert limit([0, 0, 1.0]) == pytest.approx(0.4 * 50) and limit([1.0, 0, 0]) == pytest.approx(0.4 * 55)


def test_the_stock_side_by_side(bar):
    up, around = np.array([0, 0, 1.0]), Circumstances(40.0)
    cases, services = [critical_points(bar, row) for row in bar.cases], [Service() for _ in bar.cases]
    petg, mass, plate = MATERIALS["petg"], 1e6 * bar.mass, plate_of(bar, up)
    rows = beside(cases, services, petg, mass, list(MATERIALS.values()), up, plate, around, 2.0)
    assert [r.reserve for r in rows] == sorted((r.reserve for r in rows), reverse=True) and len(rows) == len(MATERIALS)
    by = {r.key: r for r in rows}
    assert by["petg"].mass == pytest.approx(15.24) and by["pc"].mass == pytest.approx(12 * 1.19)
    assert by["petg"].cost == pytest.approx(15.24e-3 * 22) and by["petg"].heat_margin == 38
    here = min(r.reserve for r in reserves(bar, MATERIALS["petg"], up, 2.0))
    assert by["petg"].reserve == pytest.approx(here * (78 - 40) / 55, rel=1e-3)
    assert by["tpu"].deflection == pytest.approx(by["petg"].deflection * 2000 / 26, rel=1e-6)


def test_layers_that_holes_perforate_together():
    block = box(60, 20, 30).translate((0, 0, 15))
    for x, z in ((-20, 10), (0, 10), (20, 10), (0, 24)):
        block -= rod(40, 4.5, axis="y").translate((x, 0, z))
    upright = LayerStack(mesh_of(block), np.array([0, 1.0, 0]), 0.5)
    (run,) = perforated(upright)
    assert run.holes == 4 and run.low == pytest.approx(0) and run.high == pytest.approx(20)
    assert run.net == pytest.approx(1800 - 4 * np.pi * 4.5**2, rel=0.01) and run.gross == pytest.approx(1800)
    assert perforated(LayerStack(mesh_of(block), np.array([0, 0, 1.0]), 0.5)) == []


# --------------------------------------------------------------------------- what would mend it


@pytest.fixture(scope="module")
def weak():
    """A bar that is pushed until it splits at its foot, printed standing with a sparse core."""
    result = json.loads(json.dumps(BAR))
    result["cases"] = result["cases"][:1]
    result["cases"][0]["factor"] = 9.0
    process = Process(layer=0.4, perimeters=2)
    up, loads = np.array([0, 0, 1.0]), read_loads(result)
    found = stressed(mesh_of(box(10, 12, 100)), None, loads, process, voxel_count=8_000, up=up)
    return found, loads, process, up


def test_fixes_are_calculated_side_by_side(weak):
    found, loads, process, up = weak
    (before,) = reserves(found, process.stock, up)
    assert before.reserve < 1
    on = sectioned(found.mesh, up, process)
    got = {f.key: f for f in fixes(found, on, None, loads, process, UPS[::17], Circumstances())}
    assert {"turn", "perimeters", "neck"} <= set(got)
    turn, more, neck = got["turn"], got["perimeters"], got["neck"]
    best = np.array(turn.numbers["up"])
    assert abs(best[2]) < 0.5 and turn.reserve > 1.3 * before.reserve and turn.mass == 0 and turn.seconds
    assert turn.reserve == pytest.approx(reserves(found, process.stock, best)[0].reserve, rel=1e-4)
    assert more.reserve > before.reserve and more.mass > 0
    assert more.seconds >= 0  # every layer of so small a part waits for cooling as it is
    # Pure bending: as thick as the voxel root of what is missing.
    assert neck.reserve == 1 and neck.numbers["now_mm"] == pytest.approx(10, rel=0.02)
    assert neck.numbers["to_mm"] == pytest.approx(10 * before.reserve ** (-1 / 3), rel=0.02) and neck.mass > 0


def test_nothing_is_fixed_where_nothing_is_felt(weak):
    found, loads, process, up = weak
    none = replace(found, cases=[replace(found.cases[0], stress=0 * found.cases[0].stress)])
    assert fixes(none, sectioned(none.mesh, up, process), None, loads, process, UPS[:3], Circumstances()) == []


# --------------------------------------------------------------------------- a closer look


def test_a_closer_look_reads_the_peak_that_a_coarse_grid_misses():
    wide, bore, thick, force = 60.0, 12.0, 6.0, 3000.0
    mesh = mesh_of(box(140, wide, thick) - rod(40, bore / 2, 128))
    want = (2 + (1 - bore / wide) ** 3) * force / ((wide - bore) * thick)
    result = {
        "fixed": [{"on": {"plane": {"point": [-70, 0, 0], "normal": [-1, 0, 0]}}}],
        "cases": [{"name": "pull", "loads": [
            {"on": {"plane": {"point": [70, 0, 0], "normal": [1, 0, 0]}}, "force_n": [force, 0, 0]}]}],
    }  # fmt: skip
    loads = read_loads(result)
    coarse = stressed(mesh, None, loads, SOLID, voxel_count=20_000, solid=True)
    up = np.array([1.0, 0, 0])
    (before,) = reserves(coarse, MATERIALS["petg"], up)
    assert before.peak["interlayer_tension_mpa"] < 0.88 * want
    fine = looked_closely(coarse, mesh, None, loads, SOLID, [up], [], solid=True)
    (after,) = reserves(fine, MATERIALS["petg"], up)
    assert after.peak["interlayer_tension_mpa"] == pytest.approx(want, rel=0.06)
    assert "closer_look" in [n["code"] for n in fine.notes] and any(n["code"].startswith("peak_") for n in fine.notes)
    # Far from the window nothing was changed.
    far = np.abs(coarse.points.places[:, 0]) > 40
    assert np.array_equal(coarse.cases[0].stress[far], fine.cases[0].stress[np.abs(fine.points.places[:, 0]) > 40])


def loads_on_the_face_round_the_bore(result):
    other = json.loads(json.dumps(result))
    other["cases"][0]["loads"] = [{"on": {"plane": {"point": [0, 0, 3], "normal": [0, 0, 1]}}, "force_n": [0, 0, 5]}]
    return read_loads(other)


def test_a_loaded_bore_is_resolved_or_told():
    mesh = mesh_of(box(60, 30, 6) - rod(20, 4, 64).translate((20, 0, 0)))
    result = {
        "fixed": [{"on": {"plane": {"point": [-30, 0, 0], "normal": [-1, 0, 0]}}}],
        "cases": [{"name": "pull", "loads": [
            {"on": {"cylinder": {"point": [20, 0, 0], "axis": [0, 0, 1], "radius": 4}}, "force_n": [200, 0, 0]}]}],
    }  # fmt: skip
    loads, bores = read_loads(result), facts_of(mesh).bores
    flat = loads_on_the_face_round_the_bore(result)
    assert (
        unresolved(stressed(mesh, None, flat, SOLID, voxel_count=6_000, solid=True), bores) == []
    )  # its wall carries nothing
    found = stressed(mesh, None, loads, SOLID, voxel_count=6_000, solid=True)
    (note,) = unresolved(found, bores)
    assert note["code"] == "under_resolved" and "8 mm" in note["message"]
    looked = looked_closely(found, mesh, None, loads, SOLID, [], bores, solid=True)
    assert not [n for n in looked.notes if n["code"] == "under_resolved"]
    near = lambda f: f.kept & (np.hypot(f.points.places[:, 0] - 20, f.points.places[:, 1]) < 5)
    low, high = (f.cases[0].stress[near(f), 0].max() for f in (found, looked))
    assert high > 1.1 * low


# --------------------------------------------------------------------------- the command line


def run(capsys, *argv):
    code = main([str(a) for a in argv])
    return code, json.loads(capsys.readouterr().out)


def test_strength_by_contract(capsys, tmp_path, monkeypatch):
    monkeypatch.setattr("hewel_engine.strength.stressing.FINE", 4_000)
    part, loads = tmp_path / "bar.stl", tmp_path / "loads.json"
    part.write_bytes(write_stl(mesh_of(box(10, 12, 100))))
    loads.write_text(json.dumps(BAR))
    monkeypatch.setattr("hewel_engine.strength.submodels.ROOM", 5_000)
    base = ["strength", part, "--loads", loads, "--up", "0,0,1", "--solid", "--layer", "0.5", "--json"]
    code, got = run(capsys, *base, "--vtu", tmp_path / "field.vtu")
    assert code == 0 and [c["name"] for c in got["cases"]] == ["push", "pull", "twist"]
    for c in got["cases"]:
        assert {"name", "up", "reserve", "mode", "stress_mpa", "at_mm", "z_mm", "peak", "deflection_mm"} <= set(c)
        assert set(c["peak"]) == {"interlayer_tension_mpa", "interlayer_shear_mpa", "in_layer_mpa", "von_mises_mpa"}
    row = {"case", "z_mm", "area_mm2", "normal_force_n", "bending_nmm", "shear_n", "sigma_max_mpa", "tau_max_mpa"}
    assert row <= set(got["sections"][0]) and got["excluded_mm"]["held"] > 0
    field_ = meshio.read(tmp_path / "field.vtu")
    stress = field_.cell_data["pull: stress, MPa"][0]
    z = field_.points[field_.cells[0].data].mean(axis=1)[:, 2]
    assert stress[np.abs(z) < 20, 2] == pytest.approx(7.5, rel=0.02)
    corners = field_.points[field_.cells[0].data[0]]  # the format's own order: a positive volume
    assert np.linalg.det(corners[[1, 3, 4]] - corners[0]) == pytest.approx(got["voxel_mm"] ** 3)
    assert np.allclose(corners[6] - corners[0], got["voxel_mm"])
    moved = field_.point_data["push: displacement, mm"]
    assert np.linalg.norm(moved, axis=1).max() == pytest.approx(got["cases"][0]["deflection_mm"])
    code, less = run(capsys, *base, "--factor", "2", "--bond", "0.8", "--sustained", "0.5", "--temperature", "50.5")
    first, second = (g["cases"][1]["reserve"] for g in (got, less))
    assert second == pytest.approx(first * 0.8 * 0.5 * 0.5 / 2, rel=1e-3)
    for words in (["--vtu", tmp_path / "no" / "such"], ["--bond", "1.5"], ["--factor", "0"], ["--bond", "x"]):
        code, got = run(capsys, *base, *words)
        assert code == 2 and got["error"]["code"] == "bad_options"
    code, got = run(capsys, "strength", part, "--up", "0,0,1")
    assert code == 2 and got["error"]["code"] == "bad_options" and "--loads" in got["error"]["hint"]
