"""Lumps hollowed, bosses carried down, holes collared, corners rounded, faces ribbed: closed forms, refusals."""

import time
from math import pi, radians, sqrt, tan

import manifold3d as m3
import numpy as np
import pytest
from shapes import box, mesh_of, rod, rotation, torus
from test_adapting import UP, adapt, rework

from hewel_engine.advice.adapting import Bench
from hewel_engine.advice.hollowing import usual_wall
from hewel_engine.advice.placed_part import PlacedPart
from hewel_engine.advice.sizing import carrying_infill, places
from hewel_engine.edits.fans import INSIDE
from hewel_engine.edits.hollows import inner
from hewel_engine.edits.rounding import corners_of
from hewel_engine.edits.tents import EDGE
from hewel_engine.edits.tools import Impossible
from hewel_engine.geometry.features import find_bores
from hewel_engine.geometry.rays import RayScene
from hewel_engine.processes import Process
from hewel_engine.walls.holes import thin_holes, wanted_wall
from hewel_engine.walls.lines import Comb
from hewel_engine.walls.posts import posts_of
from hewel_engine.walls.thickness import thickness_of

P = Process()
COMB = Comb.of(P)


def step(key, kind, centre, **numbers) -> dict:
    return {"key": key, "kind": kind, "centre_mm": list(map(float, centre)), "set": numbers}


def hollowed(solid, **numbers):
    return rework(mesh_of(solid), [step("hollow", "body", (0, 0, 0), **numbers)])


def done(found, key):
    assert found.unfit == []
    (made,) = found.applied
    assert made.tool.key == key and found.mesh.closed
    return made


def new_hanging(found) -> list:
    """Kinds of what needs support afterwards and did not before."""
    before = [r.kind for r in found.before.truth.regions if r.needs_support]
    after = [r.kind for r in found.after.truth.regions if r.needs_support]
    for kind in before:
        if kind in after:
            after.remove(kind)
    return after


# ------------------------------------------------------------------ hollow


def roofed_box(side: float, flat: float, lean: float) -> float:
    """mm³ of a cube of room ``side`` whose roof rises at ``lean`` (tan) from all four walls to a square flat."""
    rise = (side - flat) / 2 / lean
    return side**2 * (side - rise) + (side**2 + flat**2 + side * flat) * rise / 3


def test_a_cube_hollowed_to_two_millimetres_has_the_closed_form_s_volume():
    found = hollowed(box(60, 60, 60), wall_mm=2.0, floor_mm=2.0, pitch_mm=0.0)
    made = done(found, "hollow")
    room = roofed_box(56, P.clean_bridge - EDGE, tan(radians(P.limit - 0.05)))
    assert made.removed == pytest.approx(room, rel=2e-3)
    assert found.mesh.volume == pytest.approx(60**3 - made.removed, rel=1e-9)
    assert not found.after.truth.needs_support
    assert "a flat of at most 10.0 mm" in made.tool.words


def test_ribs_a_clean_bridge_apart_carry_the_roof_of_a_cube():
    found = hollowed(box(60, 60, 60), wall_mm=2.0, pitch_mm=10.0)
    made = done(found, "hollow")  # 56 = 5 × 9.6 + 4 × 2
    assert made.removed == pytest.approx(5 * 9.6 * 56 * 56, rel=1e-6)
    assert made.tool.numbers["rooms"] == 5 and not found.after.truth.needs_support


def test_the_way_that_takes_out_most_is_taken_unless_one_is_told():
    free, result = (hollowed(box(60, 60, 60), wall_mm=2.0, **n) for n in ({}, {"pitch_mm": 0.0}))
    assert done(free, "hollow").tool.used["pitch_mm"] == 10.0
    assert done(result, "hollow").removed < done(free, "hollow").removed


def test_open_to_the_plate_it_can_be_looked_into():
    found = hollowed(box(60, 60, 60), wall_mm=2.0, floor_mm=0.0, pitch_mm=0.0)
    made = done(found, "hollow")
    assert made.tool.words.startswith("Hollow it to walls of 2.00 mm, open to the plate")
    outline = found.after.stack.plan(0)
    assert outline.area() == pytest.approx(60**2 - 56**2, rel=1e-3) and not found.after.truth.needs_support


