"""What a plate of copies takes in time, and what the wait between layers leaves of the weld. Lengths mm, times s."""

from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from typing import Literal

import numpy as np
import shapely

from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.sections import INTEGRALS, LayerStack
from hewel_engine.plates.nesting import Item
from hewel_engine.printing.paths import layer_paths, move_seconds, seconds_of
from hewel_engine.printing.weld import Bond, Layers, Weld, banded
from hewel_engine.processes import Process

Mode = Literal["together", "sequential"]
DAY = 86_400.0


@dataclass(frozen=True, eq=False)
class Copy:
    """One copy as it is laid: of every layer, (count,), seconds of extruding, mm of its lines, and what its weld
    depends on.
    """

    extruding: Array
    extruded: Array
    layers: Layers

    @classmethod
    def of(cls, stack: LayerStack, process: Process) -> "Copy":
        paths = layer_paths(stack, process)
        area, perimeter = stack.integrals[:, INTEGRALS.index("area")], stack.integrals[:, INTEGRALS.index("perimeter")]
        laid = paths.lines * process.spacing
        filled = np.clip(np.divide(laid, area, out=np.ones_like(area), where=area > 0), 0.01, 1.0)
        return cls(paths.seconds, paths.lines, Layers(area, perimeter, filled, process.layer))


@dataclass(frozen=True, eq=False)
class Batch:
    """Copies of one part on a plate. ``items`` in the order of printing; ``ready_s`` and ``change_s`` the machine's."""

    copy: Copy
    process: Process
    weld: Weld
    mode: Mode
    items: list[Item]
    middle: tuple[float, float]
    """mm: of the part's outline as it stands, from its own origin."""
    ready_s: float = 360.0
    change_s: float = 600.0

    @cached_property
    def travel_s(self) -> float:
        """s from each copy to the next, once through all of them."""
        process, places = self.process, [item.on(shapely.Point(self.middle)) for item in self.items]
        hops = tour(places) if self.mode == "together" else [a.distance(b) for a, b in pairwise(places)]
        return float(sum(move_seconds(h, process.travel_speed, process.acceleration) for h in hops))

    @cached_property
    def layer_s(self) -> Array:
        """(count,) s that a copy's layer waits for its next one."""
        return waits(self.copy, self.process, self.mode, len(self.items), self.travel_s)

    @cached_property
    def bond(self) -> Bond:
        """Of every layer but the first, which stands on the plate."""
        layers = self.copy.layers
        rest = Layers(layers.area[1:], layers.perimeter[1:], layers.filled[1:], layers.pitch)
        return banded(self.layer_s[1:], rest, self.weld)

    @property
    def print_s(self) -> float:
        return plate_seconds(self.layer_s, self.mode, len(self.items), self.travel_s)

    @property
    def parts_per_day(self) -> float:
        """Copies in a day and night of one machine whose plates are changed at once."""
        return len(self.items) * DAY / (self.ready_s + self.print_s + self.change_s)


def tour(places: list[shapely.Point]) -> list[float]:
    """mm of the ways through all places: from the first always to the nearest that is left."""
    if not places:
        return []
    left, hops = np.array([(p.x, p.y) for p in places]), []
    here, left = left[0], left[1:]
    while len(left):
        far = np.hypot(*(left - here).T)
        k = int(far.argmin())
        hops.append(float(far[k]))
        here, left = left[k], np.delete(left, k, axis=0)
    return hops


def waits(copy: Copy, process: Process, mode: Mode, count: int, travel_s: float) -> Array:
    """(layers,) s that a copy's layer waits for its next one, with ``count`` copies on the plate and ``travel_s`` s on
    the ways between them.
    """
    if mode == "sequential":
        return seconds_of(copy.extruding, process)
    return seconds_of(copy.extruding, process, count, travel_s)


def plate_seconds(layer_s: Array, mode: Mode, count: int, travel_s: float) -> float:
    """s from the first line of a plate to its last."""
    once = float(layer_s.sum())
    return once if mode == "together" else count * once + travel_s
