"""How thick walls are, against closed forms; what whole lines make of them; zones at the right place."""

import time
from itertools import pairwise
from math import cos, pi, radians, sin, tan

import manifold3d as m3
import numpy as np
import pytest
from shapes import box, mesh_of, rod, rotation, sphere, torus

from hewel_engine.geometry.mesh import Mesh
from hewel_engine.processes import Process
from hewel_engine.walls.lines import KINDS, SLIT, Comb
from hewel_engine.walls.thickness import Thickness, thickness_of
from hewel_engine.walls.zones import walls_of

COMB = Comb.of(Process())


def solid(mesh: Mesh) -> m3.Manifold:
    return m3.Manifold(m3.Mesh64(vert_properties=np.array(mesh.vertices), tri_verts=mesh.faces.astype(np.uint64)))


def frustum(low, high, height, sides=96) -> m3.Manifold:
    return m3.Manifold.cylinder(height, low, high, sides)


def wedge(thin=0.3, thick=6.0, long=80.0, wide=20.0) -> m3.Manifold:
    """From ``thin`` at x = 0 to ``thick`` at x = ``long``, level below."""
    profile = np.array([[0, 0], [long, 0], [long, thick], [0, thin]])
    return m3.Manifold.extrude(m3.CrossSection([profile]), wide).rotate((90, 0, 0))


def read(part, turned=False) -> Thickness:
    if turned:
        part = part.transform(np.c_[rotation(4), [5, 6, 7]])
    return thickness_of(mesh_of(part))


def spread(found: Thickness) -> tuple[float, float]:
    """Least and greatest thickness that counts, but for the odd hundredth of the area."""
    rows = np.flatnonzero(found.counts & (found.ball < 8))  # not from end to end
    rows = rows[np.argsort(found.ball[rows])]
    t, area = found.ball[rows], np.cumsum(found.mesh.areas[rows])
    return float(t[np.searchsorted(area, 0.01 * area[-1])]), float(t[np.searchsorted(area, 0.99 * area[-1])])


# ------------------------------------------------------------------ readings


CONE = 12.0
LEAN = np.arctan2(20 - 8, 30)  # half angle of the conical shell
SHELLS = {
    "slab": (box(60, 40, 2.4), 2.4),
    "thin slab": (box(60, 40, 0.4), 0.4),
    "tube": (rod(40, 20, sides=128) - rod(50, 18.2, sides=128), 1.8),
    "sphere": (solid(sphere(25, 128)) - solid(sphere(22.5, 128)), 2.5),
    "cone": (frustum(20, 8, 30) - frustum(20 - 2 / cos(LEAN), 8 - 2 / cos(LEAN), 30), 2.0),
}


@pytest.mark.parametrize("turned", [False, True])
@pytest.mark.parametrize("name", SHELLS)
def test_shells_are_as_thick_as_they_were_made(name, turned):
    part, t = SHELLS[name]
    found = read(part, turned)
    low, high = spread(found)
    assert low == pytest.approx(t, rel=0.02) and high == pytest.approx(t, rel=0.02)
    least, at = found.thinnest
    assert least == pytest.approx(t, rel=0.03)
    assert found.mesh.areas[found.counts].sum() > 0.85 * found.mesh.areas.sum() * (0.9 if "slab" in name else 1)
    assert np.isfinite(at).all()


def test_a_ball_in_a_taper_touches_both_planes():
    """Between planes that lean by β a ball that touches one at height t has the diameter 2t/(1 + cos β)·cos β …"""
    part = wedge(2.0, 6.0, 60.0)
    found = read(part)
    beta = np.arctan2(4, 60)
    level = found.counts & (found.mesh.normals[:, 2] < -0.99)
    x = found.mesh.centroids[level, 0]
    inner = (x > 3) & (x < 57)
    height = 2 + x * tan(beta)
    wanted = 2 * height * cos(beta) / (1 + cos(beta))
    assert found.ball[level][inner] == pytest.approx(wanted[inner], rel=0.01)
    assert found.through[level][inner] == pytest.approx(height[inner], rel=0.01)


