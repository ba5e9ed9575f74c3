"""Small change first, nothing filled that is used, no strength lost: advice on parts it was not written for."""

import json
from math import cos, pi, radians, sin

import manifold3d as m3
import numpy as np
import pytest
from shapes import box, mesh_of, rod, rotation

from hewel_engine.advice.adapting import adapted, reworked
from hewel_engine.advice.bounds import Bounds
from hewel_engine.advice.costs import Holds, least_of
from hewel_engine.advice.outs import in_pieces, other_direction
from hewel_engine.advice.proposals import holds_itself
from hewel_engine.cli.main import main
from hewel_engine.edits.solids import solid_of
from hewel_engine.errors import InputError
from hewel_engine.geometry.features import find_bores
from hewel_engine.io.stl import write_stl
from hewel_engine.loads.cases import read_loads
from hewel_engine.processes import Process
from hewel_engine.spaces.free import Space, read_spaces
from hewel_engine.spaces.likely import likely_spaces
from hewel_engine.strength.stressing import CLOSER, COARSE, stressed

P, UP = Process(), np.array([0, 0, 1.0])


def gently(solid, spaces=(), likely=True, up=UP, **bounds):
    part = mesh_of(solid)
    bores = find_bores(part)
    every = (*spaces, *(likely_spaces(part, bores) if likely else ()))
    return adapted(part, up, P, bores, bounds=Bounds(spaces=every, **bounds))


def keys(found) -> list[str]:
    return [a.tool.key for a in found.applied]


def shelf(reach=24.0, wide=40.0, thick=4.0) -> m3.Manifold:
    """A wall with a shelf on its one side."""
    wall = box(20, wide, 60).translate((0, 0, 30))
    return wall + box(10 + reach, wide, thick).translate(((10 + reach) / 2, 0, 58))


def fork(gap=12.0) -> m3.Manifold:
    """Cheeks that stand up and a crown over the slot between them, in which something runs."""
    cheeks = box(30, 8, 40).translate((0, gap / 2 + 4, 20)) + box(30, 8, 40).translate((0, -gap / 2 - 4, 20))
    return cheeks + box(30, gap + 16, 8).translate((0, 0, 44)) + box(30, 30 + gap, 6).translate((0, 0, 3))


# ------------------------------------------------------------------ small change first


def test_a_wide_shelf_gets_webs_and_a_clean_bridge_between_them():
    found = gently(shelf())
    assert not found.after.truth.needs_support and keys(found) == ["webs"]
    tool = found.applied[0].tool
    wedge = 24 * 24 / 2 * 0.9  # of one web, dense
    assert found.applied[0].added == pytest.approx(tool.numbers["webs"] * wedge, rel=0.03)
    spans = [r.span for r in found.after.truth.regions if r.span]
    assert spans and max(spans) <= P.clean_bridge and found.changed < 0.04


def test_a_narrow_ledge_gets_a_small_gusset_that_leaves_what_holds_itself():
    found = gently(box(20, 20, 30).translate((0, 0, 15)) + box(3, 20, 3).translate((11.5, 0, 25)))
    (done,) = found.applied
    left = holds_itself(P)
    assert done.tool.key == "gusset" and done.tool.numbers["reach_mm"] == pytest.approx(3 - left, abs=0.01)
    assert done.added == pytest.approx(20 * (3 - left) ** 2 / 2, rel=0.02)
    assert not found.after.truth.needs_support


def test_a_lying_bore_is_capped_as_low_as_a_clean_bridge_lets_it():
    radius = 12.0
    found = gently(box(40, 60, 60) - rod(80, radius, 96, "x"))
    (done,) = found.applied
    assert done.tool.key == "capped_teardrop"
    apex, cap = radius / sin(radians(45)), done.tool.numbers["cap_mm"]
    assert cap == pytest.approx(max(apex - P.clean_bridge / 2, radius + P.droop), abs=1e-6)
    full = gently(box(40, 60, 60) - rod(80, radius, 96, "x"), full=True).applied[0]
    assert full.tool.key == "teardrop" and done.removed < full.removed


