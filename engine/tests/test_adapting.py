"""Remedies against their closed forms, and against bodies made by chance: closed, less to support, bores open."""

import manifold3d as m3
import numpy as np
import pytest
from shapes import box, by_chance, mesh_of, rod, rotation, sphere

from demo.river_station import demo_files
from hewel_engine.advice.adapting import Adapted, adapted, reworked
from hewel_engine.advice.bounds import FULL
from hewel_engine.geometry.features import find_bores
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.rays import RayScene
from hewel_engine.io.reading import take_in
from hewel_engine.processes import Process

UP = np.array([0, 0, 1.0])


def adapt(solid, up=UP, keys=None, protected=None, supports=True, **process) -> Adapted:
    mesh = solid if isinstance(solid, Mesh) else mesh_of(solid)
    bores = find_bores(mesh, RayScene(mesh))
    return adapted(mesh, np.asarray(up, float), Process(**process), bores, keys, protected, supports, bounds=FULL)


def good(found: Adapted) -> Adapted:
    """Nothing needs support any more, and the solid is closed."""
    assert found.after.mesh.closed and found.mesh.closed
    assert not found.after.truth.needs_support, [(r.kind, r.low) for r in found.after.truth.regions if r.needs_support]
    assert wanted(found.after) == 0 < wanted(found.before) or found.applied
    assert found.left == []
    return found


def wanted(part) -> float:
    """mm³ of support under what needs it."""
    return sum(r.support_volume for r in part.truth.regions if r.needs_support)


def only(found: Adapted):
    assert len(found.applied) == 1, [(a.tool.key, a.region) for a in found.applied]
    return found.applied[0]


def lying(diameter=20.0, sides=96, length=40.0, wide=60.0, tall=60.0) -> m3.Manifold:
    """A block with a level bore right through it, along x."""
    return box(length, wide, tall) - rod(2 * length, diameter / 2, sides, "x")


def cap_area(radius: float, limit: float) -> float:
    """Between a circle and its two roof planes: R²·(cot α − (π/2 − α))."""
    a = np.radians(limit)
    return radius**2 * (1 / np.tan(a) - (np.pi / 2 - a))


# ------------------------------------------------------------------ lying bores


@pytest.mark.parametrize(("limit", "chord", "apex"), [(45, 14.142, 14.142), (60, 10.0, 11.547)])
def test_a_lying_bore_gets_a_teardrop(limit, chord, apex):
    found = good(adapt(lying(sides=360), limit=limit))
    roof = next(r for r in found.before.truth.regions if r.kind == "bore_roof")
    assert roof.span == pytest.approx(chord, abs=0.01)
    done = only(found)
    assert done.tool.key == "teardrop"
    assert done.tool.numbers["apex_mm"] == pytest.approx(apex, abs=0.01)
    assert done.tool.numbers["included_deg"] == pytest.approx(2 * limit)
    assert done.removed == pytest.approx(40 * cap_area(10, limit), rel=0.01)
    assert done.added == 0
    assert found.before.mesh.volume - found.mesh.volume == pytest.approx(done.removed, rel=1e-6)
    top = found.mesh.vertices[(np.abs(found.mesh.vertices[:, 1]) < 1e-6)]
    assert top[top[:, 2] < 29, 2].max() == pytest.approx(apex, abs=0.03)


@pytest.mark.parametrize("sides", [8, 12, 17, 256])
def test_a_teardrop_takes_the_facets_with_it_however_coarse_the_bore(sides):
    found = good(adapt(lying(sides=sides)))
    assert only(found).tool.key == "teardrop"
    assert found.after.truth.overhang_area == pytest.approx(0, abs=1e-6)


def test_a_pin_of_the_bore_still_enters():
    found = adapt(lying())
    pin = rod(100, 9.98, 96, "x")
    assert (solid(found.mesh) ^ pin).volume() == pytest.approx(0, abs=1e-6)


def solid(mesh: Mesh) -> m3.Manifold:
    return m3.Manifold(m3.Mesh64(vert_properties=np.array(mesh.vertices), tri_verts=mesh.faces.astype(np.uint64)))


