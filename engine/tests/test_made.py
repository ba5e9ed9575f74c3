"""Snaps, threads, clamps, springs, textures and broken edges made on faces: volumes from closed forms, what comes of
them measured again, and bodies made by chance in turned frames.
"""

from math import cos, pi, radians, sin, sqrt, tan

import manifold3d as m3
import numpy as np
import pytest
from shapes import box, by_chance, mesh_of, rod, rotation

from hewel_engine.advice.adapting import reworked, stray
from hewel_engine.edits.solids import solid_of
from hewel_engine.edits.threads import easy_flank
from hewel_engine.flexing.sums import Bent, flex
from hewel_engine.geometry.arms import arm_at
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.rays import RayScene
from hewel_engine.processes import Process

UP = np.array([0.0, 0, 1])
PETG = Process(material="petg", layer=0.2, width=0.45)


def step(key, at, normal, end=None, **numbers):
    return {
        "key": key, "kind": "feature", "centre_mm": list(map(float, at)), "axis": list(map(float, normal)),
        "end_mm": end and list(map(float, end)), "on": True, "set": numbers, "may_fill": True,
    }  # fmt: skip


def made(mesh: Mesh, *steps, up=UP, process=PETG):
    came = reworked(mesh, up, process, [], list(steps))
    assert came.unfit == [], came.unfit[0][1]
    assert came.mesh.closed and stray(mesh, came) < 0.05
    return came


def refused(mesh: Mesh, *steps, up=UP, process=PETG) -> str:
    came = reworked(mesh, up, process, [], list(steps))
    assert len(came.unfit) == 1 and came.applied == []
    return came.unfit[0][1]


BLOCK = mesh_of(box(30, 40, 20).translate((0, 0, 10)))
SIDE = ((15, 0, 10), (1, 0, 0))


# ------------------------------------------------------------------ snaps


ARM = {"length_mm": 12, "thickness_mm": 1.6, "width_mm": 6, "catch_mm": 1.0, "root_mm": 0.8}


def test_a_snap_has_the_volume_of_its_outline_and_is_measured_again_as_it_was_asked_for():
    came = made(BLOCK, step("snap", *SIDE, **ARM))
    arm = 12 * 1.6
    fillets = 2 * (1 - pi / 4) * 0.8**2
    catch = 1.0 * (1 / tan(radians(45)) / 2 + 0.2 + 1 / tan(radians(30)) / 2)
    tip = 1.6 * (1 / tan(radians(45)) + 0.2 + 1 / tan(radians(30)))
    assert came.mesh.volume - BLOCK.volume == pytest.approx(6 * (arm + fillets + catch + tip), rel=3e-3)
    assert came.mesh.box[0][2] == pytest.approx(0, abs=1e-9), "it lies on the plate"
    rays = RayScene(came.mesh)
    found = arm_at(came.mesh, rays, np.array([21.0, -0.8, 3.0]), np.array([0.0, -1, 0]))
    assert found.thickness == pytest.approx(1.6, abs=0.02) and found.width == pytest.approx(6, abs=0.05)
    assert found.length == pytest.approx(12 - 0.8, abs=0.6) and found.catch == pytest.approx(1.0, abs=0.05)


def test_a_snap_lies_in_its_layers_on_a_face_that_stands_and_across_them_on_one_that_looks_up():
    lying = made(BLOCK, step("snap", *SIDE, **ARM))
    told = flex(
        arm_at(lying.mesh, RayScene(lying.mesh), np.array([21.0, -0.8, 3]), np.array([0.0, -1, 0])), Bent(), PETG, UP
    )
    assert told.stands < 1
    upright = made(BLOCK, step("snap", (0, 0, 20), (0, 0, 1), **ARM))
    up = flex(
        arm_at(upright.mesh, RayScene(upright.mesh), np.array([-0.8, 0, 26.0]), np.array([-1.0, 0, 0])),
        Bent(),
        PETG,
        UP,
    )
    assert up.stands > 89 and up.reserve < 0.5 * told.reserve


