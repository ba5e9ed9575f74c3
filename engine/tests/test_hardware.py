"""Places for steel: their geometry by hand, on bodies made by chance, and what is refused."""

from math import ceil, pi, sqrt

import manifold3d as m3
import numpy as np
import pytest
from shapes import box, by_chance, mesh_of, rotation

from hewel_engine.advice.bounds import Bounds
from hewel_engine.edits.solids import dusted, solid_of, sound
from hewel_engine.edits.solids import mesh_of as meshed
from hewel_engine.edits.steel import End, Line, bolt, seated
from hewel_engine.edits.tools import Impossible
from hewel_engine.errors import InputError
from hewel_engine.geometry.features import find_bores, find_flats
from hewel_engine.geometry.rays import RayScene
from hewel_engine.hardware.catalogue import bolt_of
from hewel_engine.hardware.listing import shopping
from hewel_engine.hardware.placing import seated as placed_in
from hewel_engine.hardware.placing import triangles, what_of
from hewel_engine.processes import Process
from hewel_engine.spaces.free import read_spaces

UP = np.array([0.0, 0, 1])
DOWN = [0.0, 0.0, -1.0]
PROCESS = Process()
BLOCK = m3.Manifold.cube((30, 30, 40), True).translate((0, 0, 20))
TOP = Line(np.array([0.0, 0, 40]), -UP)


def row(**more) -> dict:
    base = {
        "id": "a", "name": "A", "kind": "bolt", "size": "M5", "at": [0, 0, 40], "axis": DOWN, "head": "socket",
        "washer": "washer", "nut": "hex_nut", "pocket": "open", "steel": "8.8",
    }  # fmt: skip
    return base | more


def test_a_bolt_by_hand():
    made = bolt(BLOCK, TOP, PROCESS, 5.65, End(10.6), End(8.4, 6, 4.9))
    membrane = 2 * PROCESS.layer
    hexagon, hole = sqrt(3) / 2 * 8.4**2, pi / 4 * 5.65**2
    removed = BLOCK.volume() - made.on(BLOCK).volume()
    assert removed == pytest.approx(hexagon * 4.9 + hole * (40 - 4.9 - membrane), rel=2e-3)
    assert made.numbers["grip_mm"] == pytest.approx(40 - 4.9)
    assert "membrane" in made.words, "the pocket opens to the plate: its ceiling is closed"


def test_a_closed_pocket_that_lies_is_flat_up_and_is_closed_at_a_pause():
    line = Line(np.array([-15.0, 0, 20]), np.array([1.0, 0, 0]))
    made = bolt(BLOCK, line, PROCESS, 5.65, End(10.6), End(8.4, 6, 4.9, cover=8))
    low, high = np.array(made.embeds.bounding_box()).reshape(2, 3)
    assert (high - low)[[0, 2]] == pytest.approx([4.9, 8.4]) and (high - low)[1] == pytest.approx(8.4 * 2 / sqrt(3))
    assert made.numbers["pause_mm"] == pytest.approx(24.2), "at the whole layer over its highest place"
    standing = bolt(BLOCK, TOP, PROCESS, 5.65, End(10.6, deep=5), End(8.4, 6, 4.9, cover=8))
    assert standing.numbers["pause_mm"] == pytest.approx(13.0) and made.on(BLOCK).genus() == 0


def test_a_seat_on_a_slope_is_sunk_until_it_is_whole():
    slope = BLOCK.trim_by_plane((0.3, 0, -1), -34)
    face = Line(np.array([0.0, 0, 34 * sqrt(1.09)]), -UP)
    made = bolt(slope, face, PROCESS, 5.65, End(10.6), End(8.4, 6, 4.9))
    radius = (5.65 + 10.6) / 4
    assert made.numbers["head_at_mm"] == pytest.approx(0.3 * radius, rel=0.05)
    assert "Sink the head's seat" in made.words


