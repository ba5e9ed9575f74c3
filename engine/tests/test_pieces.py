"""One part as several pieces: halves and pegs, a feature with a tenon, a plate put in; and feet to stand on."""

from itertools import pairwise

import manifold3d as m3
import numpy as np
import pytest
from shapes import box, by_chance, mesh_of, rod, rotation, sphere
from test_adapting import UP, adapt, block, good, only, rounded, solid

from hewel_engine.advice.adapting import reworked
from hewel_engine.advice.bounds import FULL
from hewel_engine.advice.dividing import (
    DividedPart,
    divided_by_plane,
    one_mesh,
    side_by_side,
    with_a_feature_apart,
    with_a_plate_put_in,
)
from hewel_engine.edits.splits import Joint
from hewel_engine.edits.tools import Impossible
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.rays import RayScene
from hewel_engine.orientation.candidates import typed
from hewel_engine.processes import Process

P = Process()
HOLLOW = box(40, 40, 40) - box(34, 34, 34)


def halved(part, point=(0, 0, 0), normal=UP, **joint) -> DividedPart:
    mesh = part if isinstance(part, Mesh) else mesh_of(part)
    return divided_by_plane(
        mesh, np.asarray(point, float), np.asarray(normal, float), P, Joint(**{"clearance": 0.1} | joint)
    )


def piece(found: DividedPart, name: str) -> m3.Manifold:
    return solid(next(p.mesh for p in found.pieces if p.name == name))


def peg_at(seat: dict, normal=UP) -> m3.Manifold:
    """A plain peg where a seat says, long enough to show its fit."""
    turn = rotation_to(normal)
    rod_ = m3.Manifold.cylinder(3, seat["peg_mm"] / 2, circular_segments=48, center=True)
    return rod_.transform(np.c_[turn, np.array(seat["place_mm"])])


def rotation_to(normal) -> np.ndarray:
    n = np.asarray(normal, float)
    side = np.cross(n, [1.0, 0, 0] if abs(n[0]) < 0.9 else [0, 1.0, 0])
    side /= np.linalg.norm(side)
    return np.c_[side, np.cross(n, side), n]


def within(found: DividedPart, at) -> bool:
    """Whether material of any piece is at a point."""
    dot = box(0.1, 0.1, 0.1).translate(tuple(at))
    return any((solid(p.mesh) ^ dot).volume() > 1e-9 for p in found.pieces)


# ------------------------------------------------------------------ split


def test_a_closed_hollow_box_becomes_two_cups_that_need_no_support():
    found = halved(HOLLOW)
    below, above = piece(found, "half below"), piece(found, "half above")
    assert found.warnings == [] and len(found.seats) == 2
    assert not any(p.needs_support for p in found.pieces) and all(p.mesh.closed for p in found.pieces)
    assert not within(found, (0, 0, 0)) and not within(found, (10, 10, 15)), "the cavity is kept"
    assert within(found, (0, 0, 18.5)) and within(found, (18.5, 0, 3))
    assert (below ^ above).volume() == pytest.approx(0, abs=1e-9)
    assert below.bounding_box()[5] == pytest.approx(0, abs=1e-9) == above.bounding_box()[2]
    for seat in found.seats:
        assert seat["diameter_mm"] - seat["peg_mm"] == pytest.approx(0.2)
        assert seat["wall_mm"] == pytest.approx(3, abs=0.1), "as thick as the shell"


def test_pegs_fit_with_the_clearance_that_was_asked_for():
    for clearance in (0.1, 0.18):
        found = halved(HOLLOW, clearance=clearance)
        for seat in found.seats:
            for half in ("half below", "half above"):
                gap = peg_at(seat).min_gap(piece(found, half), 2)
                assert gap == pytest.approx(clearance, abs=0.012), "measured on the solids"
        for p in found.pieces[2:]:
            assert solid(p.mesh).min_gap(piece(found, "half above"), 2) == pytest.approx(clearance, abs=0.012)
            low, high = p.mesh.box[:, 2]
            assert -low == pytest.approx(high) and high >= 2, "engaged on both sides"
            assert found.seats[0]["depth_mm"] - high == pytest.approx(0.5), "the end gap"