def test_where_the_wall_runs_out_the_teardrop_is_capped():
    found = good(adapt(lying(tall=26)))  # 3 mm above the bore
    done = only(found)
    assert done.tool.key == "capped_teardrop"
    cap = 13 - 2 * 0.45
    assert done.tool.numbers["cap_mm"] == pytest.approx(cap, abs=0.01)
    assert done.tool.numbers["flat_mm"] == pytest.approx(2 * (10 * 2**0.5 - cap), abs=0.02)


def test_a_teardrop_that_would_cut_through_the_wall_is_refused_in_words():
    found = adapt(lying(tall=21))  # half a millimetre above the bore
    assert found.applied == []
    assert "would cut through the wall: 0.50 mm stand above the bore" in " ".join(found.left[0].why)
    assert found.mesh.volume == pytest.approx(found.before.mesh.volume)


def test_a_small_lying_bore_is_left_alone():
    found = adapt(lying(diameter=7.5))
    assert found.applied == [] and found.left == []


def test_a_blind_and_a_tilted_bore_get_theirs_too():
    blind = box(60, 60, 60) - rod(40, 10, 96, "x").translate((30, 0, 0))
    assert only(good(adapt(blind))).removed == pytest.approx(20 * cap_area(10, 45), rel=0.015)
    tilted = box(90, 60, 90) - rod(200, 8, 96).rotate((0, 70, 0))
    done = only(good(adapt(tilted)))
    # in the section normal to the axis: sin φ = sin 45° / sin 70°
    half = np.degrees(np.arcsin(np.sin(np.radians(45)) / np.sin(np.radians(70))))
    assert done.tool.numbers["apex_mm"] == pytest.approx(8 / np.sin(np.radians(half)), abs=0.02)


# ------------------------------------------------------------------ ceilings


def arch(span=40.0, tall=45.0) -> m3.Manifold:
    """An opening 20 mm high, ``span`` wide, right through a block."""
    return box(span + 20, 20, tall).translate((0, 0, tall / 2)) - box(span, 30, 40).translate((0, 0, 0))


@pytest.mark.parametrize(("limit", "rise"), [(45, 20.0), (60, 11.547)])
def test_a_flat_arch_becomes_a_pointed_one(limit, rise):
    found = good(adapt(arch(), limit=limit))
    done = only(found)
    assert done.tool.key == "pointed_arch"
    assert done.tool.numbers["rise_mm"] == pytest.approx(rise, rel=3e-3)
    assert done.removed == pytest.approx(20 * 40 * rise / 2, rel=0.01)


def test_where_the_stock_is_short_the_corners_are_chamfered():
    found = good(adapt(arch(span=24, tall=31)))  # 11 mm above
    done = only(found)
    assert done.tool.key == "pointed_arch" and done.tool.numbers["left_mm"] <= 10
    assert "leaves a flat" in done.tool.words
    low = adapt(arch(span=40, tall=24))  # 4 mm above: a flat of 34 mm would be left
    assert low.applied == [] and any("flat of" in line for line in low.left[0].why)


def test_a_bridge_that_prints_is_left_alone():
    assert adapt(arch(span=18)).applied == []


def counterbore(hole=6.0, head=16.0) -> m3.Manifold:
    """A plate with a through hole whose counterbore opens downward."""
    return box(40, 40, 16).translate((0, 0, 8)) - rod(60, hole / 2, 64) - rod(16, head / 2, 96)


@pytest.mark.parametrize("layer", [0.2, 0.3])
def test_a_hole_in_a_ceiling_is_stepped(layer):
    found = good(adapt(counterbore(), layer=layer))
    done = only(found)
    assert done.tool.key == "stepped_bridging"
    slot = 2 * (3 * np.sqrt(64 - 9) + 64 * np.arcsin(3 / 8)) - np.pi * 9  # circle between y = ±3, less the hole
    first = (np.floor(8 / layer + 1e-9) + 1) * layer - 8
    first += layer if first < layer / 2 - 1e-9 else 0
    octagon = 36 * (2 * np.sqrt(2) - 2)
    wanted = first * slot + layer * (36 - np.pi * 9) + layer * (octagon - np.pi * 9)
    assert done.removed == pytest.approx(wanted, rel=0.01)
    assert (solid(found.mesh) ^ rod(100, 2.98, 64)).volume() == pytest.approx(0, abs=1e-6)


