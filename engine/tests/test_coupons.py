"""Coupons: closed, standing, printable but for what they are there to show; their measures by closed forms."""

import json
from math import acos, cos, pi, sqrt, tan

import numpy as np
import pytest
from manifold3d import Manifold

from hewel_engine.advice.placed_part import PlacedPart
from hewel_engine.cli.main import main
from hewel_engine.edits.solids import mesh_of, sound
from hewel_engine.geometry.features import find_bores
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.rays import RayScene
from hewel_engine.io.reading import take_in
from hewel_engine.processes import Process
from hewel_engine.reckoning.sizes import size_of
from hewel_engine.trials.bodies import FOOT, block, facets_for, standing
from hewel_engine.trials.coupons import ANGLES, BORES, COUPONS, GAPS, SPANS, WALLS, Asked, coupon
from hewel_engine.trials.places import places_of
from hewel_engine.walls.lines import Comb

PROCESS = Process()
ASKED = Asked(PROCESS, 220.0, "", "M4")
SHOWS = ("overhang", "bridge", "clearance_in_place")
"""Those that are there to hang."""


@pytest.fixture(scope="module")
def bodies():
    return {key: coupon(key, PROCESS) for key in COUPONS}


def plan_at(body: Manifold, z: float) -> float:
    return body.slice(z).area()


@pytest.mark.parametrize("key", COUPONS)
def test_a_coupon_is_closed_stands_and_fits_a_bed(bodies, key):
    body = bodies[key]
    low, high = np.array(body.bounding_box()).reshape(2, 3)
    assert sound(body) and mesh_of(body).closed and low[2] == pytest.approx(0, abs=1e-9)
    assert max((high - low)[:2]) <= 220 and (high - low)[2] <= 120
    assert coupon(key, PROCESS, text="II").volume() != pytest.approx(body.volume(), abs=0.5), "a mark is sunk in"
    assert plan_at(body, 0.02) < plan_at(body, FOOT + 0.02) or key in SHOWS, "edges at the plate are chamfered"


@pytest.mark.parametrize("key", [k for k in COUPONS if k not in SHOWS])
def test_it_prints_without_support(bodies, key):
    regions = PlacedPart.after(bodies[key], PROCESS).truth.regions
    assert [(r.kind, r.low) for r in regions if r.needs_support] == []


def test_a_prism_with_its_foot_by_hand():
    body = standing(block(0, 0, 20, 10), 5.0)
    top, low = 200.0, (20 - 2 * FOOT) * (10 - 2 * FOOT)
    middle = (20 - FOOT) * (10 - FOOT)
    assert body.volume() == pytest.approx(top * (5 - FOOT) + FOOT / 6 * (top + 4 * middle + low))


def test_facets_of_a_hole_stand_outside_its_circle():
    for d in (2, 5, 12):
        n = facets_for(d)
        assert n >= pi / acos(1 / (1 + 0.005 / d)) > n - 1
        assert d / 2 / cos(pi / n) - d / 2 <= 0.0026


def test_overhangs_lean_as_they_say(bodies):
    mesh = mesh_of(bodies["overhang"].trim_by_plane((0, 0, 1), 1))  # without the chamfers at the plate
    lean = np.degrees(np.arcsin(np.clip(-mesh.normals[:, 2], -1, 1)))
    for angle in ANGLES:
        area = mesh.areas[np.abs(lean - angle) < 0.05].sum()
        rise = min(20.0, 15 / tan(np.radians(angle)))
        assert area == pytest.approx(4 * 8 * rise / cos(np.radians(angle)), rel=0.02), angle


def test_bridges_walls_and_gaps_have_the_numbers_of_their_names(bodies):
    decks = [r for r in PlacedPart.after(bodies["bridge"], PROCESS).truth.regions if r.kind == "bridge"]
    assert sorted(round(r.span) for r in decks if r.low > 5) == sorted(2 * list(SPANS))
    cut = bodies["walls"].slice(8.0).to_polygons()
    assert sorted(round(float(np.ptp(p[:, 0])), 3) for p in cut) == pytest.approx(sorted(WALLS))
    loose = sorted(bodies["clearance_in_place"].decompose(), key=lambda b: -b.volume())[1:]
    assert len(loose) == len(GAPS)
    below = sorted(b.bounding_box()[2] - ASKED.layers(1.6) for b in loose)
    assert below == pytest.approx(sorted(ASKED.layers(g) for g in GAPS))