def test_the_halves_go_together_one_way():
    found = halved(box(40, 30, 24))
    above = piece(found, "half above")
    pegs = [solid(p.mesh) for p in found.pieces[2:]]
    assert pegs and all((peg ^ above).volume() == pytest.approx(0, abs=1e-9) for peg in pegs)
    turned = above.rotate((0, 0, 180))
    assert any((peg ^ turned).volume() > 1 for peg in pegs)


def test_halves_of_a_solid_lose_their_sockets_only():
    found = halved(box(40, 30, 24), count=3, diameter=6.0, engagement=5.0)
    area = lambda d: 48 / 2 * np.sin(2 * np.pi / 48) * (d / 2) ** 2
    mouths = sum(np.pi / 3 * 0.4 * ((r + 0.4) ** 2 + (r + 0.4) * r - 2 * r * r) for r in (3.0, 2.25, 2.25))
    lost = 5.5 * (area(6.0) + 2 * area(4.5)) + mouths
    for half in ("half below", "half above"):
        assert piece(found, half).volume() == pytest.approx(40 * 30 * 12 - lost, rel=2e-4)
    assert [p.count for p in found.pieces] == [1, 1, 1, 2]


def test_pegs_sit_where_they_are_told_to_and_thin_walls_are_warned_of():
    found = halved(box(40, 30, 24), places=((10.0, 5.0, 0.0), (-18.0, 0.0, 0.0)), diameter=4.0)
    assert [s["place_mm"] for s in found.seats] == [[10, 5, 0], [-18, 0, 0]]
    assert any("wall beside a socket is 0.50 mm" in w for w in found.warnings)
    short = halved(box(40, 30, 24), engagement=1.0)
    assert any("1.00 mm into a half" in w for w in short.warnings)
    assert any("no pegs" in w for w in halved(box(40, 30, 24), count=0).warnings)
    assert any("room for" in w for w in halved(box(9, 6, 24), count=3).warnings)


def test_a_half_that_falls_apart_is_warned_of():
    ears = box(40, 30, 10) + box(6, 30, 40).translate((-15, 0, 20)) + box(6, 30, 40).translate((15, 0, 20))
    assert any("half above falls into 2 separate bodies" in w for w in halved(ears, point=(0, 0, 20)).warnings)


def test_a_plane_beside_the_part_is_refused_in_words():
    with pytest.raises(Impossible, match=r"reaches from -32\.0 to -8\.0 mm"):
        halved(box(40, 30, 24), point=(0, 0, 20))


def test_a_ball_that_is_hollow_gets_domes_printed_on_the_cut():
    """Its dome closes over a clean bridge: 2·7·sin 45° = 9.9 mm. A larger one needs support however it is turned."""
    ball = solid(sphere(9, 64)) - solid(sphere(7, 64))
    found = halved(ball)
    assert not any(p.needs_support for p in found.pieces)
    assert found.pieces[0].up == pytest.approx([0, 0, -1]) and found.pieces[1].up == pytest.approx([0, 0, 1])
    assert (piece(found, "half above") - solid(sphere(9, 64))).volume() < 1e-6, "no boss stands out of the shell"


def test_bodies_made_by_chance_are_halved():
    for seed in by_chance(20):
        chance = np.random.default_rng(seed)
        body = block(chance)
        if seed % 2:
            wall = chance.uniform(2.5, 4)
            x0, y0, _, x1, y1, z1 = body.bounding_box()
            room = (x1 - x0 - 2 * wall, y1 - y0 - 2 * wall, 0.6 * z1)
            body -= box(*room).translate(((x0 + x1) / 2, (y0 + y1) / 2, 0.45 * z1))
        turn, at = rotation(seed), np.array([0, 0, chance.uniform(10, 22)])
        part = mesh_of(body).moved(turn)
        found = halved(part, turn @ at, turn @ UP, count=int(chance.integers(2, 4)))
        halves = [piece(found, n) for n in ("half below", "half above")]
        assert found.pieces and all(p.mesh.closed for p in found.pieces), seed
        assert (halves[0] ^ halves[1]).volume() < 1e-6, seed
        assert len(found.seats) >= 2, (seed, found.warnings)
        for p in found.pieces[2:]:
            assert min(solid(p.mesh).min_gap(h, 1) for h in halves) > 0.08, seed
        sockets = sum(np.pi * (s["diameter_mm"] / 2 + 0.4) ** 2 * 2 * s["depth_mm"] for s in found.seats)
        bosses = sum(np.pi * (s["diameter_mm"] / 2 + 4.5) ** 2 * 2 * (s["depth_mm"] + 15) for s in found.seats) * (
            seed % 2
        )
        kept = sum(h.volume() for h in halves)
        assert part.volume - sockets < kept < part.volume + bosses, seed