def test_a_hole_in_the_floor_lets_it_drain():
    found = hollowed(box(60, 60, 60), wall_mm=2.0, pitch_mm=0.0, hole_mm=6.0)
    done(found, "hollow")
    (hole,) = find_bores(found.after.mesh)
    assert hole.diameter == pytest.approx(6.0, rel=1e-3) and hole.depth == pytest.approx(2.0, abs=1e-3)


def test_a_lump_inside_out_is_the_same_wall_everywhere():
    """A bore keeps a wall of its own, and so does a pocket's corner: nowhere is it thinner than asked."""
    solid = box(60, 50, 40) - rod(80, 6, 48, "x") - box(20, 20, 20).translate((20, 15, 20))
    mesh = mesh_of(solid)
    room = mesh_of(inner(mesh, np.full(len(mesh.faces), 2.0)))
    rng = np.random.default_rng(4)
    ways = rng.normal(size=(200, 3))
    ways /= np.linalg.norm(ways, axis=1)[:, None]
    rays = RayScene(mesh)
    spots = np.concatenate([room.centroids, room.vertices])
    least = np.min([rays.distances(spots, np.tile(w, (len(spots), 1))) for w in ways], axis=0)
    assert least.min() > 2.0 - 1e-3


@pytest.mark.parametrize(
    ("name", "solid"),
    [
        ("a bore right through", box(60, 40, 40) - rod(100, 8, 64, "x")),
        ("a pocket from above", box(60, 60, 60) - box(20, 20, 40).translate((0, 0, 20))),
        ("a rod", rod(60, 20, 96)),
        ("turned", mesh_of(box(40, 40, 40)).moved(rotation(3), np.zeros(3))),
    ],
)
def test_nothing_new_hangs_in_irregular_and_turned_bodies(name, solid):
    mesh = solid if not isinstance(solid, m3.Manifold) else mesh_of(solid)
    found = rework(mesh, [step("hollow", "body", (0, 0, 0))])
    made = done(found, "hollow")
    assert new_hanging(found) == []
    assert made.removed > 0.2 * mesh.volume


def test_nothing_worth_taking_out_is_said():
    found = hollowed(box(3, 60, 60))
    ((_, why),) = found.unfit
    assert why.startswith("Nothing is left inside walls of ")
    found = hollowed(box(30, 30, 30), wall_mm=2.0, hole_mm=40.0, pitch_mm=0.0)
    assert "finds no room in a floor" in found.unfit[0][1]


def test_rounder_than_the_wall_it_is_refused_soon():
    mesh = torus(20, 1.5)
    began = time.process_time()
    found = rework(mesh, [step("hollow", "body", (0, 0, 0), wall_mm=2.0)])
    assert "rounder than a wall" in found.unfit[0][1] and time.process_time() - began < 20


def body_of(solid, process=P):
    mesh = mesh_of(solid)
    stack = PlacedPart.of(mesh, process).stack
    (body,) = [p for p in places(mesh, stack, process, [], thickness_of(mesh)) if p["kind"] == "body"]
    return body


def test_a_lump_weighs_by_the_closed_form_as_it_is_as_a_shell_and_sparsely_filled():
    wall, shell, dense = usual_wall(P), COMB.width(P.perimeters), 1e-3 * P.stock.density
    result = body_of(box(60, 60, 60))
    room, core = (60 - 2 * wall) ** 3, (60 - 2 * shell) ** 3
    assert result["inside_mm3"] == pytest.approx(room, rel=1e-3)
    solid = lambda inside: 60**3 - inside
    now = (solid(core) + P.infill * core) * dense
    assert result["gained_g"] == pytest.approx(solid(room) * dense - now, rel=1e-3)
    share = result["infill"]
    assert result["filled_g"] == pytest.approx((solid(room) + share * room) * dense - now, rel=1e-3)
    assert result["perimeters"] == 5 and wall == pytest.approx(COMB.width(5))  # the same wall, drawn by perimeters


@pytest.mark.parametrize("bridge, width, share", [(10.0, 0.45, 0.05), (10.0, 0.6, 0.06), (5.0, 0.5, 0.10)])
def test_infill_lines_that_carry_what_is_on_top_lie_a_clean_bridge_apart(bridge, width, share):
    assert carrying_infill(Process(clean_bridge=bridge, inner_width=width)) == share
    assert width / share <= bridge < width / (share - 0.01)  # one percent less, and the next layer hangs between them


