"""Areas and overhang by direction against closed forms, at 45 and at 60: 45 cannot tell the conventions apart."""

import manifold3d as m3
import numpy as np
import pytest
from shapes import box, mesh_of, rod, rotation, sphere, torus

from hewel_engine.geometry.features import find_bores
from hewel_engine.geometry.frames import same_direction, sphere_directions, unit
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.rays import RayScene
from hewel_engine.orientation.candidates import typed
from hewel_engine.orientation.sweep import facet_sums, sweep
from hewel_engine.processes import Process
from hewel_engine.tolerances import OVERHANG_MARGIN

LIMITS = (45.0, 60.0)


def overhang(mesh, up, limit):
    area, proxy, contact, worst, _ = facet_sums(mesh, np.array([up], float), limit, workers=1)
    return area[0], proxy[0], contact[0], worst[0]


@pytest.mark.parametrize("limit", LIMITS)
@pytest.mark.parametrize("tilt", [0, 20, 40, 50, 70])
def test_tilted_box_hangs_by_the_faces_past_the_limit(limit, tilt):
    a, b, c = 30.0, 20.0, 10.0
    t = np.radians(tilt)
    area, proxy, contact, worst = overhang(mesh_of(box(a, b, c)), (np.sin(t), 0, np.cos(t)), limit)
    if tilt == 0:
        assert (area, contact, worst) == (0, pytest.approx(a * b, rel=1e-6), 0)
        return
    # The face −z hangs at 90 − tilt from the vertical, the face −x at tilt.
    expected = (a * b if 90 - tilt > limit else 0) + (b * c if tilt > limit else 0)
    drop_z, drop_x = a / 2 * np.sin(t), c / 2 * np.cos(t)  # mean heights of the two faces over the lowest edge
    volume = (a * b * np.cos(t) * drop_z if 90 - tilt > limit else 0) + (
        b * c * np.sin(t) * drop_x if tilt > limit else 0
    )
    assert area == pytest.approx(expected, rel=1e-5)
    assert proxy == pytest.approx(volume, rel=1e-5)
    assert worst == pytest.approx(max(90 - tilt, tilt), abs=1e-3)
    assert contact == 0


@pytest.mark.parametrize("limit", LIMITS)
def test_sphere_cap_beyond_the_limit(limit):
    r = 20.0
    area, *_ = overhang(sphere(r, 1024), (0.2, 0.5, 1.0) / np.linalg.norm((0.2, 0.5, 1.0)), limit)
    assert area == pytest.approx(2 * np.pi * r * r * (1 - np.sin(np.radians(limit + OVERHANG_MARGIN))), rel=2e-3)


@pytest.mark.parametrize("limit", LIMITS)
@pytest.mark.parametrize("half_angle", [40, 50, 65])
def test_cone_on_its_tip(limit, half_angle):
    h = 20.0
    r = h * np.tan(np.radians(half_angle))
    cone = mesh_of(m3.Manifold.cylinder(h, 0, r, 720, False))
    area, _, _, worst = overhang(cone, (0, 0, 1), limit)
    lateral = np.pi * r * np.hypot(r, h)
    assert area == pytest.approx(lateral if half_angle > limit else 0, rel=1e-3)
    assert worst == pytest.approx(half_angle, abs=0.02)


@pytest.mark.parametrize("limit", LIMITS)
def test_torus_lying(limit):
    ring, tube = 20.0, 5.0
    s = np.radians(limit + OVERHANG_MARGIN)
    # The strip of the tube within 90° − limit of straight down: ∫ (R + r cos v) r dv · 2π about v = −90°.
    expected = 2 * np.pi * ring * tube * 2 * (np.pi / 2 - s)
    area, _, contact, _ = overhang(torus(ring, tube, 160, 4096), (0, 0, 1), limit)
    assert contact > 0 and area + contact == pytest.approx(expected, rel=1e-3)


@pytest.mark.parametrize("limit", LIMITS)
def test_regular_tetrahedron(limit):
    points = np.array([[1, 1, 1], [1, -1, -1], [-1, 1, -1], [-1, -1, 1]], float) * 10
    mesh = Mesh(points, np.array([[0, 1, 2], [0, 3, 1], [0, 2, 3], [1, 3, 2]]))
    assert mesh.volume == pytest.approx(8000 / 3)
    face = 0.25 * np.sqrt(3) * (20 * np.sqrt(2)) ** 2
    down = -mesh.normals[0]
    assert overhang(mesh, down, limit)[0] == pytest.approx(0)  # on a face: the others lean inward
    assert overhang(mesh, down, limit)[2] == pytest.approx(face, rel=1e-6)
    # On its tip the three faces hang at asin(1/3) = 19.47°, below both limits; its edge down: two faces at 54.74°.
    assert overhang(mesh, -down, limit)[0] == pytest.approx(0)
    edge_down = np.array([0, 0, 1.0])
    assert overhang(mesh, edge_down, limit)[3] == pytest.approx(np.degrees(np.arcsin(1 / np.sqrt(3))), abs=1e-3)


def test_rotating_part_and_direction_together_changes_nothing():
    part = mesh_of(box(40, 20, 8) + box(8, 20, 40).translate((16, 0, 16)) - rod(60, 3, axis="y").translate((16, 0, 28)))
    ups = sphere_directions(2)
    first = sweep(part, ups, Process(), RayScene(part))
    for seed in (1, 2):
        r = rotation(seed)
        turned = part.moved(r, np.array([100.0, -50, 7]))
        again = sweep(turned, ups @ r.T, Process(), RayScene(turned))
        for name in ("overhang_area_mm2", "contact_area_mm2", "height_mm", "worst_overhang_deg"):
            near = 0.03 if name == "worst_overhang_deg" else 1e-2  # asin near 90° in single precision
            assert getattr(again, name) == pytest.approx(getattr(first, name), rel=1e-4, abs=near), name