# ------------------------------------------------------------------ a feature apart

MAST = box(40, 40, 20).translate((0, 0, -10)) + box(12, 10, 60).translate((0, 0, 30))


def test_a_feature_is_printed_lying_and_joined_by_a_tenon():
    found = with_a_feature_apart(mesh_of(MAST), np.zeros(3), UP, P, 0.1)
    body, feature = piece(found, "body"), piece(found, "feature")
    assert not any(p.needs_support for p in found.pieces)
    lies = next(p for p in found.pieces if p.name == "feature")
    assert abs(lies.up[2]) < 1e-3, "its length in the layers"
    assert (body ^ feature).volume() == pytest.approx(0, abs=1e-6)
    tenon = feature.trim_by_plane((0, 0, -1), 0.1)
    assert tenon.min_gap(body, 2) == pytest.approx(0.1, abs=5e-3)
    deep = found.numbers["depth_mm"]
    assert feature.bounding_box()[2] == pytest.approx(-deep, abs=5e-3)
    # shoulders of 1 mm on three sides, flush with the longest: the faces 12 mm wide
    assert found.numbers["root_mm2"] == pytest.approx(10 * 9, rel=1e-2)
    assert found.numbers["shear_mm2"] == pytest.approx(2 * (10 + 9) * deep, rel=1e-2)
    assert found.numbers["peel_mm2"] == pytest.approx(120, rel=1e-3)
    assert any("out of peel" in w for w in found.warnings)


@pytest.mark.parametrize(
    ("part", "words"),
    [
        (box(40, 40, 20).translate((0, 0, -10)) + box(4, 4, 60).translate((0, 0, 30)), "too slender"),
        (box(40, 40, 3).translate((0, 0, -1.5)) + box(12, 10, 60).translate((0, 0, 30)), "too thin for a pocket"),
        (box(40, 40, 20).translate((0, 0, -30)), "cuts nothing off"),
    ],
)
def test_a_feature_that_cannot_be_apart_is_refused_in_words(part, words):
    with pytest.raises(Impossible, match=words):
        with_a_feature_apart(mesh_of(part), np.zeros(3), UP, P, 0.1)


def test_fifty_features_apart():
    for seed in by_chance(50):
        chance = np.random.default_rng(seed)
        body = block(chance, z=(26, 40)).translate((0, 0, 0))
        z = body.bounding_box()[5]
        sides = int(chance.integers(4, 40))
        feature = rod(40, chance.uniform(4, 7), sides).rotate((0, 0, chance.uniform(0, 90))).translate((0, 0, z + 20))
        turn = rotation(seed)
        part = mesh_of(body + feature + rod(24, 12, 40).translate((0, 0, z - 12 + 1e-3))).moved(turn)
        found = with_a_feature_apart(part, turn @ np.array([0, 0, z + 1e-3]), turn @ UP, P, 0.1)
        one, other = (solid(p.mesh) for p in found.pieces)
        assert found.pieces and all(p.mesh.closed for p in found.pieces) and (one ^ other).volume() < 1e-3, seed
        slab = np.pi * 50 * 0.01
        lost = found.numbers["root_mm2"] * 0.3 + found.numbers["shear_mm2"] * 0.13 + 40
        assert part.volume - lost - slab < one.volume() + other.volume() < part.volume + slab, seed


