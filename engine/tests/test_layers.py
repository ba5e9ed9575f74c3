"""Sections of bodies whose answer is known."""

import manifold3d as m3
import numpy as np
import pytest
from shapes import box, mesh_of, rod, rotation, sphere

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