@pytest.mark.parametrize(("diameter", "fits", "drops"), [(12.0, False, 0), (12.0, True, 1), (7.0, True, 0)])
def test_a_bore_that_prints_is_changed_only_where_its_fit_asks_for_it(diameter, fits, drops):
    part = mesh_of(box(30, 40, 40) - rod(60, diameter / 2, 96, "x"))
    bores = find_bores(part)
    found = adapted(part, UP, P, bores, bounds=Bounds(fits=tuple(bores) if fits else ()))
    assert len(found.applied) == drops


def test_a_roof_leaves_half_of_the_wall_above():
    """A half bore 26 mm wide under 8 mm: the flat a clean bridge allows costs less than half of them."""
    arch = rod(30, 26, 96) - rod(40, 18, 96)
    vault = arch.rotate((90, 0, 0)).trim_by_plane((0, 0, 1), 0)
    found = gently(vault)
    assert keys(found) == ["corner_chamfers"] and not found.after.truth.needs_support
    assert found.applied[0].tool.numbers["rise_mm"] <= 8 / 2 + 1e-6
    thin = (rod(30, 20, 96) - rod(40, 18, 96)).rotate((90, 0, 0)).trim_by_plane((0, 0, 1), 0)
    assert not {"corner_chamfers", "pointed_arch", "roof"} & set(keys(gently(thin)))


def test_steps_together_change_no_more_than_they_may():
    found = gently(shelf(), most_change=0.004)
    assert found.changed <= 0.004 and found.left
    assert any("0.4 %" in w or "is the most that steps together may" in w for w in found.left[0].why)


def test_full_is_the_full_remedy_without_those_bounds():
    found = gently(shelf(), full=True)
    (done,) = found.applied
    assert done.tool.key == "gusset" and done.added == pytest.approx(40 * 24**2 / 2, rel=0.02)


def test_fins_carry_a_ceiling_and_come_off():
    """A ceiling 40 mm wide between two walls: fins a clean bridge apart, clear of the walls, held by a neck."""
    table = box(8, 14, 20).translate((-24, 0, 10)) + box(8, 14, 20).translate((24, 0, 10))
    found = gently(table + box(56, 14, 5).translate((0, 0, 22.5)))
    assert keys(found) == ["fins"] and not found.after.truth.needs_support
    tool = found.applied[0].tool
    assert tool.numbers["height_mm"] == pytest.approx(20 - 2 * P.layer, abs=0.01)
    neck = tool.add ^ m3.Manifold.cube((100, 100, 0.2), True).translate((0, 0, 19.8))
    body = tool.add ^ m3.Manifold.cube((100, 100, 0.2), True).translate((0, 0, 10))
    share = neck.volume() / body.volume()
    assert share == pytest.approx(tool.numbers["neck_mm"] / tool.numbers["thickness_mm"], rel=0.02)


def test_nobody_reaches_into_a_closed_room():
    closed = box(60, 60, 26).translate((0, 0, 13)) - box(50, 50, 20).translate((0, 0, 13))
    found = gently(closed)
    assert "fins" not in keys(found) and any("could not be reached" in w for left in found.left for w in left.why)


# ------------------------------------------------------------------ what stays free


def test_a_written_space_stays_free_and_is_named_as_the_reason():
    under = Space("belt", m3.Manifold.cube((14, 44, 20)).translate((10, -22, 36)))
    found = gently(shelf(), [under], likely=False)
    gained = solid_of(found.mesh) - shelf()
    assert (gained ^ under.solid).volume() < 0.02
    assert any("“belt”" in w for left in found.left for w in left.why)