@pytest.mark.parametrize(
    ("at", "way", "numbers", "words"),
    [
        ([13, 0, 40], DOWN, {}, "over the edge"),
        ([60, 0, 40], DOWN, {}, "no material along its axis"),
        ([10.5, 0, 40], DOWN, {}, "would break through"),
        ([0, 0, 40], DOWN, {"sunk_mm": 37.0}, "between head and nut"),
        ([0, 0, 40], [0.5, 0, -1], {"cover_mm": 5.0}, "stands or lies"),
        ([0, 0, 40], DOWN, {"cover_mm": 0.4}, "Over a closed pocket"),
    ],
)  # fmt: skip
def test_a_bolt_that_does_not_fit_says_why(at, way, numbers, words):
    given = {"bore_mm": 5.65, "seat_mm": 10.6, "nut_mm": 8.4, "nut_sides_count": 6.0, "pocket_mm": 4.9} | numbers
    line = Line(np.array(at, float), np.array(way, float) / np.linalg.norm(way))
    with pytest.raises(Impossible, match=words):
        seated(BLOCK, "bolt", line, None, given, PROCESS)


def test_a_nut_in_a_gap_and_numbers_that_lack():
    slit = BLOCK - box(40, 40, 4).translate((0, 0, 20))
    given = {"bore_mm": 5.65, "seat_mm": 10.6, "nut_mm": 8.4, "nut_sides_count": 6.0, "pocket_mm": 4.9}
    with pytest.raises(Impossible, match="a nut cannot be put in there"):
        seated(slit, "bolt", TOP, None, given, PROCESS)
    with pytest.raises(Impossible, match="lacks a number: bore_mm"):
        seated(BLOCK, "bolt", TOP, None, {"seat_mm": 10.6, "nut_mm": 8}, PROCESS)
    with pytest.raises(Impossible, match="other end too"):
        seated(BLOCK, "key", TOP, None, {"width_mm": 5, "deep_mm": 2}, PROCESS)


def test_inserts_bosses_keys_and_pads_by_hand():
    do = lambda key, line, end=None, **given: seated(BLOCK, key, line, end, given, PROCESS)
    hole = do("insert", TOP, bore_mm=6.55, deep_mm=12.0, wall_mm=4.0)
    cone = pi * 0.5 / 3 * (3.275**2 + 3.775**2 + 3.275 * 3.775) - pi * 3.275**2 * 0.5
    assert hole.add.is_empty()
    assert BLOCK.volume() - hole.on(BLOCK).volume() == pytest.approx(pi / 4 * 6.55**2 * 12 + cone, rel=3e-3)
    edge = do("insert", Line(np.array([9.0, 0, 40]), -UP), bore_mm=6.55, deep_mm=12.0, wall_mm=4.0)
    assert "collar" in edge.words and (edge.add - BLOCK).volume() > 1
    boss = do("boss", TOP, bore_mm=3.35, outer_mm=10.0, rise_mm=8.0, deep_mm=10.0)
    gained = pi / 4 * (10**2 - 3.35**2) * 8 - pi / 4 * 3.35**2 * 2
    assert boss.on(BLOCK).volume() - BLOCK.volume() == pytest.approx(gained, rel=3e-3)
    side = Line(np.array([15.0, 0, 10]), np.array([-1.0, 0, 0]))
    slot = do("key", side, np.array([15.0, 0, 30]), width_mm=5.2, deep_mm=2.5)
    assert BLOCK.volume() - slot.on(BLOCK).volume() == pytest.approx(5.2 * 2.5 * 20)
    pad = do("pad", side, bore_mm=12.4, deep_mm=2.0)
    assert BLOCK.volume() - pad.on(BLOCK).volume() == pytest.approx(pi / 4 * 12.4**2 * 2, rel=2e-3)
    with pytest.raises(Impossible, match="break through"):
        do("insert", TOP, bore_mm=6.55, deep_mm=39.8, wall_mm=4.0)
    with pytest.raises(Impossible, match="would be left beside or below"):
        do("key", side, np.array([15.0, 0, 40.5]), width_mm=5.2, deep_mm=2.5)
    with pytest.raises(Impossible, match="outside the part"):
        do("key", Line(np.array([40.0, 0, 10]), -UP), np.array([60.0, 0, 10]), width_mm=5.2, deep_mm=2.5)