def test_a_snap_is_refused_where_it_would_hang_or_find_no_room_or_no_root():
    assert "looks down" in refused(
        mesh_of(box(30, 40, 20).translate((0, 0, 30)) + box(10, 10, 20).translate((0, 0, 10))),
        step("snap", (10, 10, 20), (0, 0, -1), **ARM),
    )
    floating = mesh_of(box(30, 40, 10).translate((0, 0, 25)) + box(40, 40, 20).translate((-20, 0, 10)))
    assert "reaches down to the plate" in refused(floating, step("snap", (15, 0, 25), (1, 0, 0), **ARM))
    assert "would hang" in refused(BLOCK, step("snap", *SIDE, **ARM | {"turn_deg": 90}))
    assert "into the part" in refused(
        mesh_of(
            box(30, 40, 20).translate((0, 0, 10))
            + box(10, 40, 4).translate((20, 0, 2))
            + box(4, 40, 20).translate((27, 0, 10))
        ),
        step("snap", (15, 0, 15), (1, 0, 0), **ARM),
    )
    assert "breaks off" in refused(BLOCK, step("snap", *SIDE, **ARM | {"catch_mm": 5}))


def test_a_window_goes_through_its_wall_and_rises_to_a_point_where_it_is_too_wide_to_bridge():
    wall = mesh_of(box(3, 60, 40).translate((0, 0, 20)) + box(20, 60, 3).translate((0, 0, 1.5)))
    came = made(wall, step("window", (1.5, 0, 20), (1, 0, 0), width_mm=6, high_mm=4))
    assert wall.volume - came.mesh.volume == pytest.approx(3 * 6 * 4, rel=1e-6)
    wide = PETG.clean_bridge + 6
    came = made(wall, step("window", (1.5, 0, 16), (1, 0, 0), width_mm=wide, high_mm=4))
    peak = wide / 2 / tan(radians(PETG.limit))
    assert wall.volume - came.mesh.volume == pytest.approx(3 * wide * (4 + peak / 2), rel=1e-6)
    assert "of wall would be left beside it" in refused(
        wall, step("window", (1.5, 0, 38), (1, 0, 0), width_mm=6, high_mm=6)
    )
    blind = made(BLOCK, step("window", *SIDE, width_mm=5, high_mm=3, deep_mm=4))
    assert BLOCK.volume - blind.mesh.volume == pytest.approx(5 * 3 * 4, rel=1e-6)


def revolved(r, slopes, rise, flat):
    """mm³ of a trapezoid ring standing ``rise`` on a radius (Pappus, by slices)."""
    xs = np.linspace(0, slopes[0] + flat + slopes[1], 20001)
    up = np.interp(xs, [0, slopes[0], slopes[0] + flat, xs[-1]], [0, rise, rise, 0])
    return float(np.trapezoid(pi * ((r + up) ** 2 - r**2), xs))


@pytest.mark.parametrize("bore", [False, True])
def test_a_bead_and_its_groove_have_the_volumes_of_their_rings(bore):
    sides = 256
    body = box(40, 40, 6).translate((0, 0, 3)) + rod(20, 10, sides).translate((0, 0, 16))
    if bore:
        body = box(40, 40, 26).translate((0, 0, 13)) - rod(60, 10, sides)
    mesh = mesh_of(body)
    place, normal = ((10, 0, 18), (-1, 0, 0)) if bore else ((10, 0, 18), (1, 0, 0))
    slopes = [0.4 / tan(radians(30)), 0.4 / tan(radians(45))]
    came = made(mesh, step("bead", place, normal, undercut_mm=0.8, in_deg=30, out_deg=45))
    bead = revolved(10, slopes, -0.4 if bore else 0.4, 0.08)
    assert abs(came.mesh.volume - mesh.volume) == pytest.approx(abs(bead), rel=2e-2)
    came = made(mesh, step("groove", place, normal, undercut_mm=0.8, gap_mm=0.1, in_deg=30, out_deg=45))
    wider = [0.5 / tan(radians(30)), 0.5 / tan(radians(45))]
    groove = revolved(10, wider, 0.5 if bore else -0.5, 0.28)
    assert mesh.volume - came.mesh.volume == pytest.approx(abs(groove), rel=2e-2)
    assert "from the rim" in refused(mesh, step("bead", (10, 0, 25.9), normal, undercut_mm=0.8))
    half = mesh_of(solid_of(mesh) - box(40, 40, 80).translate((-22, 0, 0)))
    assert "round." in refused(half, step("bead", place, normal, undercut_mm=0.8))


