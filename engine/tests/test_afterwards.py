"""Directions ranked by what is left once their remedies are done."""

from dataclasses import replace

import numpy as np
import pytest
from shapes import box, mesh_of, rod, rotation

from hewel_engine.advice.adapting import adapted
from hewel_engine.advice.afterwards import RemediedDirection, explained, ranked_after, worked_out, worth_working_out
from hewel_engine.advice.bounds import FULL, Bounds
from hewel_engine.advice.costs import Holds, least_of
from hewel_engine.geometry.features import find_bores
from hewel_engine.geometry.rays import RayScene
from hewel_engine.loads.cases import read_loads
from hewel_engine.orientation.candidates import Candidate, typed
from hewel_engine.orientation.ranking import rank
from hewel_engine.processes import Process
from hewel_engine.strength.stressing import stressed

P = Process()


def table(part, ups, most=12, supports=True, bounds=FULL):
    rays = RayScene(part)
    bores = find_bores(part, rays)
    found = rank([typed(part, rays, up, P, bores) for up in ups])
    rows = list(worked_out(part, found, P, bores, supports, most=most, bounds=bounds))
    return found, rows, ranked_after(found, rows)


def shelf():
    """A wall with a shelf: upright it wants a gusset and then nothing; on its side it bridges; on its back it lies."""
    return box(20, 40, 60).translate((0, 0, 30)) + box(24, 40, 4).translate((12, 0, 58))


def test_a_direction_that_a_gusset_cures_rises():
    """Head down little hangs, but a tip begins in mid-air, and the job wants no supports; upright gussets cure all."""
    arm = box(20, 10, 4).translate((10, 0, 22)) + rod(12, 3, 48).translate((16, 0, 30))
    part = mesh_of(shelf() + arm)
    upright, head = np.array([0, 0, 1.0]), np.array([0, 0, -1.0])
    found, rows, after = table(part, [upright, head], supports=False)
    assert [c.up[2] for c in found] == [-1, 1], "by what hangs"
    assert after == [2, 1], "by what is left"
    own = next(r for r in rows if r.up @ upright > 0.99)
    assert own.needing_area == 0 and own.remedies == {"gusset": 2} and own.left == []
    reach = 24 - 10  # beyond the wall
    assert own.grams == pytest.approx((40 * reach**2 / 2 + 10 * 10**2 / 2) * 1.27e-3, rel=0.02)
    words = explained(found[1].measures, own)
    assert words.startswith("2 × gusset: ") and "→ 0 mm² that need support" in words and "+5.6 g" in words
    other = next(r for r in rows if r.up @ head > 0.99)
    assert any("island" in w for w in other.left) and other.needing_area == pytest.approx(9 * np.pi, rel=0.02)


def test_a_stabler_direction_that_takes_a_lump_of_plastic_comes_after():
    """Lying on the end of its shelf it stands widest, with a gusset as large as itself."""
    part = mesh_of(box(20, 40, 60).translate((0, 0, 30)) + box(60, 40, 4).translate((30, 0, 58)))
    ups = [np.array(u, float) for u in ((0, 0, 1), (0, 0, -1), (0, 1, 0))]
    found, rows, after = table(part, ups)
    grams = {tuple(np.round(r.up)): r.grams / r.mass for r in rows}
    assert grams[0, 0, 1] > 0.5 and grams[0, 1, 0] < 0.05
    place = {tuple(np.round(c.up)): p for c, p in zip(found, after, strict=True)}
    assert place[0, 0, 1] == 3 and place[0, 1, 0] < 3


def test_a_direction_whose_shape_stays_comes_before_one_with_less_handwork():
    """Change of shape and grams count before handwork: a few fins to break off, and not a wedge for good."""
    part = mesh_of(box(20, 40, 60).translate((0, 0, 30)) + box(40, 40, 4).translate((30, 0, 58)))
    found, rows, _ = table(part, [np.array([0, 0, 1.0])], bounds=Bounds())
    (own,) = rows
    assert own.needing_area == 0 and own.changed < 0.15 and set(own.remedies) <= {"webs", "fins", "gusset"}
    cheap = replace(own, changed=0.04, grams=0.01 * own.mass, by_hand=3)
    heavy = replace(own, changed=0.4, grams=0.4 * own.mass, by_hand=0)
    other = Candidate(np.array([1.0, 0, 0]), "axis", dict(found[0].measures))
    rows = [cheap, replace(heavy, up=other.up)]
    assert ranked_after([found[0], other], rows) == [1, 2]


PUSHED = {
    "fixed": [{"plane": {"point": [-10, 0, 0], "normal": [-1, 0, 0]}}],
    "cases": [{"name": "push", "loads": [{"on": {"box": [[23.9, -21, 55], [24.1, 21, 61]]}, "force_n": [0, 0, -60]}]}],
}
"""The shelf's wall held at its back, the end of the shelf pushed down."""


