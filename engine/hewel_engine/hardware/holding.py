"""What holds: the fewest of the bolts that are drawn, the smallest size of those, the least torque; and where all of
them do not do, how many like them would. Torques N·mm.
"""

from dataclasses import dataclass
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


def what_holds(reading: Reading, asked: Asked) -> Holding | Wanted | None:
    """None where no load acts, or where no number of such bolts would do: what they press, or what no bolt closes,
    then decides.
    """
    sized = {size: other for size in SIZES if (other := reading.of_size(size)) is not None}
    reserves = {size: other.reserve(asked) or 0.0 for size, other in sized.items()}
    if not sized or reading.reserve(asked) is None:
        return None
    best = max(sized, key=lambda size: reserves[size])
    if reserves[best] < 1:
        return _wanted(sized, asked)
    fewest = sized[best]
    for fewer in fewest.leaving_out(asked):
        if (fewer.reserve(asked) or 0.0) < 1:
            break
        fewest = fewer
    ids = tuple(p.row["id"] for p in fewest.rows)
    these = {size: other.only(ids) for size, other in sized.items()}
    smallest = next(size for size, other in these.items() if (other.reserve(asked) or 0.0) >= 1)
    return _tightened(these[smallest], ids, smallest, asked)


def _tightened(reading: Reading, ids: tuple[str, ...], size: str, asked: Asked) -> Holding:
    """With the least torque that does and a little more, in two figures; never more than the seats bear."""
    usual = max(reading.setting.torque)
    least = max(reading.least_torque(asked) or [usual])
    torque = min(two_figures(ROOM_ABOVE * least), usual)
    again = reading.at_torque(torque)
    reserve = again.reserve(asked) or 0.0
    if reserve < 1:  # rounded down too far
        torque, reserve = usual, reading.reserve(asked) or 0.0
    return Holding(ids, size, torque, reserve)


def _wanted(sized: dict[str, Reading], asked: Asked) -> Wanted | None:
    found = []
    for size, reading in sized.items():
        drawn = len(reading.rows)
        held = lambda times, reading=reading: (reading.times(times).reserve(asked) or 0.0) >= 1
        if held(MOST_TIMES):
            low, high = 1.0, MOST_TIMES
            for _ in range(STEPS):
                middle = (low + high) / 2
                low, high = (low, middle) if held(middle) else (middle, high)
            found.append((ceil(drawn * high - 0.02), SIZES.index(size), size))
    return Wanted(min(found)[0], min(found)[2]) if found else None