def test_a_bead_fills_the_corners_of_a_bore_of_few_flats():
    mesh = mesh_of(box(40, 40, 26).translate((0, 0, 13)) - rod(60, 10, 8).rotate((0, 0, 22.5)))
    came = made(mesh, step("bead", (10 * cos(pi / 8), 0, 13), (-1, 0, 0), undercut_mm=1.6))
    crest = solid_of(came.mesh).slice(13.3)
    assert crest.num_contour() == 2, "one outline outside and one inside: no corner stays open behind it"


# ------------------------------------------------------------------ threads


def test_a_thread_on_a_pin_leaves_the_mean_of_its_profile():
    pitch, deep, turns = 4.0, 1.2, 5
    mesh = mesh_of(
        box(40, 40, 4).translate((0, 0, 2)) + rod(pitch * turns, 10, 360).translate((0, 0, 4 + pitch * turns / 2))
    )
    came = made(mesh, step("thread", (10, 0, 15), (1, 0, 0), pitch_mm=pitch, deep_mm=deep, gap_mm=0.0))
    root = 8.8
    run = deep * tan(radians(easy_flank(PETG)))
    flat = (pitch - 2 * run) / 2
    mean = (flat * 100 + flat * root**2 + 2 * run * (root**2 + root * deep + deep**2 / 3)) / pitch
    whole = pi * mean * pitch * turns
    lead_in = came.mesh.volume - 40 * 40 * 4 - whole
    assert -pi * deep**2 / 2 * 2 * 10 < lead_in < 0, "less by what the chamfer at its mouth takes, and no more"


def test_a_pin_goes_into_its_bore_by_turning_and_not_by_pushing():
    pitch, deep, play = 4.0, 1.2, 0.25
    nut = mesh_of(box(40, 40, 8).translate((0, 0, 4)) - rod(60, 8.8, 96))
    cut = made(nut, step("thread", (8.8, 0, 4), (-1, 0, 0), pitch_mm=pitch, deep_mm=deep, gap_mm=play))
    screw = mesh_of(box(30, 30, 5).translate((0, 0, 2.5)) + rod(16, 10, 96).translate((0, 0, 13)))
    turned = made(screw, step("thread", (10, 0, 15), (1, 0, 0), pitch_mm=pitch, deep_mm=deep, gap_mm=0.0))
    hole, pin = solid_of(cut.mesh), solid_of(turned.mesh) - box(30, 30, 12)
    for quarter in range(4):  # a right-handed thread rises by a quarter of its pitch in a quarter of a turn
        met = [
            (pin.rotate((0, 0, 90 * quarter)).translate((0, 0, lift / 16 * pitch - 9)) ^ hole).volume()
            for lift in range(16)
        ]
        assert min(met) < 0.5 and max(met) > 100, "at one height it is free, between them it bites"
        if quarter == 0:
            start = int(np.argmin(met))
        assert (int(np.argmin(met)) - start) % 16 in ((4 * quarter + k) % 16 for k in (-1, 0, 1))