def test_what_is_filled_so_already_is_not_told_again():
    result = body_of(box(60, 60, 60), Process(perimeters=5, infill=0.05))
    assert "infill" not in result and result["gained_g"] < 0


# ------------------------------------------------------------------ bosses


def bossed(hole: float = 0.0) -> m3.Manifold:
    body = box(60, 60, 20).translate((0, 0, 10)) + rod(15, 8, 128).translate((0, 0, 27.5))
    return body - rod(30, hole, 64).translate((0, 0, 30)) if hole else body


def posts(solid, process=P):
    placed = PlacedPart.of(mesh_of(solid), process)
    return posts_of(placed.stack, process, placed.middle)


def test_a_boss_over_infill_pulls_out_by_the_closed_form():
    (post,) = posts(bossed())
    assert post.foot == pytest.approx(20) and post.height == pytest.approx(15)
    assert post.share == pytest.approx(1.0, abs=0.01) and post.width == pytest.approx(16, rel=1e-3)
    stock = P.stock
    plug = 2 * pi * 8 * P.top_bottom * P.layer * stock.z_s  # the infill gives long before it helps
    assert post.pull == pytest.approx(plug, rel=5e-3)
    assert post.weld == pytest.approx(stock.z_t * pi * 64, rel=5e-3) and post.weld > post.pull


def test_a_boss_on_a_solid_plate_or_over_a_wall_is_none():
    assert posts(box(60, 60, 1.6).translate((0, 0, 0.8)) + rod(15, 8, 64).translate((0, 0, 9))) == []
    assert posts(box(60, 60, 20).translate((0, 0, 10)) + box(40, 1.0, 10).translate((0, 29, 25))) == []
    assert posts(bossed(), Process(infill=1.0)) == []


def test_a_column_is_a_hole_with_the_lines_round_it():
    found = adapt(mesh_of(bossed()), keys=("column",), clean_bridge=14.0)
    made = done(found, "column")
    wall, skin = COMB.width(P.perimeters), P.top_bottom * P.layer
    assert made.removed == pytest.approx(pi * (8 - wall) ** 2 * (20 - 2 * skin), rel=0.01)
    assert posts_of(found.after.stack, P, found.after.middle) == []  # what was a finding is none any more
    assert new_hanging(found) == []


def test_wider_than_a_clean_bridge_its_end_leans():
    made = done(adapt(mesh_of(bossed()), keys=("column",)), "column")
    wall, skin = COMB.width(P.perimeters), P.top_bottom * P.layer
    assert made.removed < pi * (8 - wall) ** 2 * (20 - 2 * skin) - 50


def test_a_boss_with_a_hole_has_it_carried_down():
    found = adapt(mesh_of(bossed(2.5)), keys=("column",))
    made = done(found, "column")
    assert made.removed == pytest.approx(pi * 2.5**2 * (15 - P.top_bottom * P.layer), rel=0.02)


def test_through_a_cavity_a_tube_carries_it_to_the_floor():
    shell = box(60, 60, 30).translate((0, 0, 15)) - box(56, 56, 26).translate((0, 0, 15))
    found = rework(mesh_of(shell + rod(10, 4, 128).translate((0, 0, 35))), [step("column", "boss", (0, 0, 30))])
    ((_, why),) = found.unfit
    assert why == "No boss over infill is found there any more."  # its foot stands on a solid lid
    lid = box(60, 60, 30).translate((0, 0, 15)) - box(56, 56, 20).translate((0, 0, 12))
    found = rework(mesh_of(lid + rod(10, 4, 128).translate((0, 0, 35))), [step("column", "boss", (0, 0, 30))])
    made = done(found, "column")
    wall = COMB.width(P.perimeters)
    tube = pi * (4**2 - (4 - wall) ** 2) * 20
    assert tube < made.added < 1.1 * tube + 30  # and the radii at both ends
    assert "a tube of" in made.tool.words and new_hanging(found) == []


