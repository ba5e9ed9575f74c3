"""The farm's week: by hand where it can be reckoned, and its own laws on farms made by chance."""

from dataclasses import replace
from itertools import combinations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hewel_engine.schedule.repair import GRACE_S, Told, moved, repaired
from hewel_engine.schedule.week import Crew, Machine, Plate, Stop, Visit, fits, listed, placed

H, DAY = 3600.0, 86_400.0
WEEK = Crew(tuple((d * DAY + 8 * H, d * DAY + 17 * H) for d in range(7)))


def plate(key, hours, **more):
    return Plate(key, hours * H, "Weir", **more)


def weirs(count, **more):
    return [Machine(f"weir {n}", "Weir", **more) for n in range(count)]


def test_a_plate_is_started_printed_and_taken_off():
    (run,) = listed([plate("a", 2, start_hands=600, end_hands=300)], weirs(1), WEEK).runs
    assert (run.start, run.begin, run.end) == (8 * H, 8 * H + 600, 10 * H + 600)
    assert run.free == 10 * H + 900 and [v.what for v in run.visits] == ["start", "take off"]


def test_what_ends_at_night_blocks_its_machine_till_the_morning():
    first, second = listed([plate("a", 12, due=1), plate("b", 1)], weirs(1), WEEK).runs
    assert first.end == pytest.approx(20 * H + 300) and first.free == DAY + 8 * H + 300
    assert first.idle == pytest.approx(8 * H + 11 * H + 55 * 60), "till eight, and from the last line to the morning"
    assert second.start == first.free and second.waited == pytest.approx(first.free)


def test_where_somebody_is_there_round_the_clock_a_plate_is_changed_across_midnight():
    round_the_clock = Crew(tuple((d * DAY, (d + 1) * DAY) for d in range(7)))
    assert round_the_clock.windows == ((0.0, 7 * DAY),)
    week = listed([plate("a", 2, ready=DAY - 300, start_hands=600)], weirs(1), round_the_clock)
    assert week.runs[0].visits[0].at == DAY - 300
    assert Crew(((0.0, 8 * H), (9 * H, 12 * H))).windows == ((0.0, 8 * H), (9 * H, 12 * H))


def test_a_machine_that_pushes_prints_on_unattended():
    (first,) = listed([plate("a", 12)], weirs(1, pushes=True), WEEK).runs
    assert first.free == first.end and [v.what for v in first.visits] == ["start"]


def test_a_pause_at_night_waits_for_hands_and_lengthens_the_print():
    (run,) = listed([plate("a", 14, stops=(Stop(10 * H, 300, "lay a plate in"),))], weirs(1), WEEK).runs
    laid = next(v for v in run.visits if v.what == "lay a plate in")
    assert laid.at == DAY + 8 * H and run.end == pytest.approx(laid.end + 4 * H)


def test_another_material_takes_hands_and_a_machine_that_has_it_is_taken():
    (run,) = listed([plate("a", 1, material="asa")], weirs(1, material="petg"), WEEK).runs
    assert run.visits[0].seconds == 900 and "change the material" in run.visits[0].what
    machines = [*weirs(1, material="petg"), Machine("other", "Weir", "asa")]
    (run,) = listed([plate("a", 1, material="asa")], machines, WEEK).runs
    assert run.machine == "other" and run.visits[0].seconds == 300


def test_the_pressing_one_goes_first_and_lateness_is_weighed():
    week = listed([plate("b", 4, due=40 * H), plate("a", 4, due=13 * H, weight=3)], weirs(1), WEEK)
    assert [r.plate.key for r in week.runs] == ["a", "b"] and week.lateness == 0
    late = listed([plate("a", 4, due=10 * H, weight=3)], weirs(1), WEEK)
    assert late.lateness == pytest.approx(3 * (12 * H + 600 - 10 * H)) and late.runs[0].why == "waiting for hands"