def test_a_lying_thread_gets_flats_and_nothing_of_it_hangs():
    mesh = mesh_of(box(20, 30, 30).translate((0, 0, 15)) + rod(20, 10, 120, "x").translate((20, 0, 15)))
    came = made(mesh, step("thread", (20, 0, 25), (0, 0, 1), pitch_mm=4, deep_mm=1.2))
    used = came.applied[0].tool.numbers
    high = came.mesh.vertices[came.mesh.vertices[:, 0] > 15][:, 2].max()
    assert high - 15 == pytest.approx(used["outer_mm"] / 2 * sin(radians(PETG.limit)), abs=1e-6)
    assert "Flats" in came.applied[0].tool.words


def test_a_buttress_lies_or_stands_so_that_its_loaded_flank_looks_up():
    pin = box(40, 40, 4).translate((0, 0, 2)) + rod(8, 10, 48).translate((0, 0, 8))
    nut = box(40, 40, 8).translate((0, 0, 4)) - rod(60, 9, 48)
    on, into = ((10, 0, 9), (1, 0, 0)), ((9, 0, 5), (-1, 0, 0))
    flat = {"pitch_mm": 4, "deep_mm": 1.2, "buttress_count": 1}
    for body, at, out in ((pin, on, 1), (nut, into, -1)):
        mesh = mesh_of(body)
        assert "looks down" in refused(mesh, step("thread", *at, **flat, pulls_count=1))
        pushed = made(mesh, step("thread", *at, **flat, pulls_count=0)).applied[0].tool.numbers
        assert (pushed["outer_flank_deg"], pushed["inner_flank_deg"])[::out] == (7.0, easy_flank(PETG))
    assert "looks down" in refused(mesh_of(pin), step("thread", *on, pitch_mm=4, deep_mm=1.2, flank_deg=15))


def test_a_thread_says_what_it_cannot_be():
    pin = mesh_of(box(40, 40, 4).translate((0, 0, 2)) + rod(20, 5, 96).translate((0, 0, 14)))
    at = ((5, 0, 10), (1, 0, 0))
    assert "No crest" in refused(pin, step("thread", *at, pitch_mm=2, deep_mm=1.5))
    assert "neither a bore nor a pin" in refused(pin, step("thread", (20, 0, 2), (1, 0, 0)))
    assert "Nothing of the pin" in refused(pin, step("thread", *at, pitch_mm=15, deep_mm=4.5))
    thin = mesh_of(rod(20, 10, 96).translate((0, 0, 10)) - rod(60, 8.5, 96))
    assert "of wall would be left" in refused(thin, step("thread", (8.5, 0, 10), (-1, 0, 0), pitch_mm=4, deep_mm=1.0))


# ------------------------------------------------------------------ clamp and spring


def test_a_clamp_opens_its_bore_and_its_ears_meet_a_screw():
    hub = mesh_of(rod(12, 14, 180).translate((0, 0, 6)) - rod(60, 10, 180))
    came = made(hub, step("clamp", (10, 0, 6), (-1, 0, 0), end=(20, 0, 6), slit_mm=2, bore_mm=4.5, ear_mm=6))
    solid = solid_of(came.mesh)
    probe = m3.Manifold.cube((30, 1.9, 14)).translate((8, -0.95, -1))
    assert (probe ^ solid).volume() == pytest.approx(0, abs=1e-6), "open from the bore to the outside"
    reach = 4.5 * 4
    screw = (
        m3.Manifold.cylinder(40, 2.2, circular_segments=48, center=True)
        .rotate((90, 0, 0))
        .translate((14 + reach / 2, 0, 6))
    )
    assert (screw ^ solid).volume() == pytest.approx(0, abs=1e-6)
    ear = box(3, 5.9, 11.9).translate((14 + reach - 1.6, 4.0, 6))
    assert (ear ^ solid).volume() == pytest.approx(ear.volume(), rel=1e-6)
    assert came.mesh.box[1][0] == pytest.approx(14 + reach, abs=0.05)
    assert "too much" in refused(hub, step("clamp", (10, 0, 6), (-1, 0, 0), slit_mm=8))
    assert "a bore that goes all round" in refused(hub, step("clamp", (14, 0, 6), (1, 0, 0)))


