"""A part set against another by pairs of faces: where it lies, where both would be in one place, what is left."""

from math import hypot

import numpy as np
import pytest
from shapes import box, by_chance, mesh_of, rod, rotation

from hewel_engine.edits.solids import solid_of
from hewel_engine.errors import InputError
from hewel_engine.fits.bought import EXPANSION, body_of, kinds
from hewel_engine.fits.estimates import Wish, estimate
from hewel_engine.fits.mating import Bought, Pair, Side, left_between, overlap, placed
from hewel_engine.fits.numbers import given_numbers
from hewel_engine.geometry.measures import feature_of
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.patches import find_faces
from hewel_engine.geometry.rays import RayScene
from hewel_engine.processes import Process

PETG = Process(material="petg", layer=0.2, width=0.45)
Z = np.array([0.0, 0, 1])


def face(mesh: Mesh, at, normal):
    rays = RayScene(mesh)
    at, normal = np.array(at, float), np.array(normal, float)
    facet = int(rays.facets((at + 0.2 * normal)[None], -normal[None])[0])
    return feature_of(mesh, rays, find_faces(mesh).around(facet))


BOX = (box(44, 34, 20) - box(40, 30, 20).translate((0, 0, 3))).translate((0, 0, 10))
LID = box(44, 34, 3).translate((0, 0, 1.5)) + box(39.6, 29.6, 6).translate((0, 0, 6))


def lid_on_box(turn, shift):
    box_, lid = mesh_of(BOX), mesh_of(LID.transform(np.c_[turn, shift]))
    at = lambda p: turn @ np.array(p, float) + shift
    pairs = [
        Pair(face(box_, (0, 15, 15), (0, -1, 0)), face(lid, at((0, 14.8, 6)), turn @ [0, 1, 0])),
        Pair(face(box_, (20, 0, 15), (-1, 0, 0)), face(lid, at((19.8, 0, 6)), turn @ [1, 0, 0])),
        Pair(face(box_, (21, 0, 20), (0, 0, 1)), face(lid, at((21, 0, 3)), turn @ [0, 0, 1])),
    ]
    centre = lambda mesh: mesh.box.mean(axis=0)
    return box_, lid, placed(pairs, centre(box_), centre(lid)), pairs


@pytest.mark.parametrize("seed", by_chance(0, 12))
def test_a_lid_is_turned_onto_its_box_from_wherever_it_lay(seed):
    _, lid, where, _ = lid_on_box(rotation(seed), np.random.default_rng(seed).normal(size=3) * 60)
    assert where.meets and not where.free
    solid = solid_of(lid)
    on = mesh_of(solid.transform(where.matrix))
    low, high = on.box
    assert low[2] == pytest.approx(14, abs=1e-6) and high[2] == pytest.approx(23, abs=1e-6), "its skirt is inside"
    assert np.linalg.det(where.turn) == pytest.approx(1)
    assert overlap(BOX, solid, where).volume == 0, "it fits as it is drawn"
    assert on.triangles.reshape(-1, 3)[:, 2].max() == pytest.approx(23, abs=1e-6)


def test_a_hollow_lid_is_as_wide_as_its_skirt_not_as_one_wall_of_it():
    lid = LID - box(36, 26, 8).translate((0, 0, 7))
    mesh, box_ = mesh_of(lid), mesh_of(BOX)
    alone = face(mesh, (0, 14.8, 6), (0, 1, 0))
    gap = face(box_, (0, 15, 15), (0, -1, 0))
    pair = Pair.of(gap, box_, alone, mesh)
    assert alone.size == pytest.approx(1.8) and pair.other.size == pytest.approx(29.6) and pair.how == "between"
    assert placed([pair], np.zeros(3), np.zeros(3)).shift == pytest.approx(np.zeros(3), abs=1e-9)
    wall = Pair.of(gap, box_, face(mesh_of(box(4, 4, 4)), (0, 2, 0), (0, 1, 0)), mesh_of(box(4, 4, 4)))
    assert wall.how == "against" and not wall.fits, "a small block in a wide box only touches its wall"


def test_where_both_would_be_is_measured():
    pin, hole = mesh_of(rod(20, 5.2, 96)), box(30, 30, 10) - rod(40, 5, 96)
    pairs = [Pair(face(mesh_of(hole), (5, 0, 0), (-1, 0, 0)), face(pin, (5.2, 0, 2), (1, 0, 0)))]
    where = placed(pairs, np.zeros(3), np.zeros(3))
    assert where.meets and where.free, "it can slide along the axis and turn"
    found = overlap(hole, rod(20, 5.2, 96), where)
    area = 48 * np.sin(2 * np.pi / 96)
    assert found.volume == pytest.approx(10 * area * (5.2**2 - 5**2), rel=1e-6)
    assert len(found.places) == 1 and np.abs(found.places[0]).max() < 1e-6


def test_faces_that_cannot_meet_together_say_by_how_much():
    plate, block = mesh_of(box(40, 40, 4)), mesh_of(box(10, 10, 10))
    pairs = [
        Pair(face(plate, (0, 0, 2), (0, 0, 1)), face(block, (0, 0, -5), (0, 0, -1))),
        Pair(face(plate, (20, 0, 0), (1, 0, 0)), face(block, (0, 0, -5), (0, 0, -1))),
    ]
    assert placed(pairs, np.zeros(3), np.zeros(3)).tilt > 40
    apart = [
        Pair(face(plate, (0, 0, 2), (0, 0, 1)), face(block, (0, 0, -5), (0, 0, -1))),
        Pair(face(plate, (0, 0, -2), (0, 0, -1)), face(block, (0, 0, 5), (0, 0, 1))),
    ]
    where = placed(apart, np.zeros(3), np.zeros(3))
    assert where.tilt == 0 and where.off == pytest.approx(7, abs=1e-3) and not where.meets


