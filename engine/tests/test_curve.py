"""Every number of copies at once: times and welds as one plate of each; what it gives, costs, holds and lets go."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapes import box, mesh_of, rod

from hewel_engine.geometry.sections import LayerStack
from hewel_engine.materials import MATERIALS
from hewel_engine.plates.batch import DAY, Batch
from hewel_engine.plates.curve import Bed, Pause, batches, centred, laid, points_of
from hewel_engine.plates.economy import (
    Hands,
    Prices,
    Way,
    break_even,
    cost_of_part,
    ends_at_hand,
    plates_per_day,
)
from hewel_engine.plates.mixed import Guest, mixed
from hewel_engine.plates.nesting import Plate
from hewel_engine.plates.proof import breaches, breaches_of
from hewel_engine.plates.proposal import Option, proposed, why
from hewel_engine.plates.release import Pusher, held, push_reserve, released
from hewel_engine.plates.turns import Head, collisions
from hewel_engine.printing.weld import Weld
from hewel_engine.processes import Process

UP = np.array([0.0, 0.0, 1.0])
PROCESS = Process()
BED = Bed(Plate((220.0, 220.0), 3.0), 250.0, Head())
PETG = Weld.of(MATERIALS["petg"])


@pytest.fixture(scope="module")
def post():
    """A foot 40 × 30 × 4 with a post 12 × 12 on it, 50 high."""
    mesh = mesh_of(box(40, 30, 4) + box(12, 12, 46).translate((0, 0, 25)))
    stack = LayerStack(mesh, UP, PROCESS.layer)
    return stack, laid(mesh, stack, PROCESS, PETG, (), BED, 1.0)


def test_the_full_plate_is_proved_and_fewer_copies_are_its_first(post):
    stack, made = post
    items = made.items["together"]
    assert len(items) >= 25 and breaches(made.outline, items, BED.plate, 3.0) == []
    turn = made.items["sequential"]
    assert 4 <= len(turn) < len(items)
    assert collisions([i.on(made.outline) for i in turn], [stack.height] * len(turn), BED.head) == []


def test_fewer_copies_stand_in_the_middle_and_clear_of_all():
    mesh = mesh_of(box(40, 30, 4))
    plate = Plate((220.0, 200.0), 5.0, (shapely.box(0, 0, 220, 30),))
    stack = LayerStack(mesh, UP, PROCESS.layer)
    made = laid(mesh, stack, PROCESS, PETG, (), Bed(plate, 250.0, Head()), 0.3)
    for mode in ("together", "sequential"):
        for n in (1, 2, len(made.items[mode])):
            items = centred(made.items[mode][:n], made.outline, plate, 30.0)
            assert breaches(made.outline, items, plate, 3.0) == []
            x0, y0, x1, y1 = shapely.unary_union([i.on(made.outline) for i in items]).bounds
            assert (x0 + x1) / 2 == pytest.approx(110) and (y0 + y1) / 2 == pytest.approx((30 + 195) / 2)


@pytest.mark.parametrize("mode", ["together", "sequential"])
def test_a_point_of_the_curve_is_the_plate_of_so_many(post, mode):
    _, made = post
    some = [1, 2, len(made.items[mode])]
    found = batches(made, PROCESS, mode, some)
    middle = (made.outline.centroid.x, made.outline.centroid.y)
    for k, n in enumerate(some):
        one = Batch(made.copy, PROCESS, PETG, mode, made.items[mode][:n], middle)
        assert np.allclose(found.layer_s[k], one.layer_s) and found.print_s[k] == pytest.approx(one.print_s)
        assert np.allclose(found.weld[k, 1:], one.bond.value, atol=0.006)
        assert np.allclose(found.weld_low[k, 1:], one.bond.low, atol=0.02)


def test_neighbours_weaken_every_layer_and_turns_leave_it_alone(post):
    _, made = post
    many = batches(made, PROCESS, "together", range(1, len(made.items["together"]) + 1))
    assert (np.diff(many.weld, axis=0) <= 1e-9).all() and many.weld[-1].min() < 0.8
    turn = batches(made, PROCESS, "sequential", range(1, len(made.items["sequential"]) + 1))
    assert np.ptp(turn.weld, axis=0).max() == 0 and (many.weld_low <= many.weld + 1e-12).all()


def test_a_pause_weakens_its_own_layer_and_a_cold_inset_more(post):
    _, made = post
    free, wait, cold = (
        batches(made, PROCESS, "sequential", [1], pauses)
        for pauses in ((), [Pause(20.0, 120.0)], [Pause(20.0, 120.0, True)])
    )
    changed = np.flatnonzero(wait.weld[0] != free.weld[0])
    assert changed.tolist() == [100] and cold.weld[0, 100] < wait.weld[0, 100] < free.weld[0, 100]
    assert wait.print_s[0] == pytest.approx(free.print_s[0] + 120)


def test_a_curve_shows_all_small_numbers_and_the_last():
    assert points_of(7).tolist() == list(range(1, 8))
    far = points_of(4000)
    assert len(far) <= 91 and far[:40].tolist() == list(range(1, 41)) and far[-1] == 4000 and (np.diff(far) > 0).all()


def test_too_high_a_part_fills_no_plate(post):
    stack, _ = post
    low = laid(stack.mesh, stack, PROCESS, PETG, (), Bed(Plate((220.0, 220.0)), 40.0, Head()), 0.2)
    assert low.items == {"together": [], "sequential": []} and len(low.bonds.value) == stack.count - 1


# ------------------------------------------------------------------ what it gives and costs


@settings(max_examples=60, deadline=None)
@given(st.floats(60, 3 * DAY), st.floats(0.5, 23.5), st.floats(0, 1800))
def test_hands_by_day_never_give_more_than_hands_at_all_hours(print_s, hours, change_s):
    by_day = plates_per_day(300, print_s, change_s, Hands(hours))
    assert 0 < by_day <= plates_per_day(300, print_s, change_s, Hands(24)) + 0.02 * by_day + 0.1
    assert plates_per_day(300, print_s, change_s, Hands(hours, needed=False)) == DAY / (300 + print_s + change_s)


def test_a_plate_of_ten_hours_is_printed_once_a_day():
    assert plates_per_day(0, 10 * 3600, 600, Hands(9)) == pytest.approx(1, rel=0.04)
    assert not ends_at_hand(0, 10 * 3600, Hands(9)) and ends_at_hand(0, 10 * 3600, Hands(10))
    assert plates_per_day(0, 3 * 3600, 0, Hands(9)) == pytest.approx(4, rel=0.04), "three by day, one over night"


def test_a_part_costs_its_lines():
    prices = Prices(3.0, 30.0, 22.0, 6.0, 2.0, waste=0.1, scrap=0.2, hardware=0.5, power=200.0, kwh=0.25)
    cost = cost_of_part(prices, 4, 50.0, 600, 6600, 0)
    assert cost["machine"] == pytest.approx(3.0 * 2 / 4) and cost["plastic"] == pytest.approx(0.05 * 1.1 * 22)
    assert cost["hands"] == pytest.approx(0.5 * (6 / 4 + 2)) and cost["energy"] == pytest.approx(0.2 * 2 * 0.25 / 4)
    whole = sum(cost[n] for n in ("machine", "plastic", "hands", "energy", "hardware"))
    assert cost["total"] == pytest.approx(whole / 0.8) == pytest.approx(whole + cost["scrap"])
    assert cost_of_part(Prices(3.0, 30.0, 22.0, 6.0, 2.0), 4, 50.0, 600, 6600, 0)["energy"] is None


def test_where_a_mould_pays():
    mould = Way("moulded", once=6000, piece=0.8, assembly=0.1, stock=0.1)
    n = break_even(4.0, mould)
    assert n == pytest.approx(2000) and 4.0 * n == pytest.approx(mould.total(n))


def option(mode, copies, low, per_day, cost):
    return Option(mode, copies, None if low is None else low + 0.2, low, per_day, cost)


def test_the_most_parts_of_what_holds_and_of_about_as_many_what_holds_most():
    alone, turn = option("together", 1, 1.5, 4, 3.0), option("sequential", 6, 1.42, 23.3, 2.65)
    few, full = option("together", 6, 1.02, 23.3, 2.60), option("together", 20, 0.9, 38.8, 2.2)
    assert proposed([alone, few, turn, full]) is turn, "the same output, hardly dearer, and it holds far more"
    assert proposed([alone, few, full]) is few and proposed([]) is None
    dear = option("sequential", 6, 1.42, 23.3, 2.9)
    assert proposed([alone, few, dear]) is few, "a tenth dearer is not hardly"
    unknown = [option("together", n, None, 2 * n, 3 - n / 10) for n in (1, 5, 9)]
    assert proposed(unknown) is unknown[-1]


def test_the_sentence_says_what_the_fuller_plate_would_cost():
    few, full = option("together", 6, 1.02, 23.3, 2.6), option("together", 20, 0.9, 38.8, 2.2)
    words = why(few, [few, full])
    assert words.startswith("6 together: reserve 1.22, at worst 1.02; 23.3 good parts a day at 2.60 each.")
    assert words.endswith("20 together would give 38.8 a day, but the wait between layers may leave a reserve of 0.90.")
    assert why(full, [few, full]) == "Fails: 20 together the reserve may fall to 0.90."
    only = option("together", 1, 0.6, 4, 3.0)
    assert "no other number of copies holds: change the part" in why(only, [only])
    assert proposed([only, option("together", 2, 0.5, 8, 3.0)]) is only, "what comes nearest"
    assert why(option("sequential", 1, 1.2, 4, 3.0), []).startswith("One at a time: reserve")


# ------------------------------------------------------------------ on the plate, and off it


def test_what_the_plate_holds_by_hand():
    mesh = mesh_of(box(20, 10, 40))
    stack = LayerStack(mesh, UP, 0.2)
    tip, drag = held(mesh, stack, PROCESS)
    assert tip.value == pytest.approx(np.degrees(np.arctan(5 / 20))) and tip.state == "good"
    assert drag.value == pytest.approx(0.15 * 20 * 100 / 6 / (2 * 40)) and drag.state == "fails"
    assert drag.as_dict()["words"].startswith("Fails: ") and "brim of 5 mm" in drag.words
    *_, wider = held(mesh, stack, PROCESS, 5.0)
    square = (30 * 20**2 / 6) * 0.15 / 80  # the round corners of the brim leave a little less
    assert 0.88 * square < wider.value < square and wider.state == "good"


def test_a_push_against_the_foot_by_hand():
    stack = LayerStack(mesh_of(box(20, 10, 40)), UP, 0.2)
    (line, push) = released(stack, PROCESS, 0.03, Pusher("pushed off", 60.0, 10.0))
    assert line.value == pytest.approx(min(0.03 * 20 * 100 / 6 / 10, 0.03 * 200)) and line.state == "good"
    pull, shear = line.value * 10 / (20 * 100 / 6) / 28, 1.5 * line.value / 200 / 20
    assert push.value == pytest.approx(1 / np.hypot(pull, shear), rel=1e-3) and "many times over" in push.words


def test_what_falls_over_is_not_helped_by_a_brim():
    mesh = mesh_of(box(4, 30, 3) + box(60, 30, 3).translate((28, 0, 10)) + box(4, 30, 10).translate((0, 0, 5)))
    tip, drag = held(mesh, LayerStack(mesh, UP, 0.2), PROCESS)
    assert tip.state == "fails" and tip.as_dict()["words"].startswith("Fails: it falls over by itself")
    assert drag.state == "fails" and "brim" not in drag.words and "another direction" in drag.words


def test_a_large_foot_stays_a_low_part_is_missed_a_slender_one_breaks():
    plate = LayerStack(mesh_of(box(150, 100, 12)), UP, 0.2)
    (stays, *_) = released(plate, PROCESS, 0.03, Pusher("pushed off", 60.0, 10.0))
    assert stays.state == "fails" and "smaller" in stays.words
    (over,) = released(LayerStack(mesh_of(box(20, 20, 4)), UP, 0.2), PROCESS, 0.03, Pusher("pushed off"))
    assert over.state == "fails" and "goes over" in over.words
    pin = LayerStack(mesh_of(box(60, 60, 2) + rod(40, 1.5).translate((0, 0, 20))), UP, 0.2)
    (_, breaks) = released(pin, PROCESS, 0.03, Pusher("pushed off", 200.0, 20.0))
    assert breaks.state == "fails" and push_reserve(pin, PROCESS, 100.0, 20.0)[1] >= 0.8
    (by_hand,) = released(plate, PROCESS, 0.03, Pusher())
    assert by_hand.state == "good"


# ------------------------------------------------------------------ several kinds


def test_two_kinds_stand_clear_and_their_layers_add_up():
    high, low = (laid(m, LayerStack(m, UP, 0.2), PROCESS, PETG, (), BED, 0.3) for m in (
        mesh_of(box(30, 20, 24)), mesh_of(rod(10, 12.0).translate((0, 0, 5))),
    ))  # fmt: skip
    guest = Guest(low.outline, low.copy.extruding, 5)
    found = mixed(high, 4, [guest], BED, PROCESS, 1.0)
    assert [len(rows) for rows in found.items] == [4, 5] and len(found.layer_s) == 120
    placed = [i.on(high.outline) for i in found.items[0]] + [i.on(low.outline) for i in found.items[1]]
    assert breaches_of(placed, BED.plate, 3.0) == []
    alone = batches(high, PROCESS, "together", [4])
    share = 1 + PROCESS.travel_share
    assert found.layer_s[20] > alone.layer_s[0, 20] + 5 * share * low.copy.extruding[20] - 1
    assert found.layer_s[80] == pytest.approx(alone.layer_s[0, 80], abs=1.0), "the low ones are finished there"
    assert found.print_s == pytest.approx(found.layer_s.sum())


def test_what_does_not_go_is_left_out_and_the_rest_stands():
    big = laid(m := mesh_of(box(180, 180, 6)), LayerStack(m, UP, 0.2), PROCESS, PETG, (), BED, 0.2)
    small = laid(s := mesh_of(box(20, 20, 6)), LayerStack(s, UP, 0.2), PROCESS, PETG, (), BED, 0.2)
    found = mixed(big, 2, [Guest(small.outline, small.copy.extruding, 30)], BED, PROCESS, 0.5)
    assert len(found.items[0]) == 1 and 5 <= len(found.items[1]) < 30