def test_a_spring_stands_between_its_faces_and_says_when_its_leaves_would_grow_together():
    fork = mesh_of(
        box(60, 40, 4).translate((0, 0, -2 + 2))
        + box(5, 40, 20).translate((-20, 0, 8))
        + box(5, 40, 20).translate((20, 0, 8))
    )
    floor = mesh_of(
        box(5, 40, 20).translate((-20, 0, 10))
        + box(5, 40, 20).translate((20, 0, 10))
        + box(45, 5, 20).translate((0, 25, 10))
    )
    pick = {"leaves_count": 3, "thickness_mm": 1.2, "length_mm": 20, "width_mm": 8}
    came = made(floor, step("serpentine", (-17.5, 0, 10), (1, 0, 0), end=(17.5, 0, 10), **pick))
    pitch, joint = 35 / 4, 1.8
    stubs, between = 2 * (pitch - 0.6) * joint, 2 * (pitch - 1.2) * joint
    area = 3 * 20 * 1.2 + stubs + between
    assert came.mesh.volume - floor.volume == pytest.approx(8 * area, rel=1e-6)
    assert "fewer leaves" in refused(
        floor,
        step(
            "serpentine",
            (-17.5, 0, 10),
            (1, 0, 0),
            end=(17.5, 0, 10),
            **pick | {"leaves_count": 20, "thickness_mm": 1.5},
        ),
    )
    assert "lies behind" in refused(floor, step("serpentine", (-17.5, 0, 10), (1, 0, 0), end=(-22.5, 0, 10), **pick))
    assert "into the part" in refused(fork, step("serpentine", (-17.5, 0, 10), (1, 0, 0), end=(17.5, 0, 10), **pick))


# ------------------------------------------------------------------ faces that are seen


def test_a_texture_takes_its_grooves_and_leaves_skin_and_edges():
    came = made(BLOCK, step("texture", *SIDE, pitch_mm=2, depth_mm=0.3))
    grooves = came.applied[0].tool.numbers["grooves"]
    assert grooves == int((40 - 1.2) / 2)
    assert BLOCK.volume - came.mesh.volume == pytest.approx(grooves * 0.3**2 * (20 - 1.2), rel=0.02)
    assert "lies" in refused(BLOCK, step("texture", (0, 0, 20), (0, 0, 1)))
    sheet = mesh_of(box(0.9, 40, 20).translate((0, 0, 10)))
    assert "of wall would be left" in refused(sheet, step("texture", (0.45, 0, 10), (1, 0, 0), depth_mm=0.3))
    assert "not plane" in refused(
        mesh_of(rod(20, 10, 96).translate((0, 0, 10))), step("texture", (10, 0, 10), (1, 0, 0))
    )


def test_broken_edges_take_a_mitred_chamfer_all_round_a_face():
    size = 0.8
    came = made(BLOCK, step("broken_edges", (0, 0, 20), (0, 0, 1), edge_mm=size))
    top = lambda z: (30 - 2 * z) * (40 - 2 * z)
    frustum = size / 3 * (top(0) + top(size) + sqrt(top(0) * top(size)))
    exact = size / 6 * (top(0) + 4 * top(size / 2) + top(size))
    assert exact == pytest.approx(frustum, rel=1e-3)
    assert BLOCK.volume - came.mesh.volume == pytest.approx(1200 * size - exact, rel=1e-6)
    hole = mesh_of(box(30, 40, 20).translate((0, 0, 10)) - rod(60, 5, 96))
    both = made(hole, step("broken_edges", (12, 0, 20), (0, 0, 1), edge_mm=size))
    polygon = 96 / 2 * 25 * sin(2 * pi / 96)
    ring = polygon / 25 * (size * 25 + 5 * size**2 / cos(pi / 96) + size**3 / 3 / cos(pi / 96) ** 2) - polygon * size
    assert hole.volume - both.mesh.volume == pytest.approx(1200 * size - exact + ring, rel=2e-3)
    round_ = made(BLOCK, step("broken_edges", (0, 0, 20), (0, 0, 1), edge_mm=2, round_count=1))
    took = BLOCK.volume - round_.mesh.volume
    assert (1 - pi / 4) * 4 * 140 * 0.9 < took < 4 / 2 * 140
    under = made(
        mesh_of(box(30, 40, 20).translate((0, 0, 10)) + box(10, 10, 10).translate((0, 0, -5))),
        step("broken_edges", (15, 0, 10), (1, 0, 0), edge_mm=2, round_count=1),
    )
    assert "look down are chamfered" in under.applied[0].tool.words or "chamfer" in under.applied[0].tool.words


