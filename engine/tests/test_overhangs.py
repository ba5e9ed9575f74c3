"""Layer truth against bodies whose answer is known, for two limits, three layer heights, turned and cut finer."""

import json

import manifold3d as m3
import numpy as np
import pytest
from shapes import box, mesh_of, rod, rotation, sphere, torus

from hewel_engine.geometry.features import find_bores
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.rays import RayScene
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.overhangs.findings import finding_of
from hewel_engine.overhangs.support import Drops, beyond_limit
from hewel_engine.overhangs.truth import Overhang, overhangs
from hewel_engine.processes import Process

UP = np.array([0, 0, 1.0])
LIMITS, LAYERS = (45.0, 60.0), (0.1, 0.2, 0.3)


def regions_of(solid, up=UP, bores=False, **process) -> list[Overhang]:
    mesh = solid if isinstance(solid, Mesh) else mesh_of(solid)
    p, up, rays = Process(**process), np.asarray(up, float), RayScene(mesh)
    stack = LayerStack(mesh, up, p.layer)
    return overhangs(stack, p, find_bores(mesh, rays) if bores else [], Drops(mesh, rays, up, p.limit))


def words(found: list[Overhang]) -> list[tuple]:
    return sorted((r.kind, r.needs_support) for r in found)


def cone_tan(angle: float) -> float:
    return float(np.tan(np.radians(angle)))


def on_base(solid: m3.Manifold, height: float) -> m3.Manifold:
    """On a post of radius 4 and 128 sides that stands on the plate, its foot at ``height``."""
    return solid.translate((0, 0, height)) + rod(height + 0.5, 4, 128).translate((0, 0, (height + 0.5) / 2))


def frame() -> m3.Manifold:
    """A lintel over a clear 12 mm."""
    posts = box(12, 10, 20).translate((-12, 0, 10)) + box(12, 10, 20).translate((12, 0, 10))
    return posts + box(36, 10, 4).translate((0, 0, 22))


def shelf() -> m3.Manifold:
    return box(4, 20, 20).translate((0, 0, 10)) + box(12, 20, 4).translate((8, 0, 18))


def mushroom() -> m3.Manifold:
    return on_base(m3.Manifold.cylinder(3, 12, 12, 96), 10)


def steps() -> m3.Manifold:
    """Each tread hangs 0.8 mm out over the one below: less than two lines."""
    return sum((box(20, 10, 2).translate((0.8 * i, 0, 1 + 2 * i)) for i in range(6)), m3.Manifold())


def hanging_pin() -> m3.Manifold:
    return frame() + rod(6, 2).translate((0, 0, 17))


def lattice() -> m3.Manifold:
    """A plate on six walls with 6 mm free between them: short bridges only."""
    walls = sum((box(2, 42, 10).translate((8 * i - 20, 0, 5)) for i in range(6)), m3.Manifold())
    return walls + box(42, 42, 2).translate((0, 0, 11))


CASES = {
    "frame": (frame, [("bridge", False)]),
    "shelf": (shelf, [("ledge", True)]),
    "mushroom": (mushroom, [("ledge", True)]),
    "steps": (steps, [("ledge", False)] * 5),
    "pin": (hanging_pin, [("bridge", False), ("island", True)]),
    "lattice": (lattice, [("bridge", False)] * 5),
}


@pytest.mark.parametrize("layer", LAYERS)
@pytest.mark.parametrize("limit", LIMITS)
@pytest.mark.parametrize("name", CASES)
def test_flat_undersides_at_every_limit_and_layer(name, limit, layer):
    build, expected = CASES[name]
    assert words(regions_of(build(), limit=limit, layer=layer)) == expected


@pytest.mark.parametrize("seed", range(3))
@pytest.mark.parametrize("name", CASES)
def test_turned_and_cut_finer_the_verdicts_are_the_same(name, seed):
    build, expected = CASES[name]
    fine = build().refine(3)
    turn = rotation(seed)
    turned = mesh_of(fine).moved(turn, np.array([3.0, -7.0, 11.0]))
    got = regions_of(turned, turn @ UP)
    assert words(got) == expected
    plain = {(r.kind, round(r.low, 3)): r for r in regions_of(build())}
    for r in got:
        same = plain[r.kind, round(r.low, 3)]
        for field in ("span", "reach"):
            a, b = getattr(r, field), getattr(same, field)
            assert (a is None) == (b is None) and (a is None or a == pytest.approx(b, abs=0.05))