def test_a_membrane_closes_the_hole_only_when_it_is_asked_for():
    found = adapt(counterbore(), keys=("membrane",))
    done = only(found)
    assert done.tool.key == "membrane" and done.added == pytest.approx(np.pi * 9 * 0.2, rel=0.02)
    assert not found.after.truth.needs_support


# ------------------------------------------------------------------ ledges, rounds, what begins in mid-air


def test_a_ledge_gets_a_gusset():
    shelf = box(4, 20, 30).translate((0, 0, 15)) + box(12, 20, 4).translate((8, 0, 28))
    for limit in (45, 60):
        done = only(good(adapt(shelf, limit=limit)))
        rise = 12 / np.tan(np.radians(limit))
        assert done.tool.key == "gusset"
        assert done.tool.numbers["rise_mm"] == pytest.approx(rise, rel=3e-3)
        assert done.added == pytest.approx(20 * 12 * rise / 2, rel=0.01)


@pytest.mark.parametrize(("limit", "starts", "inward"), [(60, 0.67, 3.66), (45, 1.464, 2.929)])
def test_a_round_on_the_plate_becomes_a_chamfer_that_blends_in(limit, starts, inward):
    found = good(adapt(rounded(5), limit=limit))
    done = only(found)
    assert done.tool.key == "round_chamfer"
    assert done.tool.numbers["starts_mm"] == pytest.approx(starts, abs=0.03)
    foot = found.mesh.vertices[found.mesh.vertices[:, 2] < 1e-6]
    assert 20 - foot[:, 1].max() == pytest.approx(inward, abs=0.02), "mm in from the side wall"
    assert done.added == pytest.approx(60 * wedge(5, limit), rel=0.03)


def wedge(radius: float, limit: float) -> float:
    """Between the plate, a round that touches it and the tangent at the limit's slope (by its own integral)."""
    a = np.radians(limit)
    top = radius * (1 - np.sin(a))
    z = np.linspace(0, top, 20001)
    on_round = np.sqrt(np.maximum(radius**2 - (radius - z) ** 2, 0))
    on_chamfer = radius * np.cos(a) - (top - z) * np.tan(a)
    return float(np.trapezoid(on_chamfer - on_round, z))


def rounded(radius: float) -> m3.Manifold:
    """A bar along x whose lower edge at +y is a round of ``radius``."""
    plan = m3.CrossSection([[(-20, 0), (20 - radius, 0), (20 - radius, radius), (20, radius), (20, 20), (-20, 20)]])
    plan += m3.CrossSection.circle(radius, 512).translate((20 - radius, radius))
    return m3.Manifold.extrude(plan, 60).rotate((90, 0, 90)).translate((-30, 0, 0))


def test_a_ball_gets_a_foot():
    found = good(adapt(sphere(10, 96)))
    assert {a.tool.key for a in found.applied} <= {"round_chamfer", "pillar", "sprue"}
    assert found.after.truth.first_layer > found.before.truth.first_layer


def test_what_begins_in_mid_air_gets_a_post_or_a_pillar():
    posts = box(12, 10, 30).translate((-12, 0, 15)) + box(12, 10, 30).translate((12, 0, 15))
    frame = posts + box(36, 10, 4).translate((0, 0, 32))
    wide = good(adapt(frame + rod(12, 3, 48).translate((0, 0, 25))))
    assert "pillar" in {a.tool.key for a in wide.applied}
    tip = m3.Manifold.cylinder(12, 0.2, 3, 32).translate((0, 0, 19))
    thin = good(adapt(frame + tip))
    sprue = next(a for a in thin.applied if a.tool.key == "sprue")
    assert sprue.tool.numbers["thickness_mm"] >= max(1, 2 * 0.45)
    assert sprue.tool.numbers["neck_mm"] < sprue.tool.numbers["thickness_mm"]