def test_beside_a_wall_of_a_tall_part_a_column_leans_into_it():
    """Every layer of it has the same hole (Cavalieri), until its ring lies in the wall's own lines."""
    tall = box(60, 60, 120).translate((0, 0, 60)) + rod(15, 5, 128).translate((18, 0, 127.5))
    made = done(found := adapt(mesh_of(tall), keys=("column",)), "column")
    assert made.tool.used["aslant_deg"] == 45.0 and "into the wall" in made.tool.words
    skin, shell = P.top_bottom * P.layer, COMB.width(P.perimeters)
    aside = (30 - shell) - (18 + 5 - shell)
    deep = 2 * P.layer + aside / tan(radians(45 - INSIDE))
    assert made.removed == pytest.approx(pi * (5 - shell) ** 2 * deep, rel=0.04)  # whole layers
    assert posts_of(found.after.stack, P, found.after.middle) == [] and new_hanging(found) == []
    straight = done(rework(mesh_of(tall), [step("column", "boss", (18, 0, 120), aslant_deg=0)]), "column")
    assert straight.removed == pytest.approx(pi * (5 - shell) ** 2 * (120 - 2 * skin), rel=0.01)


@pytest.mark.parametrize("turn", [0.0, 33.0])
def test_through_a_tall_cavity_a_tube_leans_into_the_wall(turn):
    body = box(60, 60, 120).translate((0, 0, 60)) - box(56, 56, 104).translate((0, 0, 52))  # open to the plate
    boss = rod(15, 4, 128).translate((17, 3, 127.5))
    solid = (body + boss).rotate((0, 0, turn))
    found = adapt(mesh_of(solid), keys=("column",))
    made = done(found, "column")
    assert "into the wall" in made.tool.words and new_hanging(found) == []
    hull = (box(60, 60, 120).translate((0, 0, 60)) + boss).rotate((0, 0, turn))
    wall = COMB.width(P.perimeters)
    ring = pi * (4**2 - (4 - wall) ** 2)
    deep = 28 - 17 + 4  # from the ceiling to where all of it has gone into the wall
    assert ring * (deep - 8) < made.added < ring * deep
    root = made.tool.used["root_mm"]
    outside = (found.after.solid - hull).volume()
    assert outside < (1 - pi / 4) * root**2 * 2 * pi * (4 + root)  # nothing but the radius at the boss's own foot


def star(seed):
    """A boss like a cross, turned, beside a wall of a turned block; and where it stands."""
    boss = (box(8, 5, 10) + box(4, 9, 10)).rotate((0, 0, 37 * seed)).translate((15, 12 - 4 * seed, 94.9))
    c, s = np.cos(radians(20 * seed)), np.sin(radians(20 * seed))
    x, y = 15, 12 - 4 * seed
    return (box(50, 50, 90).translate((0, 0, 45)) + boss).rotate((0, 0, 20 * seed)), (c * x - s * y, s * x + c * y, 90)


def cone(low, high, at):
    """A shell of 2 to 3 mm that opens or closes upward under a lid of 10 mm, a boss near its wall."""
    shell = m3.Manifold.cylinder(100, low, high, 96) - m3.Manifold.cylinder(90, low - 2, high - 3, 96).translate(
        (0, 0, -1e-3)
    )
    return shell + rod(12, 4, 96).translate((at, 0, 105.9)), (at, 0, 100)


@pytest.mark.parametrize("body", [*(star(seed) for seed in range(4)), cone(40, 28, 18), cone(28, 40, 25)])
def test_columns_lean_into_walls_of_any_shape(body):
    solid, at = body
    found = rework(mesh_of(solid), [step("column", "boss", at)])
    made = done(found, "column")
    assert "into the wall beside it, leaning 45°" in made.tool.words and new_hanging(found) == []
    assert posts_of(found.after.stack, P, found.after.middle) == [] or made.tool.remove.is_empty()
    below = m3.Manifold.cube((200, 200, 99 if at[2] == 100 else 89), True).translate((0, 0, (at[2] - 1) / 2))
    assert ((found.after.solid ^ below) - solid.hull()).volume() < 1e-3, "nothing of it comes out of the wall"