def test_what_a_remedy_does_to_the_reserve_counts():
    part, up = mesh_of(shelf()), np.array([0, 0, 1.0])
    given = read_loads(PUSHED)
    solve = lambda mesh, like=None: stressed(mesh, None, given, P, voxel_count=20_000, like=like)
    candidate = typed(part, RayScene(part), up, P, [])
    bounds = Bounds(full=True, holds=Holds(part, P, solve))
    (own,) = worked_out(part, rank([candidate]), P, [], bounds=bounds)
    assert own.remedies == {"gusset": 1} and own.held > 1.5, "a gusset carries the shelf"
    changed = adapted(part, up, P, [], bounds=FULL).mesh
    grid = solve(part).model.grid
    least = [least_of(solve(mesh, grid), P, up) for mesh in (part, changed)]
    assert own.held == pytest.approx(least[1] / least[0])
    before = candidate.measures | {"reserve": 0.7}
    assert own.reserve(before) == pytest.approx(0.7 * own.held)
    assert f"reserve 0.70 → {0.7 * own.held:.2f}" in explained(before, own)
    assert RemediedDirection.read(own.as_dict()).held == own.held
    assert explained(candidate.measures, own).count("reserve") == 0, "without a check there is none to change"


def test_a_direction_that_holds_once_its_remedies_are_done_comes_first():
    measures = {"tipping_deg": 30.0, "needing_area_mm2": 0.0, "support_volume_mm3": 0.0, "time_s": 100.0}
    ups = [np.array([0, 0, 1.0]), np.array([1.0, 0, 0])]
    candidates = [
        Candidate(up, "typed", measures | {"reserve": r, "rank": i + 1})
        for i, (up, r) in enumerate(zip(ups, (0.95, 0.9), strict=True))
    ]
    row = lambda up, held: RemediedDirection(up, 0.0, 0.0, 0.1, 50.0, 100.0, {"gusset": 1}, held=held)
    assert ranked_after(candidates, [row(ups[0], 1.0), row(ups[1], 1.3)]) == [2, 1]
    assert ranked_after(candidates, [row(ups[0], 1.0), row(ups[1], None)]) == [1, 2], "unknown is as it was"


def test_loads_that_are_not_carried_say_nothing():
    part, up = mesh_of(shelf()), np.array([0, 0, 1.0])
    bounds = Bounds(holds=Holds(part, P, lambda *_: None))
    (own,) = worked_out(part, rank([typed(part, RayScene(part), up, P, [])]), P, [], bounds=bounds)
    assert own.held is None and own.reserve({"reserve": 2.0}) is None


def test_what_no_remedy_cures_stays_behind():
    part = mesh_of(box(60, 60, 40).translate((0, 0, 20)) - box(50, 50, 36).translate((0, 0, 18)))
    found, _, after = table(part, [np.array([0, 0, 1.0]), np.array([0, 0, -1.0])])
    up = next(i for i, c in enumerate(found) if c.up[2] > 0)
    assert after[up] == 2 and after[1 - up] == 1, "open side up it needs nothing"


def test_only_the_best_are_worked_out_and_the_others_count_as_they_are():
    part = mesh_of(shelf())
    ups = [np.array(u, float) for u in ((0, 0, 1), (0, 0, -1), (1, 0, 0), (0, 1, 0))]
    found, rows, after = table(part, ups, most=2)
    assert len(rows) == 2 and sorted(after) == [1, 2, 3, 4]
    assert rows and all(r.up @ c.up > 0.999 for r, c in zip(rows, found[:2], strict=True))


def test_the_frame_of_the_part_does_not_matter():
    part, turn = mesh_of(shelf() - rod(100, 5, 48, "x").translate((0, 0, 20))), rotation(4)
    ups = [np.array(u, float) for u in ((0, 0, 1), (0, 0, -1), (1, 0, 0))]
    _, plain, order = table(part, ups)
    _, turned, again = table(part.moved(turn), [turn @ u for u in ups])
    assert order == again
    assert [r.remedies for r in plain] == [r.remedies for r in turned]


def test_where_three_stand_as_they_are_nothing_else_is_worked_out():
    """No remedy puts a direction before one that stands, holds and wants nothing."""
    as_it_is = {"tipping_deg": 30.0, "needing_area_mm2": 0.0, "support_volume_mm3": 0.0}
    hangs, falls, fails = (
        as_it_is | {"needing_area_mm2": 80.0},
        as_it_is | {"tipping_deg": 1.0},
        as_it_is | {"reserve": 0.7},
    )
    ranked = lambda rows: [row | {"rank": i} for i, row in enumerate(rows, start=1)]
    worth = lambda *rows, most=12: worth_working_out(ranked(rows), most)
    assert worth(as_it_is, as_it_is, hangs, falls, fails) == [0, 1, 2, 3, 4]
    assert worth(as_it_is, as_it_is, as_it_is | {"reserve": 1.2}, hangs, falls, fails) == [0, 1, 2]
    assert worth(hangs, falls, fails, most=2) == [0, 1]
