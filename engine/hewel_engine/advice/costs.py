"""What a standing part costs to print, and how it holds: the figures that a remedy changes."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

from hewel_engine.advice.placed_part import PlacedPart
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.voxels import Grid
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


Solve = Callable[[Mesh, Grid | None], Stressed | None]
"""A part's stress, on voxels of its own or on those of the part that it is compared with; None where its loads are not
carried.
"""


@dataclass(frozen=True, eq=False)
class Holds:
    """What ``part`` holds, to compare remedied parts with: solved once with stiffness the same in all directions, and
    read for each. ``solve`` works on a middling grid, ``closer`` on a finer one, where the middling one says that
    something is lost. Before and after stand on one lattice, so that a difference is the remedy's and not the voxels'.
    ``factor``: the required one, and what else a reserve is divided by.
    """

    part: Mesh
    process: Process
    solve: Solve
    closer: Solve | None = None
    factor: float = 1.0

    @cached_property
    def before(self) -> Stressed | None:
        return self.solve(self.part, None)

    @cached_property
    def before_closer(self) -> Stressed | None:
        return self.closer(self.part, None) if self.closer else None

    def _least(self, found: Stressed | None, up: Array) -> float | None:
        return found and least_of(found, self.process, up, self.factor)

    def bears(self, up: Array, instead_of: Array) -> tuple[bool, float | None]:
        """Whether the part may stand ``up`` in place of another direction without losing what it holds, and its least
        reserve there.
        """
        had, has = (self._least(self.before, way) for way in (instead_of, up))
        return had is None or has is None or not _loses(had, has), has

    def compared(self, changed: Mesh, up: Array) -> tuple[float | None, float | None]:
        """The least reserve of the part, and what it becomes when the part becomes ``changed``, standing ``up``; None
        where one of them is not known. What it becomes is what it is times ``share``: one reserve, whatever grid the
        difference was read on.
        """
        had = self._least(self.before, up)
        share = self.share(changed, up) if had else None
        return had, had * share if had and share is not None else None

    def share(self, changed: Mesh, up: Array) -> float | None:
        """By what a part's least reserve is multiplied when it becomes ``changed``, standing ``up``."""
        had, has = self._both(self.before, self.solve, changed, up)
        if self.closer and had and (has is None or _loses(had, has)):
            had, has = self._both(self.before_closer, self.closer, changed, up)
        return has / had if had and has is not None else None

    def _both(self, before: Stressed | None, solve: Solve, changed: Mesh, up: Array) -> tuple:
        if before is None or (had := self._least(before, up)) is None:
            return None, None
        return had, self._least(solve(changed, before.model.grid), up)

    def lost(self, changed: Mesh, up: Array) -> tuple[float, float] | None:
        """The least reserve before and after, where it falls by more than LOSS or below 1; None where it does not."""
        had, has = self.compared(changed, up)
        if had is None or (has is not None and not _loses(had, has)):
            return None
        return had, has or 0.0


def _loses(before: float, after: float) -> bool:
    return after < (1 - LOSS) * before or after < 1 <= before