def test_the_edges_on_the_plate_are_chamfered_when_it_is_asked_for():
    found = adapt(box(40, 30, 10) - rod(30, 5, 96), keys=("foot_chamfer",))
    done = only(found)
    round_ = np.pi * ((5.4**3 - 5**3) / 3 - 5**2 * 0.4)  # a cone's frustum over the bore, less the bore
    assert done.removed == pytest.approx(140 * 0.4 * 0.4 / 2 + round_, rel=0.02)
    assert found.after.truth.contact_area == pytest.approx(39.2 * 29.2 - np.pi * 5.4**2, rel=2e-3)
    assert not found.after.truth.needs_support and found.mesh.closed
    narrow = adapt(box(1, 30, 10), keys=("foot_chamfer",))
    assert narrow.applied == [] and "too narrow" in narrow.unfit[0][1]


# ------------------------------------------------------------------ each on fifty bodies of its own


def uneven(mesh: Mesh, chance) -> Mesh:
    """The same surface with half of the facets of its outer faces split at some point inside, three times over; on a
    bore's facets such a point would lie off its circle.
    """
    for _ in range(3):
        off = [np.abs(mesh.triangles - end).max(axis=1) < 1e-9 for end in mesh.box]
        outer = (off[0] | off[1]).any(axis=1)
        rows = np.flatnonzero(outer & (chance.random(len(mesh.faces)) < 0.5))
        share = chance.dirichlet([2, 2, 2], len(rows))
        middle = (mesh.triangles[rows] * share[:, :, None]).sum(axis=1)
        new = len(mesh.vertices) + np.arange(len(rows))
        a, b, c = mesh.faces[rows].T
        keep = np.delete(mesh.faces, rows, axis=0)
        faces = np.concatenate([keep, np.c_[a, b, new], np.c_[b, c, new], np.c_[c, a, new]])
        mesh = Mesh(np.concatenate([mesh.vertices, middle]), faces)
    return mesh


def block(chance, x=(30, 50), y=(30, 50), z=(36, 60)) -> m3.Manifold:
    """A block on the plate with a few steps on its top."""
    size = [chance.uniform(*r) for r in (x, y, z)]
    body = box(*size).translate((0, 0, size[2] / 2))
    for _ in range(3):
        step = chance.uniform(4, 9, 3)
        at = (chance.uniform(-8, 8), chance.uniform(-8, 8), size[2] + step[2] / 2 - 0.5)
        body += box(*step).translate(at)
    return body


def with_bore(chance):
    body = block(chance)
    return body - rod(200, chance.uniform(5, 9), int(chance.integers(12, 90)), "x").translate((0, 0, 18))


def with_opening(chance):
    wide = chance.uniform(21, 26)
    return block(chance, x=(44, 60)) - box(wide, 100, 24).translate((0, 0, 6))


def with_shelf(chance):
    reach, thick = chance.uniform(3, 9), chance.uniform(3, 6)
    return block(chance) + box(60, chance.uniform(8, 20), thick).translate((30 + reach - 15 - 15, 0, 24))


def with_round(chance):
    return rounded(chance.uniform(3, 8)) + box(20, 12, 30).translate((0, 0, 30))


def with_head(chance):
    hole, head = chance.uniform(2, 3.5), chance.uniform(6, 9)
    body = block(chance, z=(20, 30))
    return body - rod(200, hole, int(chance.integers(24, 80))) - rod(16, head, int(chance.integers(24, 90)))


def with_pin(chance):
    """A frame with a pin that hangs from its lintel."""
    frame = block(chance, x=(50, 60)) - box(20, 100, 60).translate((0, 0, 0))
    return frame + rod(12, chance.uniform(2, 4), int(chance.integers(12, 60))).translate((0, 0, 26))