@pytest.mark.parametrize("turn", [17.0, 133.0, 290.0])
def test_turning_about_the_build_direction_changes_nothing(turn):
    for build, expected in CASES.values():
        plain, turned = regions_of(build()), regions_of(build().rotate((0, 0, turn)))
        assert words(turned) == expected
        for a, b in zip(plain, sorted(turned, key=lambda r: (r.kind != "island", r.low)), strict=True):
            assert b.area == pytest.approx(a.area, rel=1e-6) and b.worst == pytest.approx(a.worst)
            assert (b.span or b.reach or 0) == pytest.approx(a.span or a.reach or 0, abs=0.05)


def test_a_lintel_spans_what_is_free():
    (r,) = regions_of(frame())
    assert r.span == pytest.approx(12, abs=0.02) and r.reach is None and r.allowed == 20
    assert r.area == pytest.approx(120) and r.worst == pytest.approx(90) and r.low == pytest.approx(20)
    assert r.centre == pytest.approx([0, 0, 20], abs=1e-6)
    assert r.drop == pytest.approx(20) and not r.over_part and r.support_volume == pytest.approx(2400, rel=1e-3)
    assert {m["key"]: m.get("rise_mm") for m in r.remedies} == {
        "pointed_arch": pytest.approx(6, abs=0.02),
        "corner_chamfers": pytest.approx(1, abs=0.02),
    }


@pytest.mark.parametrize(("limit", "clear"), [(20.0, True), (11.5, False)])
def test_a_bridge_past_the_rough_limit_needs_support(limit, clear):
    (r,) = regions_of(frame(), rough_bridge=limit, clean_bridge=8.0)
    assert r.needs_support is not clear


def test_a_shelf_reaches_out_from_its_wall():
    (r,) = regions_of(shelf())
    assert r.reach == pytest.approx(12, abs=0.02) and r.span is None and r.area == pytest.approx(240)
    assert r.remedies == [{"key": "gusset", "rise_mm": pytest.approx(12, abs=0.02)}]


def test_a_mushroom_reaches_out_all_round():
    (r,) = regions_of(mushroom())
    assert r.reach == pytest.approx(8, abs=0.05)
    assert r.area == pytest.approx(np.pi * (144 - 16), rel=0.01)


@pytest.mark.parametrize("layer", LAYERS)
@pytest.mark.parametrize(("limit", "angle"), [(45.0, 60.0), (45.0, 50.0), (60.0, 66.0), (60.0, 75.0)])
def test_a_cone_beyond_the_limit_reaches_its_whole_width(limit, angle, layer):
    height = 8 / cone_tan(angle)
    cone = on_base(
        m3.Manifold.cylinder(height, 4, 12, 128) + m3.Manifold.cylinder(2, 12, 12, 128).translate((0, 0, height)), 6
    )
    (r,) = regions_of(cone, limit=limit, layer=layer)
    assert r.kind in ("slope", "ledge") and r.needs_support
    assert r.reach == pytest.approx(8, abs=layer * cone_tan(angle) + 0.05)
    assert r.worst == pytest.approx(angle, abs=0.1)
    assert r.kind == ("ledge" if layer * (cone_tan(angle) - cone_tan(limit)) > 0.225 else "slope")


@pytest.mark.parametrize("layer", LAYERS)
@pytest.mark.parametrize("limit", LIMITS)
def test_a_cone_within_the_limit_hangs_nowhere(limit, layer):
    height = 8 / cone_tan(limit - 0.2)
    cone = on_base(
        m3.Manifold.cylinder(height, 4, 12, 128) + m3.Manifold.cylinder(2, 12, 12, 128).translate((0, 0, height)), 6
    )
    assert regions_of(cone, limit=limit, layer=layer) == []


@pytest.mark.parametrize("layer", LAYERS)
@pytest.mark.parametrize("limit", LIMITS)
@pytest.mark.parametrize("sides", [64, 256])
def test_a_ball_on_the_plate_is_a_round_whose_chamfer_the_formula_gives(limit, layer, sides):
    (r,) = regions_of(sphere(12, sides), limit=limit, layer=layer)
    assert r.kind == "bed_round" and r.needs_support
    recovers = 12 * (1 - np.sin(np.radians(limit)))
    assert r.high == pytest.approx(recovers, abs=12 * np.radians(360 / sides))
    first = np.sqrt(2 * 12 * layer / 2)
    assert r.reach == pytest.approx(12 * np.cos(np.radians(limit)) - first, abs=0.3 + 12 * np.radians(360 / sides) / 2)


