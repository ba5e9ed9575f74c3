"""Sections of bodies whose answer is known."""

import manifold3d as m3
import numpy as np
import pytest
import shapely
from shapes import box, mesh_of, rod, rotation, sphere, torus

from hewel_engine.geometry.plans import GENTLE, ROUND, as_polygons, enclosed, grown
from hewel_engine.geometry.sections import LayerStack

UP = np.array([0, 0, 1.0])


def stack_of(solid, up=UP, pitch=0.2):
    return LayerStack(solid if not isinstance(solid, m3.Manifold) else mesh_of(solid), np.asarray(up, float), pitch)


def test_section_integrals_of_a_box():
    s = stack_of(box(30, 20, 10).translate((7, 3, 0)))
    area, sx, sy, sxx, syy, sxy, perimeter = s.integrals[7]
    assert (area, perimeter) == (pytest.approx(600), pytest.approx(100))
    assert sx == pytest.approx(0, abs=1e-9) and sy == pytest.approx(0, abs=1e-9)  # centred over the box
    assert sxx == pytest.approx(20 * 30**3 / 12) and syy == pytest.approx(30 * 20**3 / 12)
    assert sxy == pytest.approx(0, abs=1e-9)
    assert s.count == 50


def test_sphere_sections_follow_the_circle():
    s = LayerStack(sphere(20, 512), np.array([0.3, -0.5, 0.8]) / np.linalg.norm([0.3, -0.5, 0.8]), 0.5)
    z = 0.25 + 0.5 * np.arange(s.count) - 20
    assert s.integrals[:, 0] == pytest.approx(np.pi * (400 - z * z), rel=2e-3, abs=0.6)


@pytest.mark.parametrize("seed", range(4))
def test_outlines_enclose_what_the_integrals_say_and_add_up_to_the_volume(seed):
    part = mesh_of(box(40, 20, 8) - rod(30, 5).translate((10, 0, 0)) + rod(20, 4, axis="y").translate((-15, 0, 8)))
    up = rotation(seed)[2]
    s = LayerStack(part, up, 0.1)
    area = np.array([s.plan(k).area() for k in range(s.count)])
    assert area == pytest.approx(s.integrals[:, 0], abs=0.02)  # what lies within 1e-4 mm of straight is left out
    loops = np.array(
        [sum(np.linalg.norm(p - np.roll(p, -1, axis=0), axis=1).sum() for p in s.outline(k)) for k in range(s.count)]
    )
    assert loops == pytest.approx(s.integrals[:, 6], abs=1e-6)
    assert area.sum() * 0.1 == pytest.approx(part.volume, rel=2e-3)


def test_planes_through_vertices_need_no_special_case():
    s = LayerStack(mesh_of(box(10, 10, 1) + box(4, 4, 1).translate((0, 0, 1))), UP, 0.4)  # a plane at z = 1.0
    assert {round(a, 6) for a in s.integrals[:, 0]} == {100.0, 16.0}


def test_layers_of_a_straight_wall_are_one_object():
    s = stack_of(box(10, 10, 4) + box(4, 4, 4).translate((0, 0, 4)), pitch=0.5)
    assert len({id(s.plan(k)) for k in range(s.count)}) == 2 and s.count == 16


@pytest.mark.parametrize("stray", [0.002, 0.05])
@pytest.mark.parametrize("seed", range(3))
def test_smoothed_outlines_are_made_of_their_own_corners_and_stray_no_farther_than_asked(seed, stray):
    s = LayerStack(torus(20, 6, 160, 80), rotation(seed)[2], 1.0)
    smooth = s.smoothed(stray)
    corners = kept = 0
    for k in range(s.count):
        fine, coarse = as_polygons(s.plan(k)), as_polygons(smooth[k])
        assert shapely.hausdorff_distance(fine.boundary, coarse.boundary, densify=0.2) <= stray + 1e-9
        corners, kept = corners + s.plan(k).num_vert(), kept + smooth[k].num_vert()
    assert kept < (0.95 if stray < 0.01 else 0.4) * corners


def test_layers_that_are_alike_are_made_once_and_only_when_asked_for():
    s = stack_of(box(10, 10, 4) + box(4, 4, 4).translate((0, 0, 4)), pitch=0.5)
    smooth = s.smoothed(0.01)
    assert smooth[3] is smooth[7] and smooth[3] is not smooth[8] and len(smooth) == 16
    assert smooth is s.smoothed(0.01)
    assert [p.area() for p in smooth] == pytest.approx([100.0] * 8 + [16.0] * 8)


@pytest.mark.parametrize("sides", [8, 23, 25, 180])
def test_what_grows_misses_the_true_distance_by_no_more_than_an_arc_of_24_sides(sides):
    """Sharp corners get arcs, gentle ones points: either way the rim keeps to the growth within 0.9 %."""
    turn = 2 * np.pi * np.arange(sides) / sides
    loop = 10 * np.c_[np.cos(turn), np.sin(turn)]
    rim = as_polygons(grown(enclosed([loop]), 2.0)).exterior
    away = shapely.distance(shapely.points(np.array(rim.coords)), shapely.Polygon(loop))
    assert np.abs(away - 2.0).max() <= 2.0 * max(1 / np.cos(GENTLE / 2) - 1, 1 - np.cos(np.pi / ROUND)) + 1e-3
    inside = as_polygons(grown(enclosed([loop]), -2.0))
    assert inside.area == pytest.approx(
        shapely.Polygon(loop).area * (1 - 2 / (10 * np.cos(np.pi / sides))) ** 2, rel=1e-5
    )