KINDS = {
    "teardrop": (with_bore, {"teardrop", "capped_teardrop"}),
    "arch": (with_opening, {"pointed_arch"}),
    "gusset": (with_shelf, {"gusset"}),
    "round": (with_round, {"round_chamfer"}),
    "stepped": (with_head, {"stepped_bridging"}),
    "pillar": (with_pin, {"pillar", "sprue"}),
}


@pytest.mark.parametrize("kind", KINDS)
def test_each_remedy_on_fifty_bodies(kind):
    make, keys = KINDS[kind]
    for seed in by_chance(50):
        chance = np.random.default_rng(seed)
        part = uneven(mesh_of(make(chance)), chance)
        turn = rotation(seed)
        found = adapt(part.moved(turn), turn @ UP)
        assert found.mesh.closed, seed
        done = {a.tool.key for a in found.applied}
        assert done & keys, (seed, done, [row.why for row in found.left])
        assert not found.after.truth.needs_support, (seed, [row.why for row in found.left])
        change = sum(a.added - a.removed for a in found.applied)
        assert found.mesh.volume - part.volume == pytest.approx(change, abs=2e-4 * part.volume), seed


# ------------------------------------------------------------------ what must never happen


def test_a_protected_face_is_not_touched():
    part = mesh_of(box(4, 20, 30).translate((0, 0, 15)) + box(12, 20, 4).translate((8, 0, 28)))
    wall = np.flatnonzero((part.normals[:, 0] > 0.99) & (part.centroids[:, 0] < 3))
    assert "gusset" in {a.tool.key for a in adapt(part).applied}
    found = adapt(part, protected=wall)
    assert "gusset" not in {a.tool.key for a in found.applied}
    assert any("must stay as it is" in line for row in found.left for line in row.why) or found.applied


def test_where_no_support_is_wanted_none_is_designed_in():
    hung = arch(span=18, tall=45) + rod(8, 3, 48).translate((0, 0, 17))
    assert "pillar" in {a.tool.key for a in adapt(hung).applied}
    without = adapt(hung, supports=False)
    assert {a.tool.key for a in without.applied}.isdisjoint({"pillar", "sprue"}) and without.left


def test_turned_anyhow_it_comes_out_the_same():
    part = mesh_of(lying() + box(10, 10, 10).translate((25, 0, 25)))
    plain = adapt(part)
    for seed in range(3):
        turn = rotation(seed)
        turned = adapt(part.moved(turn, np.array([5.0, -3, 8])), turn @ UP)
        assert [a.tool.key for a in turned.applied] == [a.tool.key for a in plain.applied]
        assert turned.mesh.volume == pytest.approx(plain.mesh.volume, rel=1e-4)


# ------------------------------------------------------------------ recipes


def two_faults() -> m3.Manifold:
    """A block with a lying bore, and a shelf on its side."""
    return lying(length=30) + box(30, 14, 6).translate((0, 36, 20))


def steps_of(found: Adapted) -> list[dict]:
    return [a.as_dict() for a in found.applied]


def rework(part: Mesh, steps: list[dict], up=UP) -> Adapted:
    return reworked(part, np.asarray(up, float), Process(), find_bores(part, RayScene(part)), steps, bounds=FULL)


def test_a_recipe_makes_the_same_part_again_and_a_step_can_be_left_out():
    part = mesh_of(two_faults())
    found = good(adapt(part))
    steps = steps_of(found)
    assert {s["key"] for s in steps} == {"teardrop", "gusset"}
    again = rework(part, steps)
    assert again.unfit == [] and again.mesh.volume == pytest.approx(found.mesh.volume, rel=1e-9)
    for out in steps:
        less = rework(part, [s for s in steps if s is not out])
        change = out["volume_added_mm3"] - out["volume_removed_mm3"]
        assert less.mesh.volume == pytest.approx(found.mesh.volume - change, rel=1e-6)