# ------------------------------------------------------------------ a plate put in at a pause


def put_in(part, up=UP, layer=0.2, **given) -> DividedPart:
    mesh = part if isinstance(part, Mesh) else mesh_of(part)
    return with_a_plate_put_in(mesh, np.asarray(up, float), Process(layer=layer), [], 0.1, **given)


def void(x=60.0, y=40.0, tall=24.0, wall=5.0, floor=3.0, roof=5.0) -> m3.Manifold:
    room = box(x - 2 * wall, y - 2 * wall, tall - floor - roof).translate((0, 0, (tall - roof + floor) / 2))
    return box(x, y, tall).translate((0, 0, tall / 2)) - room


@pytest.mark.parametrize("layer", [0.1, 0.2, 0.3])
@pytest.mark.parametrize("thickness", [None, 1.7])
@pytest.mark.parametrize("roof", [5.0, 5.07])
def test_a_void_gets_a_plate_and_a_pause_at_the_right_layer(layer, thickness, roof):
    found = put_in(void(roof=roof), layer=layer, thickness=thickness)
    (pause,) = found.pauses
    plate = piece(found, "plate")
    seat, top = plate.bounding_box()[2::3]
    assert pause.height == pytest.approx(np.ceil((top - 1e-6) / layer) * layer, abs=1e-6)
    assert pause.layer == round(pause.height / layer)
    assert top <= pause.height + 1e-9, "nothing stands proud"
    assert seat == pytest.approx(np.ceil((24 - roof) / layer - 0.5 - 1e-9) * layer, abs=1e-6)
    body = piece(found, "body")
    assert (body ^ plate).volume() == pytest.approx(0, abs=1e-6)
    assert plate.min_gap(body, 1) == pytest.approx(0, abs=1e-6), "it lies on its seat"
    wide = found.numbers["seat_mm"]
    tab = min(max(4, 4 * wide), 0.3 * 50)
    plan = (50 + 2 * wide) * (30 + 2 * wide) + tab * wide  # the tab reaches a seat's width beyond the seat
    assert plate.volume() / (top - seat) == pytest.approx(plan - 0.1 * 2 * (50 + 30 + 4 * wide + wide), rel=2e-3)
    assert not any(p.needs_support for p in found.pieces)


def test_what_hangs_beside_the_void_is_not_the_plates_fault():
    part = void() + box(20, 10, 5).translate((39, 0, 8))
    found = put_in(part)
    assert [p.needs_support for p in found.pieces] == [True, False], "the arm outside still wants its gusset"
    assert found.pauses


def test_a_plate_goes_in_one_way():
    found = put_in(void())
    body, plate = piece(found, "body"), piece(found, "plate")
    assert (plate ^ body).volume() == pytest.approx(0, abs=1e-6)
    assert (plate.rotate((0, 0, 180)) ^ body).volume() > 1


@pytest.mark.parametrize(
    ("part", "words"),
    [
        (void(wall=2.0), "wall beside the void is 2.00 mm"),
        (void(roof=1.2), "1.20 mm stand above the void"),
        (void() - box(30, 30, 8).translate((0, 20, 15)), "open at a side"),
        (void() + rod(24, 3, 40).translate((0, 0, 12)), "stands up into the void"),
        (box(20, 20, 20).translate((0, 0, 10)), "No ceiling needs support"),
    ],
    ids=["thin wall", "thin roof", "open", "pillar", "solid"],
)
def test_a_plate_that_cannot_be_put_in_is_refused_in_words(part, words):
    with pytest.raises(Impossible, match=words):
        put_in(part)


def test_fifty_plates_put_in():
    for seed in by_chance(50):
        chance = np.random.default_rng(seed)
        part = void(chance.uniform(50, 70), chance.uniform(34, 48), chance.uniform(18, 40), chance.uniform(3, 7),
                    chance.uniform(2, 4), chance.uniform(3, 6))  # fmt: skip
        part += rod(10, chance.uniform(2, 5), int(chance.integers(12, 60))).translate(
            (chance.uniform(-9, 9), 0, part.bounding_box()[5] + 4)
        )
        turn = rotation(seed)
        found = put_in(mesh_of(part).moved(turn), turn @ UP)
        assert found.pieces and all(p.mesh.closed and not p.needs_support for p in found.pieces), seed
        body, plate = piece(found, "body"), piece(found, "plate")
        assert (body ^ plate).volume() < 1e-6, seed