@pytest.mark.parametrize(("key", "times"), [("bores", 1), ("bores_lying", 2)])
def test_bores_are_found_again(bodies, key, times):
    mesh = mesh_of(bodies[key])
    found = [b for b in find_bores(mesh, RayScene(mesh)) if b.diameter < 13]
    sizes = sorted(round(b.diameter, 1) for b in found if any(abs(b.diameter - d) < 0.06 for d in BORES))
    assert sizes == sorted(times * [float(d) for d in BORES])
    if times == 2:
        heights = {round(b.diameter): b.centre[2] for b in found}
        assert all(heights[d] >= d for d in BORES)


def test_waists_have_their_sections(bodies):
    assert mesh_of(bodies["tensile_x"]).volume > 0
    flat = bodies["tensile_x"].trim_by_plane((1, 0, 0), -5).trim_by_plane((-1, 0, 0), -5)
    chamfers = 2 * FOOT**2 / 2
    assert flat.volume() / 10 == pytest.approx(6 * 4 - chamfers, rel=1e-6)
    assert plan_at(bodies["tensile_z"], 45) == pytest.approx(48) and plan_at(bodies["tensile_z"], 80) == pytest.approx(
        196
    )
    slanted = bodies["tensile_45"]
    way = np.array([1, 0, 1]) / sqrt(2)
    low = slanted.bounding_box()
    middle = np.array([(low[0] + low[3]) / 2, 0, 0]) @ way + (low[5] - low[2]) / 2 / sqrt(2)
    slice_ = slanted.trim_by_plane(tuple(way), middle - 4).trim_by_plane(tuple(-way), -middle - 4)
    waist = max(slice_.decompose(), key=lambda b: b.bounding_box()[5])
    assert waist.volume() / 8 == pytest.approx(24, rel=0.02), "the waist is free of its feet"


def test_arms_are_whole_lines_and_the_insert_is_of_the_table(bodies):
    comb = Comb.of(PROCESS)
    wide = [comb.width(n) for n in range(1, 9)]
    arms = [float(np.ptp(p[:, 0])) for p in bodies["snap"].trim_by_plane((0, 1, 0), 30).slice(4.0).to_polygons()]
    assert len(arms) == 3 and all(min(abs(t - w) for w in wide) < 1e-3 for t in arms)
    hole = size_of("heat_set_insert", "M4", "hole_diameter").value
    mesh = mesh_of(bodies["insert"])
    assert sum(abs(b.diameter - hole) < 0.05 for b in find_bores(mesh, RayScene(mesh))) == 2


def test_another_process_makes_another_coupon():
    thick = Process(layer=0.3, width=0.8, inner_width=0.8)
    assert coupon("snap", thick).volume() != pytest.approx(coupon("snap", PROCESS).volume(), rel=1e-3)
    small = coupon("shrink", PROCESS, bed=150)
    assert max(np.ptp(np.array(small.bounding_box()).reshape(2, 3), axis=0)[:2]) <= 150


def run(capsys, *argv):
    code = main(list(argv))
    return code, json.loads(capsys.readouterr().out)


def test_the_verb_writes_it_and_says_no_in_words(capsys, tmp_path):
    out = tmp_path / "bar.stl"
    code, told = run(capsys, "coupon", "tensile_z", "-o", str(out), "--json")
    assert code == 0 and told["verb"] == "coupon" and told["coupon"] == "tensile_z"
    mesh: Mesh = take_in(out.read_bytes(), "auto").mesh
    assert mesh.closed and mesh.volume == pytest.approx(told["volume_mm3"], rel=1e-5)
    assert take_in(out.read_bytes(), "auto").warnings == []
    for argv, words in (
        (("coupon", "unicorn", "-o", str(out)), "no coupon unicorn"),
        (("coupon", "snap"), "a file to go to"),
        (("coupon", "shrink", "-o", str(out), "--bed", "20,20,20"), "holds no coupon"),
        (("coupon", "insert", "-o", str(out), "--size", "M7"), "no insert M7"),
    ):
        code, told = run(capsys, *argv)
        assert code == 2 and words in told["error"]["message"]


MOUTHS = ("bores", "bores_lying", "clearance", "clearance_in_place", "insert")
"""Measured in the middle of a hole."""


@pytest.mark.parametrize("key", sorted(COUPONS))
def test_where_a_coupon_is_measured_lies_on_it(key):
    """A place beside the body shows nobody where to measure."""
    mesh = mesh_of(coupon(key, Process()))
    ways = np.random.default_rng(1).normal(size=(400, 3))
    ways /= np.linalg.norm(ways, axis=1, keepdims=True)
    rays = RayScene(mesh)
    for place in places_of(key, Process()):
        near = float(np.nanmin(rays.distances(np.tile(place, (400, 1)), ways)))
        assert near < (8.0 if key in MOUTHS else 1.5), place