# ------------------------------------------------------------------ by chance


def irregular(seed: int):
    """A body with a level shelf, a wall, a boss and a bore, irregular elsewhere, in a turned frame."""
    draw = np.random.default_rng(seed)
    wide, deep, tall = draw.uniform(30, 50), draw.uniform(40, 60), draw.uniform(18, 26)
    body = box(wide, deep, tall).translate((0, 0, tall / 2))
    body += rod(14, draw.uniform(6, 8), int(draw.integers(24, 120))).translate((-wide / 4, -deep / 4, tall + 7))
    body -= rod(90, draw.uniform(4, 5), int(draw.integers(24, 120))).translate((-wide / 4, deep / 4, 0))
    lumps = box(9, 7, 8).transform(np.c_[rotation(seed + 1), [wide / 4, -deep / 2, tall / 2]])
    body -= lumps
    turn, shift = rotation(seed), draw.normal(size=3) * 40
    at = lambda p: turn @ np.array(p, float) + shift
    return mesh_of(body.transform(np.c_[turn, shift])), turn, at, (wide, deep, tall)


@pytest.mark.parametrize("seed", by_chance(0, 50))
def test_features_hold_on_turned_irregular_bodies(seed):
    mesh, turn, at, (wide, deep, tall) = irregular(seed)
    out = lambda n: turn @ np.array(n, float)
    up = out((0, 0, 1))
    draw = np.random.default_rng(seed + 1000)
    rays = RayScene(mesh)
    boss = at((-wide / 4 + 20, -deep / 4, tall + 7))
    far = float(rays.distances(boss[None], -out((1, 0, 0))[None])[0])
    on_boss = boss - far * out((1, 0, 0))
    inside = at((-wide / 4, deep / 4, tall / 2))
    near = float(rays.distances(inside[None], out((1, 0, 0))[None])[0])
    in_bore = inside + near * out((1, 0, 0))
    steps = {
        "snap": step("snap", at((wide / 2, draw.uniform(-8, 8), 8)), out((1, 0, 0)), turn_deg=180.0 * (seed % 2)),
        "window": step("window", at((wide / 2, 0, tall / 2)), out((1, 0, 0)), deep_mm=3, width_mm=5, high_mm=3),
        "bead": step("bead", on_boss, out((1, 0, 0)), undercut_mm=0.5),
        "groove": step("groove", in_bore, out((-1, 0, 0)), undercut_mm=0.5),
        "thread": step("thread", on_boss, out((1, 0, 0)), pitch_mm=3, deep_mm=0.9),
        "texture": step("texture", at((0, deep / 2, tall / 2)), out((0, 1, 0))),
        "broken_edges": step("broken_edges", at((wide / 4, -deep / 4 + 5, tall)), out((0, 0, 1))),
    }  # fmt: skip
    if seed % 9:  # a thread has tens of thousands of facets
        del steps["thread"]
    for key, one in steps.items():
        came = reworked(mesh, up, PETG, [], [one])
        assert came.unfit == [], f"{key}: {came.unfit[0][1]}"
        assert came.mesh.closed and stray(mesh, came) < 0.05, key
        assert came.applied[0].change > 0.1, key