@pytest.mark.parametrize("layer", LAYERS)
@pytest.mark.parametrize("limit", LIMITS)
def test_a_rod_lying_on_the_plate_is_a_round_on_either_side(limit, layer):
    found = regions_of(rod(40, 10, 256, axis="x"), limit=limit, layer=layer)
    assert [(r.kind, r.needs_support) for r in found] == [("bed_round", True)] * len(found)
    reach = 10 * np.cos(np.radians(limit)) - np.sqrt(2 * 10 * layer / 2)
    assert max(r.reach for r in found) == pytest.approx(reach, abs=0.4)
    strip = 10 * np.radians(90 - limit) * 40  # arc × length, on each side; whole facets of it
    assert sum(r.area for r in found) == pytest.approx(2 * strip, abs=3 * 10 * np.radians(360 / 256) * 40)


CURVED = {
    "ball": lambda: m3.Manifold.sphere(12, 96),
    "lying rod": lambda: rod(40, 10, 96, axis="x"),
    "lying bore": lambda: box(34, 20, 34) - rod(40, 10, 96, axis="y"),
    "cone": lambda: (
        on_base(m3.Manifold.cylinder(5, 4, 12, 128), 6) + m3.Manifold.cylinder(2, 12, 12, 128).translate((0, 0, 11))
    ),
}


@pytest.mark.parametrize("seed", range(2))
@pytest.mark.parametrize("name", CURVED)
def test_curved_undersides_turned_and_cut_finer(name, seed):
    solid, turn = CURVED[name](), rotation(seed)
    plain = regions_of(solid, bores=True)
    turned = regions_of(mesh_of(solid.refine(2)).moved(turn, np.array([4.0, 9, -2])), turn @ UP, bores=True)
    assert words(plain) == words(turned)
    for a, b in zip(plain, sorted(turned, key=lambda r: r.low), strict=True):
        assert b.area == pytest.approx(a.area, rel=1e-3)
        assert (b.span or b.reach) == pytest.approx(a.span or a.reach, abs=0.1)


def test_a_chamfer_on_the_plate_is_no_round():
    block = box(30, 30, 10).translate((0, 0, 5)) - sum(
        (box(6, 40, 6).rotate((0, a, 0)).translate((x, 0, 0)) for x, a in ((-15, 30), (15, -30))), m3.Manifold()
    )
    assert all(r.kind != "bed_round" for r in regions_of(block))


@pytest.mark.parametrize("layer", LAYERS)
@pytest.mark.parametrize("limit", LIMITS)
@pytest.mark.parametrize("diameter", [6.0, 20.0])
def test_a_lying_bore_has_one_roof_with_the_chord_of_the_formula(diameter, limit, layer):
    block = box(34, 20, 34) - rod(40, diameter / 2, 128, axis="y")
    (r,) = regions_of(block, bores=True, limit=limit, layer=layer)
    chord = diameter * np.cos(np.radians(limit))
    assert r.kind == "bore_roof" and r.span == pytest.approx(chord, rel=2e-3) and r.allowed == 10
    assert r.needs_support == (chord > 10 + 1e-6)
    assert r.remedies[0]["apex_mm"] == pytest.approx(diameter / 2 / np.sin(np.radians(limit)), rel=2e-3)
    (same,) = regions_of(block, bores=False, limit=limit, layer=layer)  # layers alone say bridge, of the same chord
    assert same.kind == "bridge" and same.span == pytest.approx(chord, abs=2.2 * layer * cone_tan(limit) + 0.1)
    assert same.area == pytest.approx(r.area, rel=0.02)


def test_a_standing_bore_has_no_roof_and_a_counterbore_downward_is_a_ledge_round_its_hole():
    assert regions_of(box(34, 34, 20) - rod(40, 8, 96), bores=True) == []
    stepped = box(34, 34, 20) - rod(40, 4, 96) - rod(10, 9, 96).translate((0, 0, -10))
    (r,) = regions_of(stepped, bores=True)
    assert r.kind == "ledge" and r.reach == pytest.approx(5, abs=0.05) and r.needs_support


def test_a_hanging_tooth_is_an_island_although_no_facet_is_beyond_the_limit():
    tooth = m3.Manifold.cylinder(12, 0.0, 4, 64, False).translate((0, 0, 9))  # a cone, tip down, 18° from the vertical
    found = regions_of(frame() + tooth)
    (island,) = [r for r in found if r.kind == "island"]
    assert len(island.facets) == 0 and island.low == pytest.approx(9)
    assert island.centre == pytest.approx([0, 0, 9], abs=0.05)
    assert island.worst == pytest.approx(np.degrees(np.arctan(4 / 12)), abs=0.2)
    assert island.remedies == [{"key": "sprue", "height_mm": pytest.approx(9, abs=1e-3), "thickness_mm": 1.0}]