def test_the_slot_of_a_fork_is_not_filled_and_the_question_is_put():
    part = mesh_of(fork(26))
    found = gently(fork(26))
    slot = m3.Manifold.cube((30, 26, 34), True).translate((0, 0, 23))
    removed = [a.tool.add for a in found.applied if a.tool.key in ("fins", "block", "sprue")]
    stays = solid_of(found.mesh) - part_of(part)
    for body in removed:
        stays -= body
    assert (stays ^ slot).volume() < 1.0
    asked = gently(fork(26), most_change=1.0)
    for question in asked.questions:
        assert question.filled > 1 and "likely to be used" in question.words


def part_of(mesh) -> m3.Manifold:
    return solid_of(mesh)


def test_somebody_may_say_that_nothing_runs_there():
    """The step that waits for an answer is done when it is given."""
    solid = box(40, 30, 6).translate((0, 0, 3)) + box(6, 30, 20).translate((-17, 0, 10))
    solid += box(30, 30, 5).translate((-5, 0, 17.5))
    part = mesh_of(solid)
    spaces = tuple(likely_spaces(part, []))
    assert spaces, "the leg over the base is a slot"
    keys_ = ("gusset",)
    found = adapted(part, UP, P, [], keys_, bounds=Bounds(most_change=1.0, spaces=spaces))
    (question,) = found.questions
    step = {"key": question.key, "kind": question.kind, "centre_mm": question.centre.tolist()}
    no = reworked(part, UP, P, [], [step], bounds=Bounds(most_change=1.0, spaces=spaces))
    yes = reworked(part, UP, P, [], [step | {"may_fill": True}], bounds=Bounds(most_change=1.0, spaces=spaces))
    assert no.applied == [] and "likely to be used" in no.unfit[0][1]
    assert [a.tool.key for a in yes.applied] == ["gusset"] and yes.unfit == []


@pytest.mark.parametrize("turn", [0, 5, 9])
def test_used_space_is_recognised_however_the_part_lies(turn):
    turned = np.hstack([rotation(turn) if turn else np.eye(3), np.zeros((3, 1))])
    part = mesh_of((fork(12) - rod(80, 2.5, 48, "y").translate((0, 0, 20))).transform(turned))
    found = likely_spaces(part, find_bores(part))
    place = lambda p: turned[:, :3] @ np.array(p, float)
    inside = lambda s, p: not (s.solid ^ m3.Manifold.sphere(0.2, 12).translate(tuple(place(p)))).is_empty()
    assert any(inside(s, (0, 0, 30)) for s in found), "between the cheeks"
    assert any(inside(s, (0, 14 + 2, 20)) for s in found), "in front of the bore"
    assert not any(inside(s, (0, 0, 60)) or inside(s, (40, 0, 20)) for s in found)


def test_a_gusset_over_a_lying_bore_leaves_the_way_open_under_a_roof_of_its_own():
    """An 18 mm bore through the wall below a ledge: what the gusset adds round its way carries itself."""
    solid = shelf(10, 40) - rod(80, 9, 72, "x").translate((0, 0, 40))
    part = mesh_of(solid)
    found = adapted(part, UP, P, find_bores(part), ("gusset", "capped_teardrop"), bounds=Bounds(most_change=1.0))
    way = m3.Manifold.cylinder(60, 0.98 * 9, 0.98 * 9, 72).rotate((0, 90, 0)).translate((0, 0, 40))
    gained = solid_of(found.mesh) - solid
    assert "gusset" in keys(found), found.left and found.left[0].why
    assert (gained ^ way).volume() < 1.0
    assert not found.after.truth.needs_support


# ------------------------------------------------------------------ how a space is written


