"""What holds of the bolts that are drawn: fewest, smallest, least torque; and how many more where they do not do."""

from dataclasses import replace

import numpy as np
import pytest
from test_bolted import PETG, bolted

from hewel_engine.hardware.catalogue import SIZES
from hewel_engine.hardware.holding import Holding, Unneeded, Wanted, what_holds
from hewel_engine.hardware.reading import Asked, Reading

SPOTS = [(5.5, -5.5), (-6.0, 0.0), (5.5, 5.5)]
USUAL = 0.0


@pytest.fixture(scope="module")
def three() -> Reading:
    made, _, field, _, setting = bolted([USUAL] * 3, SPOTS)
    return Reading(field, made.rows, setting, PETG)


def asked(factor: float) -> Asked:
    return Asked(["push"], [[]], factor)


def held_at(reading: Reading, part: float) -> Asked:
    """A factor at which the part needs so much of what the bolts add: 0 none of it, 1 all."""
    plain = reading.cases(asked(1.0))[0].plain
    best = max(reading.of_size(size).reserve(asked(1.0)) for size in SIZES)
    return asked(plain + part * (best - plain))


@pytest.mark.parametrize("part", [0.15, 0.3, 0.45, 0.6, 0.75, 0.9])
def test_what_is_said_to_hold_holds_and_nothing_less_does(three, part):
    wanted = held_at(three, part)
    found = what_holds(three, wanted)
    assert isinstance(found, Holding) and found.reserve >= 1
    drawn = three.of_size(found.size).only(found.ids)
    assert drawn.at_torque(found.torque).reserve(wanted) == pytest.approx(found.reserve)
    assert found.torque <= max(drawn.setting.torque), "no more than the seats bear"
    less = drawn.at_torque(0.85 * found.torque)
    assert less.reserve(wanted) < found.reserve
    for size in SIZES[: SIZES.index(found.size)]:
        assert three.of_size(size).only(found.ids).reserve(wanted) < 1, "a smaller size does not do"
    for gone in found.ids if len(found.ids) > 1 else ():
        fewer = [i for i in found.ids if i != gone]
        assert max(three.of_size(size).only(fewer).reserve(wanted) for size in SIZES) < 1, "fewer do not do"


def test_more_is_asked_of_more_bolts(three):
    counts = [len(what_holds(three, held_at(three, part)).ids) for part in (0.1, 0.5, 0.95)]
    assert counts == sorted(counts) and counts[0] < 3


def test_two_that_do_not_do_say_how_many_would():
    """Two on the pulled side of a post say how many; drawn so, they hold."""
    few = bolted([USUAL], [(6.0, 0.0)])
    reading = Reading(few[2], few[0].rows, few[4], PETG)
    both = bolted([USUAL] * 2, [(5.5, -5.5), (5.5, 5.5)])
    two = Reading(both[2], both[0].rows, both[4], PETG)
    best = lambda r: max(r.of_size(size).reserve(asked(1.0)) for size in SIZES)
    assert best(two) > best(reading)
    factor = best(reading) + 0.4 * (best(two) - best(reading))
    found = what_holds(reading, asked(factor))
    assert isinstance(found, Wanted) and found.count == 2
    assert isinstance(what_holds(two, asked(factor)), Holding)


def test_no_bolt_is_asked_for_where_the_part_with_its_holes_holds_already(three):
    plain = three.without_steel(asked(1.0))
    found = what_holds(three, asked(0.9 * plain))
    assert found == Unneeded(pytest.approx(1 / 0.9))
    assert isinstance(what_holds(three, asked(1.02 * plain)), Holding)


def test_nothing_is_promised_where_no_bolt_helps(three):
    assert what_holds(three, asked(1e4)) is None
    nothing = replace(three.field, cases=np.zeros_like(three.field.cases), growth=np.zeros_like(three.field.growth))
    assert what_holds(Reading(nothing, three.rows, three.setting, PETG), asked(1.0)) is None