def test_a_size_comes_with_what_the_table_says():
    upright = bolt_of("M5", "socket", "washer", "hex_nut", "8.8", -UP, UP)
    assert (upright.stress_area, upright.washer, upright.nut_flats, upright.proof) == (14.2, (10.0, 1.0), 8.0, 580.0)
    assert upright.bore == pytest.approx(5.65) and upright.doubts == ()
    lying = bolt_of("M5", "hex", "none", "square_nut", "A2-70", np.array([1.0, 0, 0]), UP)
    assert lying.bore == pytest.approx(5.8), "a lying hole droops more than an upright one loses"
    assert lying.proof == 450 and lying.nut_sides == 4
    assert upright.length(35.1) == 45 and upright.length(500) is None
    head, nut = upright.seats(35.0, 2000.0)
    assert 8.5 < head <= 10 and nut == 6.9, "a washer of 1 mm bends: it does not bear to its rim"
    assert bolt_of("M5", "socket", "washer_large", "hex_nut", "8.8", -UP, UP).doubts, "an uncertain row says so"
    with pytest.raises(InputError, match="no socket head screw M7"):
        bolt_of("M7", "socket", "washer", "hex_nut", "8.8", -UP, UP)
    with pytest.raises(InputError, match="how much of it"):
        what_of(row(pocket="closed"), UP, PROCESS)


def test_rows_are_cut_and_proved_and_what_cannot_be_is_said():
    mesh = mesh_of(BLOCK)
    rows = [
        row(id="a"), row(id="b", at=[13, 0, 40]), row(id="c", size="M7"),
        row(id="d", at=[-9, 9, 40], size="M3", pocket="closed", cover=6.0),
    ]  # fmt: skip
    found = placed_in(mesh, UP, PROCESS, [], rows)
    a, b, c, d = found.rows
    assert a.where and d.where["pause_mm"] == pytest.approx(8.6) and found.mesh.closed
    assert "over the edge" in b.why and "It has: " in c.why and b.where is None is c.where
    clamp = a.clamp(PROCESS.stock.e_z)
    assert clamp.grip == pytest.approx(a.where["grip_mm"]) and clamp.head.centre == pytest.approx([0, 0, 40])
    steel = triangles(a)
    assert steel[..., 2].max() == pytest.approx(46) and steel[..., 2].min() < 5
    again = placed_in(found.mesh, UP, PROCESS, [], [row(id="a", cut=a.where)])
    assert again.mesh.volume == pytest.approx(found.mesh.volume) and again.rows[0].where == a.where


def test_steel_stays_out_of_a_space_that_stays_free_and_off_a_protected_face():
    mesh = mesh_of(BLOCK)
    spaces = [{"name": "lever", "box": [[-20, -20, 40], [20, 20, 60]]}]
    bounds = Bounds(spaces=tuple(read_spaces(spaces, mesh)))
    refused = placed_in(mesh, UP, PROCESS, [], [row()], bounds=bounds).rows[0]
    assert refused.where is None and "“lever”" in refused.why
    assert placed_in(mesh, UP, PROCESS, [], [row(sunk=7.0)], bounds=bounds).rows[0].where
    top = next(f for f in find_flats(mesh) if f.normal[2] > 0.9)
    kept = placed_in(mesh, UP, PROCESS, [], [row()], protected=top.facets).rows[0]
    assert kept.where is None and "must stay as it is" in kept.why


# ------------------------------------------------------------------ bodies made by chance

KINDS = {
    "bolt": {"bore_mm": 3.55, "seat_mm": 7.4, "nut_mm": 5.9, "nut_sides_count": 6.0, "pocket_mm": 2.6},
    "rod": {"bore_mm": 5.0, "deep_mm": 12.0, "wall_mm": 0.9},
    "insert": {"bore_mm": 4.15, "deep_mm": 7.4, "wall_mm": 2.8},
    "key": {"width_mm": 4.2, "deep_mm": 2.0},
    "boss": {"bore_mm": 2.55, "outer_mm": 7.5, "rise_mm": 5.0, "deep_mm": 8.0},
    "pad": {"bore_mm": 8.4, "deep_mm": 2.0},
}