# ------------------------------------------------------------------ together on a plate


def test_pieces_stand_side_by_side_as_they_are_printed():
    found = halved(HOLLOW, count=3)
    rows = side_by_side(found.pieces, P)
    assert [n for n, _ in rows] == ["half below", "half above", "peg 1", "peg 2, 1 of 2", "peg 2, 2 of 2"]
    assert rows and all(m.box[0, 2] == pytest.approx(0, abs=1e-9) for _, m in rows)
    ends = [m.box[:, 0] for _, m in rows]
    assert all(b[0] - a[1] == pytest.approx(5) for a, b in pairwise(ends))
    whole = one_mesh(rows)
    assert whole.closed and whole.volume == pytest.approx(sum(p.count * p.mesh.volume for p in found.pieces))


# ------------------------------------------------------------------ feet, rounds


def plate_step(key: str, **numbers) -> dict:
    return {"key": key, "kind": "plate", "centre_mm": [0.0, 0, 0], "set": numbers}


@pytest.mark.parametrize("key", ["added_foot", "sliced_foot"])
def test_a_part_on_its_edge_gets_a_foot(key):
    part = mesh_of(box(40, 30, 20))
    up = np.array([np.sin(0.06), 0, np.cos(0.06)])
    before = typed(part, RayScene(part), up, P, []).measures
    assert before["tipping_deg"] < 5
    found = reworked(part, up, P, [], [plate_step(key)])
    done = only(found)
    after = typed(found.mesh, RayScene(found.mesh), up, P, []).measures
    assert after["tipping_deg"] >= 5 and after["drag_ratio"] >= 2 and found.mesh.closed
    high, across = done.tool.numbers["height_mm"], np.tan(0.06) + 1 / np.tan(0.06)
    wedge = 30 * high**2 * across / 2
    if key == "sliced_foot":
        assert done.removed == pytest.approx(wedge, rel=0.01) and done.added == 0
    else:
        wide = done.tool.numbers["foot_mm2"]
        assert done.added == pytest.approx(wide * high - wedge, rel=0.1)


def test_what_stands_needs_no_foot_and_what_cannot_says_so():
    part = mesh_of(box(40, 30, 20))
    assert "stands without one" in reworked(part, UP, P, [], [plate_step("added_foot")]).unfit[0][1]
    pole = mesh_of(rod(150, 3, 32))
    up = np.array([0.17, 0, 0.985])
    assert (
        "would not hold it" in reworked(pole, up / np.linalg.norm(up), P, [], [plate_step("sliced_foot")]).unfit[0][1]
    )


def test_after_a_foot_is_cut_the_other_steps_find_their_places():
    part = mesh_of(box(30, 30, 40) + box(40, 14, 6).translate((30, 0, 10)))
    up = np.array([0.1, 0, 1]) / np.linalg.norm([0.1, 0, 1])
    (gusset,) = [s.as_dict() for s in adapt(part, up).applied if s.tool.key == "gusset"]
    found = reworked(part, up, P, [], [plate_step("sliced_foot", height_mm=1.1), gusset], bounds=FULL)
    assert [a.tool.key for a in found.applied] == ["sliced_foot", "gusset"], found.unfit
    low = (found.mesh.vertices @ up).min() - (part.vertices @ up).min()
    assert low == pytest.approx(1.1, abs=1e-6), "what is left lies where it lay"


def test_a_round_on_the_plate_is_filled_when_it_is_asked_for():
    found = good(adapt(rounded(5), keys=("filled_round",)))
    done = only(found)
    assert done.added == pytest.approx(60 * 25 * (1 - np.pi / 4), rel=0.01)
    assert done.tool.numbers["hides_mm"] == pytest.approx(0.2 / (1 - np.sin(np.pi / 4)))