def test_what_no_machine_can_print_is_left_and_named():
    week = listed([plate("a", 1), Plate("b", H, "Lock")], weirs(1), WEEK)
    assert [p.key for p in week.left] == ["b"] and len(week.runs) == 1
    assert listed([plate("a", 1)], weirs(1), Crew(())).left, "without any hands nothing is started"


def test_after_a_machine_is_out_what_runs_stays_and_the_rest_moves_as_little_as_can_be():
    plates = [plate(f"p{n}", 3, due=30 * H) for n in range(4)]
    before = listed(plates, weirs(2), WEEK)
    now = 8.5 * H
    broken = [Machine("weir 0", "Weir", out=((0, 7 * DAY),)), Machine("weir 1", "Weir")]
    running = next(r for r in before.runs if r.machine == "weir 1" and r.start <= now)
    after = repaired(plates, broken, WEEK, now, [running], told(before))
    assert {r.machine for r in after.runs} == {"weir 1"} and len(after.runs) == 4
    assert running in after.runs
    second = next(r for r in before.runs if r.machine == "weir 1" and r is not running)
    assert told(after)["p3"] == told(before)["p3"] and second.plate.key == "p3", "nothing was in its way"
    assert set(moved(told(before), after)) == {r.plate.key for r in before.runs if r.machine == "weir 0"}
    assert moved(told(before), before) == []


def told(week):
    return {r.plate.key: Told(r.machine, tuple(r.moments)) for r in week.runs}


def test_what_was_told_holds_until_something_is_overdue():
    plates = [plate(f"p{n}", 3, due=60 * H) for n in range(4)]
    before = listed(plates, weirs(2), WEEK)
    assert repaired(plates, weirs(2), WEEK, 8 * H, [], told(before)).lateness == before.lateness
    assert told(repaired(plates, weirs(2), WEEK, 8 * H, [], told(before))) == told(before)
    # Nobody has started anything by ten: both machines' plates follow each other as soon as they can, in their order.
    late = repaired(plates, weirs(2), WEEK, 10 * H, [], told(before))
    assert [(r.plate.key, r.machine) for r in late.runs] == [(r.plate.key, r.machine) for r in before.runs]
    assert min(r.start for r in late.runs) == 10 * H


@settings(max_examples=30, deadline=None)
@given(st.data())
def test_a_repaired_week_keeps_its_laws(data):
    plates, machines, crew = data.draw(farms())
    before = listed(plates, machines, crew)
    now = data.draw(st.floats(0, 40)) * H
    out = data.draw(st.sampled_from([None, *(m.key for m in machines)]))
    machines = [replace(m, out=((now, now + 50 * H),)) if m.key == out else m for m in machines]
    by_key = {m.key: m for m in machines}
    kept = [r for r in before.runs if r.start <= now and fits(r, by_key[r.machine], crew, [])]
    after = repaired(plates, machines, crew, now, kept, told(before))
    keeps_its_laws(after, machines, crew)
    assert all(r in after.runs for r in kept)
    assert all(r.start >= now - GRACE_S for r in after.runs if r not in kept)


def test_a_run_fits_only_where_hands_and_machine_are_there():
    (machine,) = weirs(1)
    stop = Stop(H, 300.0)
    run = placed(plate("a", 2, stops=(stop,)), machine, WEEK, 9 * H)
    assert fits(run, machine, WEEK, [])
    assert not fits(run, replace(machine, out=((10 * H, 11 * H),)), WEEK, [])
    assert not fits(run, replace(machine, free=9.5 * H), WEEK, [])
    assert not fits(run, machine, WEEK, [replace(run, machine="weir 1")]), "one person cannot be at two machines"
    assert not fits(run, machine, Crew(((9 * H, 10 * H),)), []), "nobody is there for the stop"
    assert not fits(replace(run, visits=run.visits[:2]), machine, WEEK, []), "nobody takes it off"


def test_what_is_pinned_stays():
    plates = [plate("a", 3), plate("b", 3)]
    before = listed(plates, weirs(1), WEEK)
    later = before.runs[1]
    after = repaired(plates, weirs(1), WEEK, 0.0, [later], told(before))
    assert later in after.runs