def body_by_chance(seed: int) -> m3.Manifold:
    """A block cut by slanting planes and drilled across, turned, its facets uneven."""
    rng = np.random.default_rng(seed)
    solid = box(*rng.uniform(24, 40, 3))
    for _ in range(3):
        way = rng.normal(size=3)
        solid = solid.trim_by_plane(tuple(-way / np.linalg.norm(way)), -float(rng.uniform(13, 18)))
    if rng.random() < 0.5:
        solid -= (
            m3.Manifold.cylinder(80, 2.5, circular_segments=24, center=True).rotate((90, 0, 0)).translate((6, 0, 5))
        )
    return solid.transform(np.c_[rotation(seed), np.zeros(3)])


@pytest.mark.parametrize("kind", KINDS)
def test_bodies_by_chance(kind):
    """Whatever is cut leaves a closed solid with a wall round it, and changes nothing that is not its own place."""
    made, said = 0, set()
    for seed in by_chance(50):
        solid = body_by_chance(seed)
        mesh = meshed(solid)
        flat = max(find_flats(mesh), key=lambda f: f.area)
        line = Line(flat.centre, -flat.normal)
        end = flat.centre + 9.0 * line.frame[:, 0]
        try:
            tool = seated(solid, kind, line, end, KINDS[kind], PROCESS)
        except Impossible as no:
            said.add(str(no))
            continue
        made += 1
        after = dusted(tool.on(solid))
        assert sound(after) and len(after.decompose()) == len(solid.decompose()), seed
        lost, gained = (solid - after).volume(), (after - solid).volume()
        assert lost == pytest.approx((solid ^ tool.remove).volume(), rel=1e-3, abs=0.05)
        assert gained == pytest.approx((tool.add - solid).volume(), rel=1e-3, abs=0.05)
    assert made > len(by_chance(50)) / 2, "cut on enough of them to say something"
    assert all(words.endswith(".") and len(words) > 20 for words in said)


def test_every_bore_of_a_bolted_part_is_found_and_takes_its_screw():
    found = placed_in(mesh_of(BLOCK), UP, PROCESS, [], [row(size="M6")])
    solid = solid_of(found.mesh)
    shank = m3.Manifold.cylinder(60, 3.0, circular_segments=64).translate((0, 0, 5.8))
    assert (solid ^ shank).volume() < 1e-6, "an M6 goes through to the membrane over its nut"
    bores = find_bores(found.mesh, RayScene(found.mesh))
    assert any(abs(b.diameter - 6.75) < 0.05 for b in bores)


def test_a_rod_with_a_nut_at_either_end_is_a_bolt_that_is_cut_to_length():
    """Standard nuts at both ends: M5 is 8 wide, 4.7 high; the rod reaches two turns through each."""
    made = bolt_of("M5", "rod", "washer", "hex_nut", "8.8", np.array(DOWN), UP)
    socket = bolt_of("M5", "socket", "washer", "hex_nut", "8.8", np.array(DOWN), UP)
    assert made.head_tall == pytest.approx(4.7 + 2 * 0.8 + made.washer[1]) and made.head_bearing == made.nut_bearing
    assert made.compliance(40.0) == socket.compliance(40.0) and made.stress_area == socket.stress_area
    (placed,) = placed_in(mesh_of(BLOCK), UP, PROCESS, [], [row(head="rod")]).rows
    assert placed.where, placed.why
    lines = {line["item"]: line for line in shopping([placed], {"a": 900.0})}
    rod = lines["threaded rod, 8.8"]
    reach = placed.where["grip_mm"] + made.washer[1] + 2 * (4.7 + 2 * 0.8)
    assert rod["length_mm"] == ceil(reach) and rod["torque_nmm"] == 900.0
    assert lines["hexagon nut"]["count"] == 2 and lines["washer"]["count"] == 1