def test_what_is_left_takes_both_as_they_come_out_and_the_warmth_of_both():
    _, _, _, pairs = lid_on_box(np.eye(3), np.zeros(3))
    numbers = given_numbers(PETG, {})
    box_side, lid_side = Side(numbers, Z, 0.0, 60e-6), Side(numbers, Z, 0.0, 90e-6)
    found = left_between(pairs[0], box_side, lid_side, -40.0, 30.0)
    hole, pin = (estimate(f, Wish(), numbers, Z, 0.0) for f in (pairs[0].mine, pairs[0].other))
    assert found.gap == pytest.approx((hole.printed - pin.printed) / 2)
    assert found.worst[0] == pytest.approx(found.gap - (hole.doubt + pin.doubt) / 2)
    assert found.squares[1] == pytest.approx(found.gap + hypot(hole.doubt, pin.doubt) / 2)
    assert found.cold == pytest.approx(found.gap + pin.printed * 30e-6 * 40 / 2)
    assert found.warm == pytest.approx(found.gap - pin.printed * 30e-6 * 30 / 2)
    assert left_between(pairs[2], box_side, lid_side, 0.0, 0.0) is None, "faces that touch leave nothing"
    swapped = left_between(Pair(pairs[0].other, pairs[0].mine), lid_side, box_side, -40.0, 30.0)
    assert swapped == found


def bought_on(kind: str, numbers: dict, size: str, mesh: Mesh, pairs: list) -> tuple:
    """A bought body set against ``mesh`` by (place, normal, name of its face)."""
    body = body_of(kind, numbers, size)
    met = [Pair.of(face(mesh, at, n), mesh, face(body.mesh, *body.faces[name]), body.mesh) for at, n, name in pairs]
    centre = lambda m: m.box.mean(axis=0)
    return body, met, placed(met, centre(mesh), centre(body.mesh))


@pytest.mark.parametrize("kind", [k.key for k in kinds()])
def test_a_bought_body_is_closed_and_its_faces_are_where_they_are_said_to_be(kind):
    body = body_of(kind, {}, "")
    assert body.mesh.volume > 0
    for at, normal in body.faces.values():
        hit = int(RayScene(body.mesh).facets((at + 0.2 * normal)[None], -normal[None])[0])
        assert body.mesh.normals[hit] @ normal > 0.999


def test_a_bearing_in_its_seat_leaves_what_the_bore_comes_out_as():
    seat = mesh_of(box(40, 40, 12).translate((0, 0, 6)) - rod(20, 11.0).translate((0, 0, 15)))
    low = RayScene(seat).distances(np.array([[0, 0, 50.0]]), np.array([[0, 0, -1.0]]))[0]
    floor = 50 - low
    pairs = [((10.9, 0, 9), (-1, 0, 0), "outer face"), ((0, 3, floor), (0, 0, 1), "other side")]
    body, met, where = bought_on("bearing", {}, "", seat, pairs)
    assert met[0].fits and met[0].other.size == pytest.approx(22, abs=0.02)
    assert (body.mesh.box @ where.turn.T + where.shift)[:, 2].min() == pytest.approx(floor, abs=1e-6)
    mine = Side(given_numbers(PETG, {}), Z, 0.0, 60e-6)
    told = left_between(met[0], mine, Bought(0.0, 0.009, EXPANSION), 0.0, 40.0)
    printed = estimate(met[0].mine, Wish(), mine.numbers, Z, 0.0)
    assert told.gap == pytest.approx((printed.printed - (met[0].other.size - 0.0045)) / 2)
    assert told.worst[1] - told.gap == pytest.approx(printed.doubt / 2 + 0.00225)
    assert told.warm - told.gap == pytest.approx(40 * (60e-6 - EXPANSION) * 22 / 2, rel=0.02), "plastic grows more"


def test_a_screw_stands_with_its_head_on_the_face():
    plate = mesh_of(box(30, 30, 5).translate((0, 0, 2.5)) - rod(20, 2.75))
    pairs = [((2.7, 0, 2), (-1, 0, 0), "shank"), ((8, 8, 5), (0, 0, 1), "under its head")]
    body, _, where = bought_on("screw", {"length": 20.0}, "M5", plate, pairs)
    z = (body.mesh.vertices @ where.turn.T + where.shift)[:, 2]
    assert where.meets and z.max() == pytest.approx(10) and z.min() == pytest.approx(-15)
    assert overlap(solid_of(plate), solid_of(body.mesh), where).volume == 0


@pytest.mark.parametrize(("kind", "numbers", "size"), [
    ("bearing", {"bore": 30.0}, ""), ("shaft", {"diameter": 0.0}, ""), ("screw", {}, "M7"), ("nut", {}, ""),
    ("shaft", {"length": float("nan")}, ""),
])  # fmt: skip
def test_what_nobody_sells_is_refused_in_words(kind, numbers, size):
    with pytest.raises(InputError):
        body_of(kind, numbers, size)
