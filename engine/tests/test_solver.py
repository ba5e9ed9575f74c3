"""The solver behind the week: what is known by hand, never worse than the list, a bound that no week undercuts."""

from itertools import permutations

import pytest
from hypothesis import HealthCheck, given, settings
from test_schedule import DAY, WEEK, H, farms, keeps_its_laws, plate, weirs

from hewel_engine.schedule.solver import improved
from hewel_engine.schedule.week import Crew, Stop, Week, listed, placed

ROUND = Crew(((0.0, 60 * DAY),))


def solved(plates, machines, crew=ROUND, now=0.0, kept=(), seconds=2.0):
    first = listed(plates, machines, crew, now, kept)
    return first, improved(first, machines, crew, now, kept, seconds)


def test_a_long_plate_that_is_late_anyway_lets_the_short_ones_go_first():
    """The list starts what has the least slack; three short plates in time outweigh a long one later still."""
    none = {"start_hands": 0, "end_hands": 0}
    plates = [plate("long", 10, due=5 * H, **none)] + [plate(f"s{i}", 1, due=6 * H, **none) for i in range(3)]
    first, found = solved(plates, weirs(1))
    # By hand: the long one first makes 5 + (5 + 6 + 7) h of lateness, last 8 h, and nothing is less late than that.
    assert first.lateness == pytest.approx(23 * H)
    assert found.week.lateness == pytest.approx(8 * H) and found.bound == pytest.approx(8 * H) and found.proved


def test_the_pause_at_night_goes_into_the_day():
    """Started at eight its pause falls into the night; the short plate first, and it is reached the next morning."""
    plates = [plate("paused", 14, stops=(Stop(10 * H, 300.0),)), plate("short", 3)]
    first, found = solved(plates, weirs(1), WEEK)
    held = lambda week: sum(r.free - r.start for r in week.runs)
    assert held(found.week) < held(first) - 2 * H and found.week.lateness == 0 == found.bound


def test_what_stands_stays_and_what_is_in_time_is_proved_at_once():
    plates = [plate(f"p{i}", 3, due=9 * DAY) for i in range(6)]
    run = placed(plates[0], weirs(2)[1], WEEK, 10 * H)
    first, found = solved(plates, weirs(2), WEEK, 0.0, [run])
    assert first.lateness == 0 and found.proved and run in found.week.runs
    only, same = solved(plates[:1], weirs(2), WEEK, 0.0, [run])
    assert same.week == only


@settings(max_examples=12, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(farms(most=7))
def test_it_is_never_worse_than_the_list_and_keeps_its_laws(farm):
    plates, machines, crew = farm
    first, found = solved(plates, machines, crew, seconds=0.3)
    assert found.week.lateness <= first.lateness + 1e-6 and found.bound <= found.week.lateness + 1e-6
    assert {r.plate.key for r in found.week.runs} >= {r.plate.key for r in first.runs}
    assert all(r.plate in plates for r in found.week.runs)
    keeps_its_laws(found.week, machines, crew)


@settings(max_examples=10, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(farms(most=4, models=("Weir",)))
def test_no_order_of_the_plates_undercuts_the_bound(farm):
    """Every order of few plates listed one by one: the bound holds for all of them."""
    plates, machines, crew = farm
    _, found = solved(plates, machines, crew, seconds=0.5)
    for order in permutations(plates):
        kept = []
        for p in order:
            week = listed([p], machines, crew, 0.0, kept)
            kept = list(week.runs)
        if len(kept) == len(plates):
            assert Week(tuple(kept)).lateness >= found.bound - 1e-6


def test_the_farm_of_the_marks():
    """50 plates, 12 machines, one person: better than the list, its gap known."""
    plates = [
        plate(f"p{i:02}", 3 + (i * 7) % 11, due=(1 + (i * 5) % 4) * DAY, weight=1 + 4 * (i % 9 == 0),
              stops=(Stop(2 * H, 300.0),) if i % 5 == 0 else ())
        for i in range(50)
    ]  # fmt: skip
    first, found = solved(plates, weirs(12), WEEK, seconds=2.0)
    assert found.week.lateness <= first.lateness and 0 <= found.bound <= found.week.lateness
    keeps_its_laws(found.week, weirs(12), WEEK)