def test_the_pin_is_counted_once_where_it_begins_and_stands_over_the_plate():
    (island,) = [r for r in regions_of(hanging_pin()) if r.kind == "island"]
    assert island.low == pytest.approx(14) and island.area == pytest.approx(np.pi * 4, rel=0.01)
    assert island.drop == pytest.approx(14) and not island.over_part


def test_two_teeth_that_meet_are_two_islands():
    teeth = sum((m3.Manifold.cylinder(6, 0.5, 4, 48, False).translate((x, 0, 15)) for x in (-3.0, 3.0)), frame())
    assert [r.kind for r in regions_of(teeth)].count("island") == 2


def test_a_bottle_neck_and_a_ring_have_no_islands():
    bottle = rod(20, 6).translate((0, 0, 10)) + rod(6, 3).translate((0, 0, 23))
    assert regions_of(bottle) == []
    assert "island" not in [r.kind for r in regions_of(torus(15, 4))]


@pytest.mark.parametrize("seed", range(8))
def test_every_facet_beyond_the_limit_belongs_to_exactly_one_region(seed):
    chance = np.random.default_rng(seed)
    solid = box(30, 24, 20)
    for _ in range(5):
        at, turn = chance.uniform(-12, 12, 3), chance.uniform(0, 180, 3)
        piece = (
            [rod(30, chance.uniform(2, 5), 48), box(8, 12, 16)][chance.integers(2)]
            .rotate(tuple(turn))
            .translate(tuple(at))
        )
        solid = solid + piece if chance.random() < 0.5 else solid - piece
    mesh, up = mesh_of(solid), rotation(seed)[2]
    found = regions_of(mesh, up, bores=True)
    owned = np.concatenate([r.facets for r in found])
    assert len(owned) == len(set(owned.tolist()))
    beyond = beyond_limit(mesh, up, 45.0)
    assert set(owned.tolist()) == set(np.flatnonzero(beyond).tolist())
    json.dumps([r.as_dict() for r in found], allow_nan=False)
    own = sum(r.area for r in found if len(r.facets))
    assert own == pytest.approx(mesh.areas[beyond].sum(), rel=1e-9)


@pytest.mark.parametrize("seed", range(4))
def test_refining_the_mesh_changes_nothing_beyond_a_layer_height(seed):
    chance = np.random.default_rng(seed)
    solid = (
        box(40, 30, 6).translate((0, 0, 30))
        + box(10, 30, 30).translate((-15, 0, 15))
        + box(6, 6, 30).translate((10, 0, 15))
    )
    solid -= rod(60, chance.uniform(2, 4), 64, axis="y").translate((-15, 0, 12))
    coarse, fine = regions_of(solid, bores=True), regions_of(solid.refine_to_length(3.0), bores=True)
    assert words(coarse) == words(fine)
    for a, b in zip(coarse, fine, strict=True):
        assert a.low == pytest.approx(b.low, abs=0.2)
        assert a.area == pytest.approx(b.area, rel=1e-3)
        assert (a.span or a.reach or 0) == pytest.approx(b.span or b.reach or 0, abs=0.2)


def found_in(region: Overhang, **more):
    process = Process(**{k: more.pop(k) for k in list(more) if k in Process.__dataclass_fields__})
    return finding_of(region.as_dict(), process, **more)


def test_findings_say_number_limit_and_place():
    (bridge,) = regions_of(frame())
    f = found_in(bridge)
    assert (f.verdict, f.number, f.limit) == ("doubtful", pytest.approx(12, abs=0.02), 20)
    assert f.sentence == "Bridge of 12.0 mm, 20.0 mm up; bridges print up to 20.0 mm."
    assert "clean limit of 10.0 mm" in f.because[0]
    assert f.clearance == pytest.approx(0.4)  # 0.3 mm of droop in layers of 0.2
    (bridge,) = regions_of(frame(), clean_bridge=14.0)
    assert found_in(bridge, clean_bridge=14.0).verdict == "holds"
    (ledge,) = regions_of(shelf())
    assert found_in(ledge).verdict == "fails" and "reaches out 12.0 mm, 16.0 mm up" in found_in(ledge).sentence


def test_a_fitted_bore_protected_faces_and_small_gaps_are_doubted():
    block = box(34, 20, 34) - rod(40, 5, 128, axis="y")
    (roof,) = regions_of(block, bores=True)
    assert found_in(roof, diameter=10.0).verdict == "holds"
    assert found_in(roof, diameter=10.0, fit="sliding").verdict == "doubtful"
    assert "must not be scarred" in found_in(roof, diameter=10.0, protected=12.0).because[0]
    narrow = frame() + box(36, 10, 19.7).translate((0, 0, 9.85))
    (bridge,) = regions_of(narrow)
    assert bridge.over_part and bridge.drop == pytest.approx(0.3, abs=1e-3)
    assert "Only 0.30 mm above the part below" in found_in(bridge, clean_bridge=14.0).because[0]