def test_every_way_of_writing_a_space():
    part = mesh_of(box(40, 30, 10) - rod(40, 3, 96))
    bore = {"cylinder": {"point": [0, 0, 0], "axis": [0, 0, 1], "radius": 3}}
    top = {"plane": {"point": [0, 0, 5], "normal": [0, 0, 1]}}
    cube = mesh_of(box(4, 4, 4))
    rows = [
        {"name": "room", "box": [[0, 0, 5], [10, 10, 15]]},
        {"cylinder": {"point": [0, 0, 0], "axis": [0, 0, 1], "radius": 5, "from": 5, "to": 9}},
        {"near": {"on": top, "distance": 2}},
        {"front": {"on": bore, "length": 4, "wider": 2}},
        {"front": {"on": top, "length": 3}},
        {
            "body": {
                "vertices": (cube.vertices + np.array([0, 0, 20.0])).tolist(),
                "faces": cube.faces.tolist(),
                "way": [0, 0, -6],
            }
        },
        {
            "body": {
                "vertices": (cube.vertices + np.array([20, 0, 20.0])).tolist(),
                "faces": cube.faces.tolist(),
                "turn": {"about": [0, 0, 20], "axis": [0, 0, 2], "degrees": 90},
            }
        },
    ]
    room, rod_, near, bore_front, top_front, swept, turned = read_spaces(rows, part)
    assert room.name == "room" and room.solid.volume() == pytest.approx(1000)
    assert rod_.solid.volume() == pytest.approx(pi * 25 * 4, rel=0.005)
    face = 40 * 30 - pi * 9
    assert 2 * face < near.solid.volume() < 1.35 * 4 * face, "on both sides of the face and round its edges"
    assert bore_front.solid.volume() == pytest.approx(pi * 25 * 18, rel=0.005)
    assert top_front.solid.volume() == pytest.approx(3 * face, rel=0.005)
    assert swept.solid.volume() == pytest.approx(16 * 10) and not any(s.likely for s in (room, near, swept))
    # A ring from 18 to the far corners, a quarter round and at either end as far as the cube stands out.
    ring = lambda angle: angle / 2 * (np.hypot(22, 2) ** 2 - 18**2) * 4
    assert ring(pi / 2) < turned.solid.volume() < ring(pi / 2 + 2 * np.arctan(2 / 18))
    point = m3.Manifold.cube((0.2, 0.2, 0.2), True).rotate((0, 0, 45)).translate((20 / 2**0.5, 20 / 2**0.5, 20))
    assert (turned.solid ^ point).volume() == pytest.approx(point.volume()), "half way round"


@pytest.mark.parametrize(
    "rows",
    [
        {"keep": []}, [{}], [{"box": [[0, 0, 0], [0, 1, 1]]}], [{"box": 3}], [{"near": {"distance": 2}}], [5],
        [{"near": {"on": {"plane": {"point": [0, 0, 5], "normal": [0, 0, 1]}}, "distance": -1}}],
        [{"body": {"vertices": [[0, 0, 0]], "faces": [[0, 1, 2]]}}],
        [{"body": {"vertices": [[0, 0, 0]] * 3, "faces": [[0, 1, 2]], "turn": {"about": [0, 0, 0]}}}],
        [{"body": {"vertices": [], "faces": []}}],
        [{"front": {"on": {"box": [[-50, -50, -50], [50, 50, 50]]}, "length": 2}}],
    ],
)  # fmt: skip
def test_a_space_that_cannot_be_is_refused_in_words(rows):
    with pytest.raises(InputError) as caught:
        read_spaces(rows, mesh_of(box(40, 30, 10)))
    assert caught.value.message and caught.value.hint


# ------------------------------------------------------------------ strength


def test_no_step_costs_a_tenth_of_the_reserve():
    """A strap with a half bore in it, pulled: every roof over the half bore would cut into what carries."""
    ring = (rod(12, 15, 96) - rod(20, 12, 96)).rotate((90, 0, 0)).translate((0, 0, 12))
    solid = ring + box(50, 12, 3).translate((0, 0, 1.5)) - box(30, 20, 20).translate((0, 0, -10))
    part = mesh_of(solid)
    loads = read_loads({
        "fixed": [{"box": [[-26, -7, -1], [26, 7, 0.1]]}],
        "cases": [{"name": "pull", "loads": [{"on": {"box": [[-3, -7, 26.5], [3, 7, 28]]}, "force_n": [0, 0, 80]}]}],
    })  # fmt: skip
    solve = lambda mesh, like=None: stressed(mesh, None, loads, P, voxel_count=12_000, like=like)
    bores = find_bores(part)
    holds = Holds(part, P, solve)
    plain = adapted(part, UP, P, bores, ("teardrop",), bounds=Bounds(full=True))
    kept = adapted(part, UP, P, bores, bounds=Bounds(holds=holds))
    least = lambda found: least_of(solve(found.mesh, holds.before.model.grid), P, UP)
    before = least_of(solve(part), P, UP)
    assert least(kept) >= 0.9 * before
    if least(plain) < 0.9 * before:
        assert any("take the least reserve" in w for left in kept.left for w in left.why) or kept.applied