def test_a_step_is_seen_from_both_sides():
    part = box(60, 30, 6) - box(30, 40, 10).translate((20, 0, 7))
    found = read(part)
    below = found.counts & (found.mesh.normals[:, 2] < -0.99)
    x, t = found.mesh.centroids[below, 0], found.ball[below]
    assert t[x > 8] == pytest.approx(5, rel=0.01) and t[x < 3] == pytest.approx(6, rel=0.02)


def test_convex_edges_read_no_thinner_than_the_wall():
    """Beside an edge a small ball touches the side wall, or a chamfer: neither is opposite."""
    chamfered = m3.Manifold.hull_points(
        np.array([[x, y, z] for z, s in ((0, 29), (1, 30), (9, 30), (10, 29)) for x in (-s, s) for y in (-s, s)], float)
    )
    for part, t in ((box(60, 60, 10), 10), (chamfered, 10)):
        least, _ = read(part, turned=True).thinnest
        assert least == pytest.approx(t, rel=0.02)


def test_a_taper_to_a_sharp_edge_is_no_wall_and_a_blunt_one_is():
    knife = m3.Manifold.extrude(m3.CrossSection([np.array([[0, 0], [40, 0], [40, 8]])]), 20)
    assert not read(knife).counts.any() or read(knife).thinnest[0] > 3
    blunt = m3.Manifold.extrude(m3.CrossSection([np.array([[0, 0], [40, 0], [40, 8], [0, 0.5]])]), 20)
    assert read(blunt).thinnest[0] == pytest.approx(0.5, abs=0.15)


def test_what_has_no_wall_has_no_reading():
    ball = thickness_of(sphere(20, 64))
    assert ball.thinnest is None or ball.thinnest[0] > 39
    assert walls_of(read(box(30, 30, 30)), COMB).zones == []
    flat = Mesh(np.array([[0, 0, 0], [10, 0, 0], [0, 10, 0.0]]), np.array([[0, 1, 2]]))
    assert not thickness_of(flat).counts.any() and thickness_of(flat).thinnest is None


def test_larger_and_mirrored_it_reads_the_same():
    part = SHELLS["tube"][0] + box(30, 3, 10).translate((30, 0, 0))
    usual = spread(read(part))
    larger = read(part.scale((2, 2, 2)))
    assert spread(larger) == pytest.approx([2 * t for t in usual], rel=0.01)
    assert spread(read(part.mirror((1, 0, 0)))) == pytest.approx(usual, rel=0.01)
    assert larger.counts.mean() == pytest.approx(read(part).counts.mean(), abs=0.02)


def all_balls(mesh: Mesh, spots: np.ndarray) -> np.ndarray:
    """Diameters at ``spots``, every facet asked: the plane of one that faces it where the ball touches that within
    its corners, else its middle.
    """
    points, normals, corners = mesh.centroids, mesh.normals, mesh.triangles
    sides = np.roll(corners, -1, axis=1) - corners
    result = []
    for i in spots:
        turn = normals @ normals[i]
        faces = np.flatnonzero(turn <= cos(radians(150)))
        p, n = points[faces], normals[faces]
        by_plane = ((p - points[i]) * n).sum(axis=1) / (1 - turn[faces])
        touch = points[i] - by_plane[:, None] * (normals[i] - n)
        over = np.cross(sides[faces], touch[:, None] - corners[faces])
        within = ((over * n[:, None]).sum(axis=2) >= -1e-9).all(axis=1) & (by_plane > 0)
        away = points[i] - p
        inward = away @ normals[i]
        by_middle = np.divide((away**2).sum(axis=1), 2 * inward, out=np.full(len(p), np.inf), where=inward > 0)
        result.append(2 * np.where(within, by_plane, by_middle).min())
    return np.array(result)


