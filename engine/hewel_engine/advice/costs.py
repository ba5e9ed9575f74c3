"""What a standing part costs to print, and how it holds: the figures that a remedy changes."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

from hewel_engine.advice.placed_part import PlacedPart
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.printing.paths import grams_of, layer_paths, seconds_of
from hewel_engine.processes import Process
from hewel_engine.strength.reserves import reserves
from hewel_engine.strength.stressing import Stressed


@dataclass(frozen=True, eq=False)
class Printed:
    """``seconds`` (count,) of every layer of one copy by itself, and ``grams`` of plastic in its lines."""

    seconds: Array
    grams: float


def printed(part: PlacedPart) -> Printed:
    """From the lines of every layer; a line of length ℓ is ℓ·h·s of plastic."""
    paths = layer_paths(part.stack, part.process)
    return Printed(seconds_of(paths.seconds, part.process), grams_of(paths.lines, part.process))


def least_of(found: Stressed, process: Process, up: Array, factor: float = 1.0) -> float | None:
    """The least reserve over all cases of a solution, on layers normal to ``up``."""
    rows = reserves(found, process.stock, up, factor)
    return min((r.reserve for r in rows if r.reserve is not None), default=None)


LOSS = 0.1
"""Share of a part's least reserve that remedies may cost."""


@dataclass(frozen=True, eq=False)
class Holds:
    """What ``part`` holds, to compare remedied parts with: solved once with stiffness the same in all directions, and
    read for each. ``solve`` gives a part's stress on a middling grid, or None where its loads are not carried;
    ``closer`` on a finer one, where the middling one says that something is lost. ``factor``: the required one, and
    what else a reserve is divided by.
    """

    part: Mesh
    process: Process
    solve: Callable[[Mesh], Stressed | None]
    closer: Callable[[Mesh], Stressed | None] | None = None
    factor: float = 1.0

    @cached_property
    def before(self) -> Stressed | None:
        return self.solve(self.part)

    @cached_property
    def before_closer(self) -> Stressed | None:
        return self.closer(self.part) if self.closer else None

    def _least(self, found: Stressed | None, up: Array) -> float | None:
        return found and least_of(found, self.process, up, self.factor)

    def bears(self, up: Array, instead_of: Array) -> tuple[bool, float | None]:
        """Whether the part may stand ``up`` in place of another direction without losing what it holds, and its least
        reserve there.
        """
        had, has = (self._least(self.before, way) for way in (instead_of, up))
        return had is None or has is None or not _loses(had, has), has

    def share(self, changed: Mesh, up: Array) -> float | None:
        """By what a part's least reserve is multiplied when it becomes ``changed``, standing ``up``."""
        least = [self._least(found, up) for found in (self.before, self.before and self.solve(changed))]
        return least[1] / least[0] if least[0] and least[1] is not None else None

    def lost(self, changed: Mesh, up: Array) -> tuple[float, float] | None:
        """The least reserve before and after, where it falls by more than LOSS or below 1; None where it does not."""
        words = None
        for before, solve in ((lambda: self.before, self.solve), (lambda: self.before_closer, self.closer)):
            if solve is None:
                break
            had = self._least(before(), up)
            has = self._least(solve(changed), up) if had is not None else None
            if had is None or (has is not None and not _loses(had, has)):
                return None
            words = had, has or 0.0
        return words


def _loses(before: float, after: float) -> bool:
    return after < (1 - LOSS) * before or after < 1 <= before