def test_a_remedy_far_from_the_weak_place_leaves_the_reserve_as_it_was():
    """A post with a shelf, pushed at its head: its root rules, and what stands under the shelf is nowhere near it."""
    root = m3.Manifold.extrude(m3.CrossSection([[(-25, 0), (25, 0), (15, 10), (-15, 10)]]), 30).rotate((90, 0, 0))
    post = box(64, 44, 12).translate((0, 0, 6)) + box(30, 30, 88).translate((0, 0, 56))
    part = mesh_of(post + root.translate((0, 15, 12)) + box(24, 16, 8).translate((0, 21, 50)))
    loads = read_loads({
        "fixed": [{"plane": {"point": [0, 0, 0], "normal": [0, 0, -1]}}],
        "cases": [{"name": "wind", "loads": [{"on": {"plane": {"point": [0, 0, 100], "normal": [0, 0, 1]}},
                                               "force_n": [260, 0, 0]}]}],
    })  # fmt: skip
    on = lambda count: lambda mesh, like: stressed(mesh, None, loads, P, voxel_count=count, like=like)
    holds = Holds(part, P, on(COARSE), on(CLOSER))
    found = adapted(part, UP, P, [], bounds=Bounds(holds=holds))
    assert [a.tool.key for a in found.applied] == ["gusset"], "coarse voxels say it weakens the post"
    had, has = holds.compared(found.mesh, UP)
    assert has == pytest.approx(had, rel=0.02) and holds.lost(found.mesh, UP) is None


# ------------------------------------------------------------------ better ways out


def test_another_direction_is_named_where_one_is_better():
    cover = box(60, 40, 20).translate((0, 0, 10)) - box(54, 34, 17).translate((0, 0, 8.5))
    part = mesh_of(cover)
    out = other_direction(part, UP, P, [], 1800.0)
    assert out is not None and out.up == pytest.approx([0, 0, -1]) and "−z up" in out.words


def test_no_direction_is_named_in_which_it_holds_less():
    """The cover's walls hang a load: upside down its layers lie as they did; on its side they would part."""
    part = mesh_of(box(60, 40, 20).translate((0, 0, 10)) - box(54, 34, 17).translate((0, 0, 8.5)))

    class Told:
        def __init__(self, weak):
            self.weak = weak

        def bears(self, way, instead_of):
            return way @ self.weak < 0.9, 1.37

    out = other_direction(part, UP, P, [], 1800.0, Told(UP))
    assert out.up == pytest.approx([0, 0, -1]) and out.reserve == 1.37 and "its reserve is about 1.37" in out.words
    other = other_direction(part, UP, P, [], 1800.0, Told(-UP))
    assert other is None or other.up[2] > -0.9