def test_where_the_wall_is_open_a_column_goes_straight_down():
    body = box(60, 60, 100).translate((0, 0, 50)) - box(56, 56, 90).translate((0, 0, 45))
    window = box(10, 30, 80).translate((29, 0, 40))
    found = rework(
        mesh_of(body - window + rod(12, 4, 96).translate((18, 0, 105.9))), [step("column", "boss", (18, 0, 100))]
    )
    assert "down to the base: a tube" in done(found, "column").tool.words and new_hanging(found) == []
    leaning = [step("column", "boss", (18, 0, 100), aslant_deg=40)]
    found = rework(mesh_of(body - window + rod(12, 4, 96).translate((18, 0, 105.9))), leaning)
    assert "open where a leaning column would end" in found.unfit[0][1]


def test_a_column_leans_only_where_that_is_of_use():
    low = bossed()
    assert done(adapt(mesh_of(low), keys=("column",)), "column").tool.used["aslant_deg"] == 0
    found = rework(mesh_of(low), [step("column", "boss", (0, 0, 20), aslant_deg=30)])
    assert "The base comes before the wall" in found.unfit[0][1]
    found = rework(mesh_of(bossed(2.5)), [step("column", "boss", (0, 0, 20), aslant_deg=30)])
    assert "carried straight down, where its screw goes" in found.unfit[0][1]


# ------------------------------------------------------------------ holes


def test_the_wall_a_screw_hole_wants():
    assert wanted_wall(2.0, COMB) == pytest.approx(COMB.width(4))
    five = wanted_wall(10.0, COMB)
    assert five >= 5.0 and five - (COMB.width(3) - COMB.width(2)) < 5.0


def test_a_thin_hole_gets_a_collar():
    solid = box(10, 8, 20).translate((0, 0, 10)) - rod(60, 2.5, 96)
    mesh = mesh_of(solid)
    bores = find_bores(mesh)
    (thin,) = thin_holes(thickness_of(mesh), bores, COMB)
    assert thin.wall == pytest.approx(1.5, rel=0.03)
    found = adapt(mesh, keys=("collar",))
    made = done(found, "collar")
    wall = wanted_wall(5.0, COMB)
    r, half = 2.5 + wall, np.array([5.0, 4.0])
    outside = sum(r * r * np.arccos(h / r) - h * sqrt(r * r - h * h) for h in half) * 2
    corner = _overlap_beyond(r, *half)
    assert made.added == pytest.approx((outside - corner) * 20, rel=0.03)
    assert thin_holes(thickness_of(found.mesh), find_bores(found.mesh), COMB) == []


def _overlap_beyond(r: float, x: float, y: float) -> float:
    """mm² of a circle that lie beyond both sides of a rectangle, counted twice by its four segments."""
    if x * x + y * y >= r * r:
        return 0.0
    spots = (np.arange(2000) + 0.5) / 2000
    xs = x + spots * (r - x)
    return 4 * float(np.maximum(np.sqrt(r * r - xs * xs) - y, 0).mean()) * (r - x)


def test_a_hole_with_enough_round_it_is_left():
    assert thin_holes(thickness_of(m := mesh_of(box(30, 30, 10) - rod(20, 2.5, 64))), find_bores(m), COMB) == []


# ------------------------------------------------------------------ corners


def angle_iron() -> m3.Manifold:
    return box(40, 20, 5).translate((0, 0, 2.5)) + box(5, 20, 40).translate((-17.5, 0, 20))


@pytest.mark.parametrize("radius", [1.0, 3.0])
def test_an_internal_corner_is_rounded_inside_its_radius(radius):
    found = rework(mesh_of(angle_iron()), [step("rounded_corner", "corner", (-15, 0, 5), radius_mm=radius)])
    made = done(found, "rounded_corner")
    exact = (1 - pi / 4) * radius**2 * 20
    assert 0.93 * exact < made.added <= exact
    assert all(c.turn < 60 for c in corners_of(found.mesh))


def test_the_root_of_a_boss_is_rounded_all_round():
    found = adapt(mesh_of(bossed()), keys=("rounded_corner",))
    made = done(found, "rounded_corner")
    ring = (1 - pi / 4) * 1.0 * 2 * pi * (8 + 0.223)  # Pappus, the fillet's centroid 0.223·r off the wall
    assert 0.93 * ring < made.added < ring and corners_of(found.mesh) == []


def test_corners_turned_anyhow_are_the_same_corners():
    placed = corners_of(mesh_of(angle_iron()))
    there = corners_of(mesh_of(angle_iron()).moved(rotation(5), np.array([3.0, -7, 2])))
    assert [c.length for c in there] == pytest.approx([c.length for c in placed], rel=1e-6)
    assert len(placed) == 1 and placed[0].turn == pytest.approx(90)


