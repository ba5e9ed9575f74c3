"""Bores and flats of the kinds that are easily mistaken."""

import manifold3d as m3
import numpy as np
import pytest
from shapes import box, mesh_of, rod, rotation, torus

from hewel_engine.geometry.features import find_bores, find_flats
from hewel_engine.io.reading import take_in
from hewel_engine.io.stl import write_stl
from hewel_engine.parts.facts import facts_of


def bores(solid, seed=None):
    mesh = mesh_of(solid)
    if seed is not None:
        mesh = mesh.moved(rotation(seed), np.array([12.0, -40, 5]))
    return [(round(b.diameter, 2), round(b.depth, 2), b.through) for b in find_bores(mesh)]


BLOCK = box(40, 30, 20)


@pytest.mark.parametrize("sides", [8, 12, 17, 64, 256, 720])
def test_bores_survive_a_file_in_single_precision(sides):
    part = BLOCK - rod(30, 4, sides).translate((8, 3, 0)) - rod(60, 3, sides, axis="x").translate((0, -9, 2))
    for seed in (4, 9):
        turned = mesh_of(part).moved(rotation(seed), np.array([90.0, 40, 15]))
        found = find_bores(take_in(write_stl(turned)).mesh)
        assert [(round(b.diameter, 2), round(b.depth, 1), b.through) for b in found] == [(8, 20, True), (6, 40, True)]


@pytest.mark.parametrize("sides", [8, 12, 17, 64, 256])
def test_through_bore_of_any_number_of_sides(sides):
    for seed in (None, 3):
        assert bores(BLOCK - rod(30, 4, sides), seed) == [(8.0, 20.0, True)]


@pytest.mark.parametrize(
    "solid",
    [
        BLOCK - rod(30, 4, 6),  # a hexagon
        BLOCK + rod(40, 4, 64),  # a pin
        BLOCK - m3.Manifold.cylinder(30, 4, 4.6, 64, True),  # a taper
        BLOCK - rod(30, 4, 64).translate((20, 0, 0)),  # half a bore in the edge
        BLOCK - (rod(30, 4, 64).translate((6, 0, 0)) + rod(30, 4, 64).translate((-6, 0, 0)) + box(12, 8, 30)),  # a slot
        BLOCK - (rod(8, 8, 64) - rod(10, 4, 64)).translate((0, 0, 8)),  # a ring groove round a post
        BLOCK - rod(6, 4, 64),  # closed in on all sides
    ],
    ids=["hexagon", "pin", "taper", "partial", "slot", "groove", "cavity"],
)
def test_what_is_not_a_bore(solid):
    assert bores(solid) == []


def test_blind_bores_flat_conical_and_domed():
    flat = rod(10, 4).translate((0, 0, 10))
    for bottom, depth in ((None, 5.0), (m3.Manifold.cylinder(3, 0, 4, 64, False).translate((0, 0, 2)), 5.0)):
        tool = flat if bottom is None else flat + bottom
        assert bores(BLOCK - tool) == [(8.0, depth, False)]
    dome = m3.Manifold.sphere(4, 64).translate((0, 0, 5))
    assert bores(BLOCK - (flat + dome)) == [(8.0, 5.0, False)]


def test_every_step_of_a_stepped_hole_is_one():
    assert bores(BLOCK - rod(30, 3) - rod(10, 6).translate((0, 0, 10))) == [(12.0, 5.0, False), (6.0, 15.0, True)]


def test_crossing_holes_part_no_bore():
    assert sorted(bores(box(30, 30, 30) - rod(40, 4) - rod(40, 6, axis="y"), 5)) == [
        (8.0, 30.0, True),
        (12.0, 30.0, True),
    ]
    assert sorted(bores(box(30, 30, 30) - rod(40, 6) - rod(40, 3, axis="x"))) == [(6.0, 30.0, True), (12.0, 30.0, True)]


def test_the_two_ears_of_a_clevis_are_two_bores():
    clevis = box(6, 30, 30).translate((-10, 0, 15)) + box(6, 30, 30).translate((10, 0, 15)) + box(40, 30, 6)
    assert bores(clevis - rod(60, 4, axis="x").translate((0, 0, 20)), 7) == [(8.0, 6.0, True)] * 2


def test_bore_is_found_where_it_is():
    (b,) = find_bores(mesh_of(BLOCK - rod(30, 3).translate((7, -4, 0))))
    assert b.centre == pytest.approx([7, -4, 0], abs=1e-6) and abs(b.axis[2]) == pytest.approx(1)


def test_flats_of_a_box_and_none_on_a_torus():
    flats = find_flats(mesh_of(BLOCK))
    assert sorted(round(f.area, 6) for f in flats) == [600, 600, 800, 800, 1200, 1200]
    assert find_flats(torus(20, 5)) == []


def test_a_hollow_that_nothing_opens_into_is_told():
    open_ = mesh_of(box(20, 20, 20) - box(10, 10, 30))
    assert facts_of(open_).notes == []
    shut = facts_of(mesh_of(box(20, 20, 20) - box(10, 10, 10))).notes
    assert [n["code"] for n in shut] == ["hollow"] and "1000 mm³" in shut[0]["message"]


def test_facts_of_two_bodies_one_hollow():
    hollow = box(20, 20, 20) - box(10, 10, 10)
    f = facts_of(mesh_of(hollow + box(5, 5, 5).translate((30, 0, 0)))).as_dict()
    assert f["bodies"] == 2 and f["watertight"]
    assert f["volume_mm3"] == pytest.approx(8000 - 1000 + 125)
    assert f["centre_of_mass_mm"][0] == pytest.approx(30 * 125 / 7125)
    assert f["bbox_mm"] == [pytest.approx([-10, -10, -10]), pytest.approx([32.5, 10, 10])]