def test_scaling_the_part_scales_areas_and_volumes():
    part = mesh_of(box(40, 20, 8) + box(8, 20, 40).translate((16, 0, 16)))
    ups = sphere_directions(1)
    one, three = facet_sums(part, ups, 50.0), facet_sums(Mesh(part.vertices * 3, part.faces), ups, 50.0)
    assert three[0] == pytest.approx(one[0] * 9, rel=1e-5)
    assert three[1] == pytest.approx(one[1] * 27, rel=1e-5)


def test_against_the_slow_and_obvious_sum():
    part = torus(15, 6, 40, 24)
    ups = sphere_directions(2)
    got = facet_sums(part, ups, 45.0)
    threshold = np.sin(np.radians(45.0 + OVERHANG_MARGIN))
    for j in range(0, len(ups), 7):
        z = part.triangles @ ups[j]
        z = z - z.min()
        on_plate = (z <= 0.005).all(axis=1) & (part.normals @ ups[j] < 0)
        steep = (-(part.normals @ ups[j]) > threshold) & ~on_plate
        assert got[0][j] == pytest.approx(part.areas[steep].sum(), rel=1e-4)
        assert got[1][j] == pytest.approx(
            (part.areas * -(part.normals @ ups[j]) * z.mean(axis=1))[steep].sum(), rel=1e-4
        )
        assert got[2][j] == pytest.approx(part.areas[on_plate].sum(), abs=1e-3)


def standing(mesh, up=(0, 0, 1), **process):
    return typed(mesh, RayScene(mesh), up, Process(**process), find_bores(mesh, RayScene(mesh))).measures


def test_tipping_and_drag_of_a_block_are_the_handbook_formulas():
    a, b, h = 30.0, 20.0, 50.0
    m = standing(mesh_of(box(a, b, h)))
    assert m["tipping_deg"] == pytest.approx(np.degrees(np.arctan2(b / 2, h / 2)), abs=1e-6)
    assert m["drag_ratio"] == pytest.approx(0.15 * (a * b * b / 6) / (2.0 * h), rel=1e-6)
    assert m["first_layer_mm2"] == pytest.approx(a * b) and m["contact_area_mm2"] == pytest.approx(a * b, rel=1e-6)


def test_tipping_is_negative_when_it_falls_and_zero_on_a_point():
    leaning = mesh_of(box(10, 10, 10) + box(60, 10, 10).translate((30, 0, 10)))
    assert standing(leaning)["tipping_deg"] < 0
    assert standing(mesh_of(m3.Manifold.cylinder(20, 0, 10, 64, False)))["tipping_deg"] == 0


def test_support_stops_at_the_part_below():
    # A C lying open to the side: the upper arm hangs over the lower one, 10 mm above it, 18 above the plate.
    c = mesh_of(box(40, 20, 28).translate((0, 0, 14)) - box(40, 20.2, 10).translate((8, 0, 13)))
    m = standing(c)
    assert m["overhang_area_mm2"] == pytest.approx(32 * 20, rel=1e-4)
    assert m["support_volume_mm3"] == pytest.approx(32 * 20 * 10, rel=1e-3)
    assert m["scar_mm2"] == pytest.approx(2 * 32 * 20, rel=1e-3)
    assert m["needing_area_mm2"] == pytest.approx(32 * 20, rel=1e-4)  # a ledge of 32 mm


def test_a_mirrored_part_answers_the_mirrored_direction():
    part = mesh_of(box(40, 20, 8) + box(8, 20, 40).translate((16, 4, 16)) - rod(60, 3, axis="y").translate((16, 0, 28)))
    mirror = np.diag([-1.0, 1, 1])
    twin = Mesh(part.vertices @ mirror, part.faces[:, ::-1])
    assert twin.volume == pytest.approx(part.volume)
    up = np.array([0.3, -0.4, 0.866])
    one, two = standing(part, up), standing(twin, mirror @ up)
    for name in ("overhang_area_mm2", "height_mm", "first_layer_mm2", "tipping_deg", "islands", "time_s"):
        assert two[name] == pytest.approx(one[name], rel=1e-6, abs=1e-9), name
    assert two["support_volume_mm3"] == pytest.approx(one["support_volume_mm3"], rel=2e-3)


def test_an_open_surface_is_compared_by_its_facets():
    whole = mesh_of(box(40, 20, 8) + box(8, 20, 40).translate((16, 0, 16)))
    lidless = Mesh(whole.vertices, whole.faces[whole.normals[:, 2] < 0.9])
    m = standing(lidless, (1, 0, 0))
    assert m["overhang_area_mm2"] == pytest.approx(standing(whole, (1, 0, 0))["overhang_area_mm2"], rel=1e-6)
    assert m["islands"] is m["time_s"] is m["first_layer_mm2"] is None


def test_two_directions_are_one_up_to_a_tenth_of_a_degree_wherever_they_point():
    rng = np.random.default_rng(4)
    for _ in range(200):
        a, aside = unit(rng.normal(size=3)), rng.normal(size=3)
        aside = unit(aside - a * (aside @ a))
        turned = lambda degrees, a=a, aside=aside: a * np.cos(np.radians(degrees)) + aside * np.sin(np.radians(degrees))
        assert same_direction(a, a) and same_direction(a.tolist(), turned(0.09))
        assert not same_direction(a, turned(0.11)) and not same_direction(a, -a)