BULKY = {
    "block with holes": box(30, 24, 20) - rod(40, 5, 48) - rod(40, 3, 32).rotate((90, 0, 0)).translate((6, 0, 5)),
    "ball with a bite": m3.Manifold.sphere(12, 40) - box(14, 14, 14).rotate((20, 30, 40)).translate((9, 3, 5)),
    "bent tube": solid(torus(20, 6, 60, 30)) - solid(torus(20, 4.5, 60, 30)),
}


@pytest.mark.parametrize("name", BULKY)
def test_each_ball_is_the_smallest_of_all_that_facets_allow(name):
    """Whatever the order in which facets are looked at, and to the half percent that is left off."""
    found = read(BULKY[name], turned=True)
    spots = np.flatnonzero(found.counts & np.isfinite(found.ball))[::37]
    assert len(spots) > 100
    least = np.minimum(all_balls(found.mesh, spots), found.through[spots])
    assert found.ball[spots] == pytest.approx(least, rel=0.0051)


def test_a_thick_part_is_read_as_quickly_as_a_thin_one():
    """Balls as large as the part itself have all of it within reach; by processor time, the compiled code loaded."""
    part = mesh_of(box(60, 40, 50) - rod(80, 8, 128))
    thickness_of(mesh_of(box(2, 3, 4)))
    started = time.process_time()
    found = thickness_of(part)
    spent = time.process_time() - started
    assert len(found.mesh.faces) > 20_000 and spent < 1.5


def test_a_hundred_thousand_facets_within_two_seconds():
    """A tube bent to a ring, its wall 1.5 mm; by processor time, the compiled code loaded."""
    outer, inner = torus(40, 9, 360, 80), torus(40, 7.5, 360, 80)
    count = len(outer.vertices)
    ring = Mesh(
        np.concatenate([outer.vertices, inner.vertices]), np.concatenate([outer.faces, inner.faces[:, ::-1] + count])
    )
    thickness_of(torus(40, 9, 24, 12))
    started = time.process_time()
    found = thickness_of(ring)
    spent = time.process_time() - started
    assert len(ring.faces) > 100_000 and spread(found) == pytest.approx((1.5, 1.5), rel=0.02)
    assert spent < 2.0


# ------------------------------------------------------------------ whole lines


def test_whole_lines_by_both_rules():
    overlap = 0.2 * (1 - pi / 4)
    assert COMB.widths == pytest.approx([0.45 + n * (0.45 - overlap) for n in range(6)])
    assert Comb.of(Process(rule="plain")).widths == pytest.approx([0.45 * n for n in range(1, 7)])
    mixed = Comb.of(Process(rule="plain", width=0.42, inner_width=0.55))
    assert mixed.widths[:4] == pytest.approx([0.42, 0.84, 1.39, 1.94])


@pytest.mark.parametrize("rule", ["spacing", "plain"])
def test_kinds_along_the_comb(rule):
    comb = Comb.of(Process(rule=rule))
    named = lambda t: KINDS[int(comb.kinds(np.array([t]))[0])]
    assert named(0.44) == "vanishing" and named(0.5) == "single_line" and named(30.0) == "heavy"
    for n, (a, b) in enumerate(pairwise(comb.widths[1:]), start=2):
        assert named(a) == named(b) == "sound" and named((a + b) / 2) == "gap"
        assert comb.advised("gap", a + 0.3 * (b - a)) == pytest.approx(a) == comb.width(n)
        assert comb.advised("gap", a + 0.7 * (b - a)) == pytest.approx(b)
        assert named(a + 0.9 * SLIT * 0.45) == "sound" != named(a + 1.1 * SLIT * 0.45)
    assert comb.advised("vanishing", 0.2) == comb.advised("single_line", 0.6) == pytest.approx(comb.width(2))
    assert abs(comb.advised("heavy", 9.0) - 2.0) < 0.25


