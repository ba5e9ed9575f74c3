"""Which of all numbers of copies to print, and what is said of it."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil

from hewel_engine.plates.batch import Mode

WORTH, DEARER = 0.02, 0.05
"""Shares of parts a day, and of the cost of a part, that are less worth than a greater reserve."""
MODE_WORDS = {"together": "together", "sequential": "one after another"}


@dataclass(frozen=True)
class Option:
    """So many ``copies`` in a ``mode``: the ``reserve`` and the lower edge ``low`` of its band, None where no strength
    is known; good parts a day and what each costs.
    """

    mode: Mode
    copies: int
    reserve: float | None
    low: float | None
    per_day: float
    cost: float

    @property
    def holds(self) -> bool:
        """Feasibility is judged on the lower edge of the band."""
        return self.low is None or self.low >= 1

    @property
    def words(self) -> str:
        return "one at a time" if self.copies == 1 else f"{self.copies} {MODE_WORDS[self.mode]}"


def proposed(options: Sequence[Option]) -> Option | None:
    """The most good parts a day of what holds. Of those that give nearly as many and cost hardly more than the cheapest
    the one that holds most, then the cheapest, then the emptiest plate. Where nothing holds, what comes nearest. None
    of no options.
    """
    good = [o for o in options if o.holds]
    if not good:
        return max(options, key=lambda o: (round(o.low or 0, 3), o.per_day), default=None)
    most = max(o.per_day for o in good)
    near = [o for o in good if o.per_day >= (1 - WORTH) * most]
    cheapest = min(o.cost for o in near)
    near = [o for o in near if o.cost <= (1 + DEARER) * cheapest]
    return min(near, key=lambda o: (-round(o.low or 0, 2), round(o.cost, 4), o.copies, o.mode))


def why(taken: Option, options: Sequence[Option]) -> str:
    """The sentence of an option beside what the fullest plate would be."""
    gives = f"{taken.per_day:.3g} good parts a day at {taken.cost:.2f} each"
    if taken.low is None or taken.reserve is None:
        return f"{_capital(taken.words)}: {gives}; how they hold is not known yet."
    if not taken.holds:
        doubt = "falls" if taken.reserve < 1 else "may fall"
        told = f"Fails: {taken.words} the reserve {doubt} to {min(taken.low, taken.reserve):.2f}"
        if not any(o.holds for o in options):
            return f"{told}, and no other number of copies holds: change the part, its direction or its process."
        return f"{told}."
    told = f"{_capital(taken.words)}: reserve {taken.reserve:.2f}, at worst {taken.low:.2f}; {gives}."
    busier = [o for o in options if not o.holds and o.per_day > (1 + WORTH) * taken.per_day]
    if not busier:
        return told
    most = max(busier, key=lambda o: o.per_day)
    return (
        f"{told} {_capital(most.words)} would give {most.per_day:.3g} a day, but the wait between layers may leave a"
        f" reserve of {most.low:.2f}."
    )


def _capital(words: str) -> str:
    return words[:1].upper() + words[1:]


@dataclass(frozen=True)
class Order:
    """Copies for a number of good parts: ``full`` plates and one of ``rest`` copies, 0 where there is none."""

    made: int
    full: int
    rest: int


def order_of(quantity: int, copies: int, scrap: float) -> Order:
    """N/(1 − scrap) copies on plates of ``copies``.

    >>> order_of(100, 44, 0.04)
    Order(made=105, full=2, rest=17)
    """
    made = ceil(quantity / (1 - scrap) - 1e-9)
    return Order(made, made // copies, made % copies)
