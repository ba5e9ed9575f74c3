"""What holds: the fewest of the bolts that are drawn, the smallest size of those, the least torque; and where all of
them do not do, how many like them would. Torques N·mm.
"""

from dataclasses import dataclass
from itertools import takewhile
from math import ceil

from hewel_engine.hardware.catalogue import SIZES
from hewel_engine.hardware.reading import Asked, Reading, two_figures

MOST_TIMES = 3.0
"""As many bolts as are drawn, times so much: more find no room where these stand."""
STEPS = 8
"""Halvings between a number that does not do and one that does."""
ROOM_ABOVE = 1.05
"""Of the torque at which it just holds: a wrench is set no closer."""


@dataclass(frozen=True)
class Holding:
    """So many bolts of a ``size``, by the ``ids`` of their rows, each tightened with ``torque``: the least reserve."""

    ids: tuple[str, ...]
    size: str
    torque: float
    reserve: float


@dataclass(frozen=True)
class Wanted:
    """An estimate: so many bolts of a ``size`` beside one another where those that are drawn stand, each clamping as
    they do on average.
    """

    count: int
    size: str


@dataclass(frozen=True)
class Unneeded:
    """With its holes, and the walls that the printer lays round them, it holds without any steel: ``reserve``."""

    reserve: float


def what_holds(reading: Reading, asked: Asked) -> Holding | Wanted | Unneeded | None:
    """None where no load acts, or where no number of such bolts would do: what they press, or what no bolt closes,
    then decides.
    """
    if reading.reserve(asked) is None:
        return None
    bare = reading.without_steel(asked)
    if bare is not None and bare >= 1:
        return Unneeded(bare)
    sized = {size: other for size in SIZES if (other := reading.of_size(size)) is not None}
    best = max(sized.values(), key=lambda other: _reserve(other, asked), default=None)
    if best is None:
        return None
    if _reserve(best, asked) < 1:
        return _wanted(sized, asked)
    enough = [best, *takewhile(lambda fewer: _reserve(fewer, asked) >= 1, best.leaving_out(asked))]
    ids = tuple(p.row["id"] for p in enough[-1].rows)
    these = ((size, other.only(ids)) for size, other in sized.items())
    smallest, held = next((size, other) for size, other in these if _reserve(other, asked) >= 1)
    return _tightened(held, ids, smallest, asked)


def _reserve(reading: Reading, asked: Asked) -> float:
    """The least; 0 where bolts this tight leave none."""
    return reading.reserve(asked) or 0.0


def _tightened(reading: Reading, ids: tuple[str, ...], size: str, asked: Asked) -> Holding:
    """With the least torque that does and a little more, in two figures; never more than the seats bear."""
    usual = max(reading.setting.torque)
    least = max(reading.least_torque(asked) or [usual])
    torque = min(two_figures(ROOM_ABOVE * least), usual)
    reserve = _reserve(reading.at_torque(torque), asked)
    if reserve < 1:  # rounded down too far
        torque, reserve = usual, _reserve(reading, asked)
    return Holding(ids, size, torque, reserve)


def _wanted(sized: dict[str, Reading], asked: Asked) -> Wanted | None:
    found = []
    for size, reading in sized.items():
        drawn = len(reading.rows)
        held = lambda times, reading=reading: _reserve(reading.times(times), asked) >= 1
        if held(MOST_TIMES):
            low, high = 1.0, MOST_TIMES
            for _ in range(STEPS):
                middle = (low + high) / 2
                low, high = (low, middle) if held(middle) else (middle, high)
            found.append((ceil(drawn * high - 0.02), SIZES.index(size), size))
    if not found:
        return None
    count, _, size = min(found)
    return Wanted(count, size)