def test_where_remedies_leave_something_it_becomes_two_pieces(tmp_path, capsys):
    """A head on a neck: what its underside wants is more than may be changed, so it is cut below the head."""
    solid = box(40, 40, 6).translate((0, 0, 3)) + rod(40, 8, 64).translate((0, 0, 20))
    solid += box(60, 60, 6).translate((0, 0, 43))
    source, out = tmp_path / "head.stl", tmp_path / "out.stl"
    source.write_bytes(write_stl(mesh_of(solid)))

    def run(*words):
        code = main(["adapt", str(source), "--up", "0,0,1", *words, "--json"])
        return code, json.loads(capsys.readouterr().out)

    code, got = run("--most-change", "0.05", "-o", str(out))
    assert code == 0 and [p["name"] for p in got["pieces"]][:2] == ["half below", "half above"]
    assert not got["after"]["needs_support"] and got["left"] == [] and out.exists()
    code, whole = run("--most-change", "0.05", "--whole")
    assert code == 0 and whole["pieces"] == [] and whole["left"] and whole["after"]["needs_support"]
    code, allowed = run("--most-change", "0.05", "--policy", "allowed")
    assert allowed["pieces"] == []
    part = mesh_of(solid)
    assert in_pieces(part, adapted(part, UP, P, [], ("none",)), UP, P, 0.03, 2) is not None


def test_keep_clear_on_the_command_line(tmp_path, capsys):
    source, clear = tmp_path / "shelf.stl", tmp_path / "clear.json"
    source.write_bytes(write_stl(mesh_of(shelf())))
    clear.write_text(json.dumps([{"name": "belt", "box": [[10, -22, 0], [24.5, 22, 56]]}]))
    words = ["adapt", str(source), "--up", "0,0,1", "--keep-clear", str(clear), "--json"]
    for apply in ("all", "full"):
        assert main([*words, "--apply", apply, "--whole"]) == 0
        got = json.loads(capsys.readouterr().out)
        assert any("“belt”" in w for row in got["left"] for w in row["why"]), apply
        assert all(a["key"] not in ("gusset", "webs", "fins") for a in got["applied"])
    clear.write_text("[{}]")
    assert main(words) == 2 and json.loads(capsys.readouterr().out)["error"]["code"] == "bad_options"
    clear.write_text("no json")
    assert main(words) == 2 and "not JSON" in json.loads(capsys.readouterr().out)["error"]["message"]


def test_bodies_made_by_chance_keep_the_bounds():
    """Whatever is done to them: little changes, what is used stays free, nothing new hangs, the solid is closed."""
    for seed in range(8):
        chance = np.random.default_rng(seed)
        solid = box(40, 30, 8).translate((0, 0, 4))
        for _ in range(5):
            x, y, z = chance.uniform(6, 24, 3)
            at = (chance.uniform(-14, 14), chance.uniform(-10, 10), chance.uniform(4, 26))
            tool = box(x, y, z / 2) if chance.random() < 0.6 else rod(x, y / 3, 32, "xyz"[int(chance.integers(3))])
            solid = solid + tool.translate(at) if chance.random() < 0.7 else solid - tool.translate(at)
        solid = max(solid.trim_by_plane((0, 0, 1), 0).decompose(), key=m3.Manifold.volume)
        part = mesh_of(solid)
        bores = find_bores(part)
        spaces = tuple(likely_spaces(part, bores))
        found = adapted(part, UP, P, bores, bounds=Bounds(spaces=spaces))
        assert found.changed <= 0.15 + 1e-9 and found.mesh.closed
        wanted = lambda stands: sum(r.area for r in stands.truth.regions if r.needs_support)
        assert wanted(found.after) <= wanted(found.before) + 1e-6
        stays = m3.Manifold()
        for a in found.applied:
            if a.tool.key not in ("fins", "block", "sprue"):
                stays += a.tool.add
        gained = stays - found.before.solid
        for space in spaces:
            placed = space.placed(np.c_[np.eye(3), found.before.mesh.box[0] - part.box[0]])
            assert (gained ^ placed.solid).volume() <= max(3.0, 2 * space.share * space.solid.volume())


def test_turning_the_part_about_the_build_direction_changes_no_advice():
    for turn in (0.0, 33.0, 90.0):
        c, s = cos(radians(turn)), sin(radians(turn))
        found = gently(shelf().transform(np.array([[c, -s, 0, 0], [s, c, 0, 0], [0, 0, 1, 0]])))
        assert keys(found) == ["webs"] and found.applied[0].tool.numbers["webs"] == 5