def test_a_plate_is_placed_by_hand_where_its_machine_and_hands_are_free():
    (machine,), other = weirs(1), plate("b", 2)
    first = placed(plate("a", 3), machine, WEEK, 9 * H)
    assert (first.start, first.machine) == (9 * H, "weir 0")
    assert placed(other, machine, WEEK, 10 * H, [first]) is None, "it prints the other meanwhile"
    assert placed(other, machine, WEEK, first.free, [first]).start == first.free
    assert placed(other, replace(machine, key="weir 1"), WEEK, 9 * H, [first]).start == first.visits[0].end
    assert placed(other, machine, WEEK, 20 * H).start == DAY + 8 * H, "nobody is there in the evening"
    assert placed(Plate("c", H, "Lock"), machine, WEEK, 9 * H) is None
    week = listed([plate("a", 3), other], [machine], WEEK, kept=[first])
    assert first in week.runs and week.runs[0].plate.key in ("a", "b") and len(week.runs) == 2


@st.composite
def farms(draw, most=14, models=("Weir", "Lock")):
    count = draw(st.integers(1, 5))
    machines = [
        Machine(
            f"m{n}", draw(st.sampled_from(models)), draw(st.sampled_from(["petg", "asa"])),
            pushes=draw(st.booleans()), out=((10 * H, 30 * H),) if draw(st.booleans()) else (),
        )
        for n in range(count)
    ]  # fmt: skip
    plates = []
    for n in range(draw(st.integers(1, most))):
        hours = draw(st.floats(0.5, 30))
        stops = tuple(Stop(share * hours * H, 300) for share in draw(st.lists(st.floats(0.1, 0.9), max_size=2)))
        due, weight = draw(st.floats(0, 120)) * H, draw(st.sampled_from([1.0, 5.0]))
        material = draw(st.sampled_from(["petg", "asa"]))
        plates.append(Plate(f"p{n}", hours * H, draw(st.sampled_from(models)), material, due, weight, stops))
    days = tuple((d * DAY + 8 * H, d * DAY + 17 * H) for d in range(60))
    return plates, machines, Crew(days, draw(st.integers(1, 2)))


@settings(max_examples=40, deadline=None)
@given(farms())
def test_no_machine_holds_two_plates_and_no_hand_is_at_two_places(farm):
    plates, machines, crew = farm
    week = listed(plates, machines, crew)
    assert len(week.runs) + len(week.left) == len(plates)
    models = {m.model for m in machines}
    assert all(p.model not in models for p in week.left)
    keeps_its_laws(week, machines, crew)


def keeps_its_laws(week, machines, crew):
    by_key = {m.key: m for m in machines}
    for a, b in combinations(week.runs, 2):
        assert a.machine != b.machine or a.free <= b.start + 1e-6 or b.free <= a.start + 1e-6
    visits: list[Visit] = [v for r in week.runs for v in r.visits]
    for v in visits:
        assert any(a - 1e-6 <= v.at and v.end <= b + 1e-6 for a, b in crew.windows)
        assert sum(w.at <= v.at < w.end for w in visits) <= crew.people
    for r in week.runs:
        assert r.end - r.begin >= r.plate.seconds - 1e-6 and by_key[r.machine].model == r.plate.model
        assert not any(a < r.free and r.start < b for a, b in by_key[r.machine].out)
        assert r.end == pytest.approx(played(r), abs=1e-3)


def played(run) -> float:
    """The last line, from the visits alone: at each stop the print stands still until the hand has gone again."""
    own = [v for v in run.visits if v.what not in ("take off",) and "start" not in v.what]
    still = 0.0
    for stop, visit in zip(sorted(run.plate.stops, key=lambda s: s.at), own, strict=True):
        reached = run.begin + stop.at + still
        assert visit.at >= reached - 1e-6
        still += visit.end - reached
    return run.begin + run.plate.seconds + still