def test_what_hangs_where_an_island_has_met_the_rest_is_a_region_of_its_own():
    block = box(20, 30, 40).translate((0, 0, 20))
    ring = rod(6, 14, 96, axis="x").translate((40, 0, 24))
    shaft = rod(40, 6, 96, axis="x").translate((25, 0, 24))
    found = regions_of(block + ring + shaft)
    assert [r.kind for r in found] == ["island", "bridge", "ledge"], "the ring, the shaft, and its stub beyond the ring"
    island, between, stub = found
    assert island.low == pytest.approx(10, abs=0.1) and island.high < 18
    assert between.low == pytest.approx(18, abs=0.1) and between.span == pytest.approx(37 - 10, abs=0.1)
    assert stub.reach == pytest.approx(2, abs=0.1)


def vault() -> m3.Manifold:
    """A half bore of 32 mm that stands open, on two feet."""
    arch = m3.Manifold.cylinder(24, 22, 22, 96, True) - m3.Manifold.cylinder(30, 16, 16, 96, True)
    return arch.rotate((90, 0, 0)).trim_by_plane((0, 0, 1), 0)


def lever() -> m3.Manifold:
    """Two bosses and a web that hangs between them."""
    web = m3.Manifold.batch_hull([rod(6, 7), rod(6, 5).translate((62, 0, 0))])
    return web + rod(18, 11) + rod(18, 8).translate((62, 0, 0)) - rod(40, 5) - rod(40, 3).translate((62, 0, 0))


TURNED = {
    "room": box(40, 30, 20) - box(36, 25.5, 10),
    "square room": box(40, 40, 20) - box(25.5, 25.5, 10),
    "channel": box(40, 30, 20) - box(50, 25.5, 10),
    "open at one side": box(40, 30, 20) - box(30, 25.5, 10).translate((-8, 0, 0)),
    "angled room": box(60, 60, 20) - box(40, 12.6, 10).translate((0, -10, 0)) - box(12.6, 40, 10),
    "three walls": rod(20, 30, 6) - rod(10, 20, 3),
    "lying bore": box(60, 26, 40) - rod(40, 11, 96, "y"),
    "crossing bores": box(36, 36, 36) - rod(60, 8, 72, "x") - rod(60, 5.5, 72, "y"),
    "vault": vault(),
    "lever": lever(),
    "shelf": box(6, 30, 40) + box(30, 30, 4).translate((12, 0, 18)),
}


@pytest.mark.parametrize("name", TURNED)
def test_turning_about_the_build_direction_changes_nothing_that_is_told(name):
    """Not kinds, spans or reaches: a ceiling was a bridge at 0° and 90° and a ledge at 30° and 45°."""

    def result(turn: float) -> list[tuple]:
        found = regions_of(TURNED[name].rotate((0, 0, turn)), bores=True)
        return [(r.kind, r.needs_support, r.low, r.span or 0.0, r.reach or 0.0) for r in found if r.area > 2]

    first = result(0.0)
    assert first, "else it shows nothing"
    for turn in (7.0, 30.0, 45.0, 61.0, 90.0, 123.4, 211.9):
        again = result(turn)
        assert [row[:2] for row in again] == [row[:2] for row in first]
        for a, b in zip(sorted(first), sorted(again), strict=True):
            assert b[2:] == pytest.approx(a[2:], rel=0.02, abs=0.1)


@pytest.mark.parametrize("radius, sides", [(3.0, 17), (3.0, 64), (5.0, 32)])
def test_an_arch_is_one_bridge_wherever_its_crown_lies_between_two_layers(radius, sides):
    """Where the last gap is shorter than a step from both sides nothing hangs there, and both seemed to end free."""
    for lift in np.linspace(0, 0.2, 11):
        axis = 6 + lift
        solid = box(30, 20, 20).translate((0, 0, 10)) - rod(40, radius, sides, "x").translate((0, 0, axis))
        solid -= box(40, 2 * radius, axis).translate((0, 0, axis / 2))
        (crown,) = [r for r in regions_of(solid) if r.kind != "slope"]
        assert crown.kind == "bridge" and not crown.needs_support, lift
        assert crown.span == pytest.approx(2 * radius * np.cos(np.pi / 4), rel=0.16), lift