def test_variable_lines_close_the_gaps():
    comb = Comb.of(Process(variable_lines=True))
    t = np.linspace(0.3, 4, 200)
    kinds = {KINDS[k] for k in comb.kinds(t)}
    assert comb.gaps == [] and kinds == {"single_line", "sound", "heavy"}
    assert comb.kinds(np.array([0.26, 0.28])).tolist() == [0, 1], "a line stretches from 0.6 of its width"


# ------------------------------------------------------------------ zones


@pytest.mark.parametrize("rule", ["spacing", "plain"])
@pytest.mark.parametrize("turned", [False, True])
def test_every_zone_of_a_wedge_is_where_it_should_be(rule, turned):
    """From 0.3 to 6 mm over 80 mm: each band of the comb is a strip of known length at a known place."""
    comb = Comb.of(Process(rule=rule))
    place = (rotation(4), np.array([5.0, 6, 7])) if turned else (np.eye(3), np.zeros(3))
    found = thickness_of(mesh_of(wedge().transform(np.c_[place])))
    zones = walls_of(found, comb).zones
    assert {z.kind for z in zones} == {"vanishing", "single_line", "gap", "sound", "heavy"}
    at = lambda t: (t - 0.3) / 5.7 * 80
    for zone in zones:
        x = ((zone.centre - place[1]) @ place[0])[0]
        assert x == pytest.approx(at(zone.usual), abs=1.5), zone.kind
    wanted = [(0.45, comb.double, "single_line"), *((a, b, "gap") for a, b in comb.gaps)]
    bands = {(z.kind, round(z.usual, 1)): z.area for z in zones}
    for low, high, kind in wanted:
        area = sum(a for (k, t), a in bands.items() if k == kind and low - 0.06 <= t <= high + 0.06)
        assert area == pytest.approx((at(high) - at(low)) * 20, rel=0.35, abs=12), (kind, low, high)
    heavy = sum(z.area for z in zones if z.kind == "heavy")
    assert heavy == pytest.approx((80 - at(comb.heavy)) * 20, rel=0.1)


def test_a_zone_is_both_faces_and_says_what_is_better():
    part = box(60, 1.0, 30) + box(60, 20, 3).translate((0, 0, -15))
    walls = walls_of(read(part, turned=True), COMB)
    gap = next(z for z in walls.zones if z.kind == "gap")
    assert gap.usual == pytest.approx(1.0, rel=0.01) and gap.least == pytest.approx(1.0, rel=0.02)
    assert gap.area == pytest.approx(60 * 28.5, rel=0.08)
    assert gap.advice == pytest.approx(COMB.width(2)), "0.857 is nearer to 1.0 than 1.264"
    assert walls.zones[0] is gap, "what is wrong comes first"
    assert sum(walls.bars) == pytest.approx(sum(z.area for z in walls.zones), rel=1e-6)
    bar = int(np.argmax(walls.bars))
    assert walls.edges[bar] <= 1.01 and walls.edges[bar + 1] >= 0.99


def test_walls_are_told_from_lumps():
    part = box(40, 40, 40) + box(60, 2, 20).translate((50, 0, 0))
    walls = walls_of(read(part), COMB)
    assert [z.kind for z in walls.zones] == ["gap"] and walls.zones[0].usual == pytest.approx(2, rel=0.02)
    assert walls.lumps > 6 * 38 * 38


def test_an_arc_of_wall_is_one_zone():
    ring = rod(30, 25, sides=96) - rod(40, 25 - COMB.width(3), sides=96)
    (zone,) = walls_of(read(ring), COMB).zones
    assert zone.kind == "sound" and zone.usual == pytest.approx(COMB.width(3), rel=0.01)
    middle = 25 - COMB.width(3) / 2
    assert zone.area == pytest.approx(2 * pi * middle * 30 * sin(radians(1.875)) / radians(1.875), rel=0.03)