def test_a_corner_without_room_is_refused():
    groove = box(40, 20, 10) - box(50, 1.0, 4).translate((0, 0, 4))
    found = rework(mesh_of(groove), [step("rounded_corner", "corner", (0, 0.5, 2), radius_mm=6.0)])
    assert "finds no room" in found.unfit[0][1]


# ------------------------------------------------------------------ ribs


def test_ribs_stand_up_a_wall_and_along_a_level_plate():
    wall = rework(mesh_of(box(80, 3, 60).translate((0, 0, 30))), [
        step("ribs", "flat", (0, 1.5, 30), thickness_mm=2.0, height_mm=8.0, pitch_mm=20.0)])  # fmt: skip
    assert done(wall, "ribs").added == pytest.approx(4 * 2 * 8 * 60, rel=1e-6) and new_hanging(wall) == []
    plate = rework(mesh_of(box(80, 60, 3)), [
        step("ribs", "flat", (0, 0, 3), thickness_mm=2.0, height_mm=8.0, pitch_mm=20.0)])  # fmt: skip
    assert done(plate, "ribs").added == pytest.approx(3 * 2 * 8 * 80, rel=1e-6)


def test_a_place_within_a_plate_means_the_face_that_can_carry_ribs():
    """A wall is told by its middle, as near to the face on the plate as to the one on top."""
    found = rework(mesh_of(box(80, 60, 3)), [
        step("ribs", "flat", (0, 0, -0.1), thickness_mm=2.0, height_mm=8.0, pitch_mm=20.0)])  # fmt: skip
    assert done(found, "ribs").added == pytest.approx(3 * 2 * 8 * 80, rel=1e-6)
    assert found.mesh.box[:, 2] == pytest.approx([-1.5, 9.5]), "on top, not under the plate"


def test_ribs_on_both_sides_of_a_wall():
    found = rework(mesh_of(box(80, 3, 60).translate((0, 0, 30))), [
        step("ribs", "flat", (0, 1.5, 30), thickness_mm=2.0, height_mm=8.0, pitch_mm=20.0, sides_count=2)])  # fmt: skip
    made = done(found, "ribs")
    assert made.added == pytest.approx(2 * 4 * 2 * 8 * 60, rel=1e-6) and "on the other side" in made.tool.words


def test_the_lower_end_of_a_rib_leans():
    """Half-way up a wall: a face that begins in the air, so each rib begins with a slope at the limit."""
    wall = box(40, 10, 20).translate((0, 5, 10)) + box(40, 6, 40).translate((0, 7, 40))
    found = rework(mesh_of(wall - box(60, 1, 60).translate((0, 9.9, 30))), [
        step("ribs", "flat", (0, 4, 40), thickness_mm=2.0, height_mm=3.0, pitch_mm=20.0)])  # fmt: skip
    made = done(found, "ribs")
    assert new_hanging(found) == [] and made.added <= 2 * 2 * 3 * 40


def test_a_face_that_looks_down_takes_no_ribs():
    arch = box(60, 20, 30).translate((0, 0, 15)) - box(30, 30, 40)
    found = rework(mesh_of(arch), [step("ribs", "flat", (0, 0, 20), height_mm=3.0)])
    assert "looks down" in found.unfit[0][1]


# ------------------------------------------------------------------ in common


def test_a_step_for_what_is_not_there_is_told_and_a_look_costs_nothing():
    mesh = mesh_of(box(30, 30, 30))
    for key, kind in (("column", "boss"), ("collar", "bore"), ("rounded_corner", "corner")):
        found = rework(mesh, [step(key, kind, (0, 0, 0))])
        assert found.applied == [] and "is found there any more" in found.unfit[0][1]
        with pytest.raises(Impossible, match="is found there any more"):
            Bench.of(mesh, UP, P, []).looked_at(step(key, kind, (0, 0, 0)))
    tool, added, taken = Bench.of(mesh, UP, P, []).looked_at(step("hollow", "body", (0, 0, 0), wall_mm=2.0))
    assert len(added) == 0 and len(taken) > 0 and tool.numbers["wall_mm"] == 2.0