def test_a_recipe_on_a_changed_part_says_what_no_longer_fits():
    steps = steps_of(adapt(two_faults()))
    longer = mesh_of(lying(length=30) + box(30, 14, 6).translate((0, 36, 20)) + box(6, 6, 20).translate((0, 0, 40)))
    assert rework(longer, steps).unfit == []
    without = rework(mesh_of(lying(length=30)), steps)
    assert [(s["key"], why) for s, why in without.unfit] == [("gusset", "No ledge is found there any more.")]
    assert [a.tool.key for a in without.applied] == ["teardrop"]


def test_the_facets_that_a_remedy_made_are_known():
    found = adapt(two_faults())
    for number, done in enumerate(found.applied, start=1):
        rows = found.marks == number
        assert rows.any()
        if done.tool.key == "gusset":  # its slope
            steep = found.mesh.normals[rows] @ UP
            assert np.degrees(np.arcsin(-steep.min())) == pytest.approx(45, abs=0.1)
    own = found.mesh.areas[found.marks == 0].sum()
    assert own < mesh_of(two_faults()).areas.sum()


def test_an_open_surface_is_refused():
    from hewel_engine.errors import InputError

    part = mesh_of(box(10, 10, 10))
    with pytest.raises(InputError, match="open"):
        adapt(Mesh(part.vertices, part.faces[1:]))


def chance_part(seed: int) -> Mesh:
    chance = np.random.default_rng(seed)
    body = box(*chance.uniform(18, 40, 3))
    for _ in range(5):
        kind = chance.random()
        tool = rod(120, chance.uniform(1.5, 8), int(chance.integers(12, 64)), "xyz"[chance.integers(3)])
        if kind > 0.5:
            tool = box(*chance.uniform(4, 24, 3))
        tool = tool.translate(tuple(chance.uniform(-16, 16, 3)))
        body = body + tool if chance.random() < 0.45 and kind > 0.5 else body - tool
    return mesh_of(max(body.decompose(), key=m3.Manifold.volume))


@pytest.mark.parametrize("first", range(0, 200, 20))
def test_two_hundred_bodies_made_by_chance(first):
    """Closed; no more support than before; no bore that a pin entered is closed to it."""
    for seed in by_chance(first, first + 20):
        part = chance_part(seed)
        turn = rotation(seed) if seed % 2 else np.eye(3)
        found = adapt(part.moved(turn), turn @ UP)
        assert found.mesh.closed, seed
        assert found.after.truth.support_volume <= found.before.truth.support_volume * 1.005 + 1e-6, seed
        body = solid(found.mesh)
        for bore in find_bores(part, RayScene(part)):
            axis = turn @ bore.axis
            other = np.cross(axis, [0.3, 0.5, 0.8])
            other /= np.linalg.norm(other)
            pin = m3.Manifold.cylinder(bore.depth, 0.97 * bore.diameter / 2, circular_segments=48)
            start = turn @ bore.centre - axis * bore.depth / 2
            pin = pin.transform(np.c_[other, np.cross(axis, other), axis, start])
            before = (solid(part.moved(turn)) ^ pin).volume()
            assert (body ^ pin).volume() <= before + 1e-6, seed


@pytest.mark.parametrize(
    ("name", "up"),
    [
        ("Mast clevis", (0, 0, -1)),
        ("Float arm", (0, 1, 0)),
        ("Cable saddle", (0, 0, -1)),
        ("Sheave fork", (1, 0, 0)),
        ("Float, upper half", (0, 0, 1)),
        ("Pivot bushing", (0, 0, -1)),
    ],
)
def test_the_demo_parts_need_no_support_afterwards(name, up):
    part = take_in(next(f.data for f in demo_files() if f.name == name), "auto").mesh
    found = adapt(part, up)
    assert found.left == []
    assert not found.after.truth.needs_support and found.mesh.closed


@pytest.mark.parametrize(
    ("name", "words"),
    [("Logger-box lid", "another direction, or two pieces"), ("Sluice handwheel", "hold only its middle")],
)
def test_what_of_the_demo_cannot_be_remedied_is_said_why(name, words):
    part = take_in(next(f.data for f in demo_files() if f.name == name), "auto").mesh
    found = adapt(part, UP)
    assert found.left and words in " ".join(line for row in found.left for line in row.why)
