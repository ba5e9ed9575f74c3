"""Every number of copies of one part at once: what their layers wait for, and what that leaves of the weld.

The plate is filled once in either mode; fewer copies are the first of those. Lengths mm, times s.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.plates.batch import Batch, Copy, Mode, plate_seconds, waits
from hewel_engine.plates.nesting import Item, Plate, Rule, arranged
from hewel_engine.plates.outlines import grown_outside, outline_of
from hewel_engine.plates.turns import Head, in_order
from hewel_engine.printing.weld import BondTable, Layers, Weld
from hewel_engine.processes import Process

MODES: tuple[Mode, ...] = ("together", "sequential")
TOURS = 16
"""Numbers of copies whose ways are followed; between them they are taken straight."""
MOST_POINTS = 90
"""Numbers of copies that a curve shows; all up to about half of it, then ever wider apart."""
COLD_S = 14_400.0
"""s after which a layer has the temperature of the air: what is laid onto a cold inset."""


@dataclass(frozen=True)
class Bed:
    """Where copies stand: the ``plate``, the ``height`` over it, the ``head`` and the ``spacing`` of outlines, with
    ``brim`` mm round each.
    """

    plate: Plate
    height: float
    head: Head
    spacing: float = 3.0
    brim: float = 0.0


@dataclass(frozen=True)
class Pause:
    """Before the layer at ``z`` mm the machine waits ``wait`` s; onto a ``cold`` inset nothing is warm."""

    z: float
    wait: float
    cold: bool = False


@dataclass(frozen=True, eq=False)
class Laid:
    """A part whose batches can be read: its ``outline`` seen from above, one ``copy``, the ``bonds`` of every layer but
    the first against the wait, the ``items`` of the full plate in either mode, and s of the ways between the first
    n + 1 of them (``travel``).
    """

    outline: shapely.Geometry
    copy: Copy
    bonds: BondTable
    items: dict[Mode, list[Item]]
    travel: dict[Mode, Array]


def full_plate(outline: shapely.Geometry, height: float, bed: Bed, mode: Mode, budget: float) -> list[Item]:
    """As many copies as go in a mode, in the order in which they are laid or printed."""
    shape = grown_outside(outline, bed.brim)
    if height > bed.height + 1e-6:
        return []
    if mode == "together":
        return arranged(shape, bed.plate, Rule(bed.spacing), None, budget)
    items = arranged(shape, bed.plate, bed.head.rule(height, bed.spacing), None, budget)
    return in_order(items or arranged(shape, bed.plate, Rule(bed.spacing), 1, budget), shape, bed.head.rail)


def travels(items: list[Item], middle: tuple[float, float], copy: Copy, process: Process, mode: Mode) -> Array:
    """(n,) s of the ways between the first 1 … n copies, once through all of them."""
    if not items:
        return np.zeros(0)
    some = np.unique(np.geomspace(1, len(items), TOURS).round().astype(int))
    weld = Weld.of(process.stock)
    ways = [Batch(copy, process, weld, mode, items[:n], middle).travel_s for n in some]
    return np.interp(np.arange(1, len(items) + 1), some, ways)


def laid(
    mesh: Mesh,
    stack: LayerStack,
    process: Process,
    weld: Weld,
    known: tuple[str, ...],
    bed: Bed,
    budget: float,
    before: Laid | None = None,
    watch: Callable[[str], None] = lambda words: None,
) -> Laid:
    """A part as it stands, with the full plate of either mode found in ``budget`` s each; what is known ``before`` is
    not calculated again, and kept where no more copies go.
    """
    outline = before.outline if before else outline_of(mesh, stack.up)
    watch("drawing the lines of every layer")
    copy = before.copy if before else Copy.of(stack, process)
    items, travel = {}, {}
    middle = (float(outline.centroid.x), float(outline.centroid.y))
    for mode in MODES:
        watch("filling the plate" if mode == "together" else "one after another")
        found = full_plate(outline, stack.height, bed, mode, budget)
        if before and len(found) <= len(before.items[mode]):
            found = before.items[mode]
        items[mode] = found
        travel[mode] = travels(found, middle, copy, process, mode)
    watch("the weld of every layer")
    count = max(len(items["together"]), 1)
    longest = waits(copy, process, "together", count, float(travel["together"][-1]) if items["together"] else 0.0)
    one = waits(copy, process, "sequential", 1, 0.0)
    rest = Layers(copy.layers.area[1:], copy.layers.perimeter[1:], copy.layers.filled[1:], copy.layers.pitch)
    longest_wait = max(float(longest.max()), COLD_S)
    bonds = BondTable.of(float(one.min()), longest_wait, rest, weld, known)
    return Laid(outline, copy, bonds, items, travel)


def centred(items: list[Item], outline: shapely.Geometry, plate: Plate, front: float = 0.0) -> list[Item]:
    """The same copies in the middle of the plate, whose first ``front`` mm stay free; as they were where something
    else is kept out.
    """
    if not items or len(plate.keep_out) > (front > 0):
        return items
    bounds = np.array([item.on(outline).bounds for item in items])
    low, high = bounds[:, :2].min(axis=0), bounds[:, 2:].max(axis=0)
    room = np.array([[plate.margin, max(plate.margin, front)], np.array(plate.size) - plate.margin])
    dx, dy = (room.sum(axis=0) - low - high) / 2
    return [Item(item.x + dx, item.y + dy, item.turn) for item in items]


@dataclass(frozen=True, eq=False)
class Batches:
    """Numbers of ``copies`` (n,) in one ``mode``: s that each layer waits (``layer_s``, (n, layers)) and of the whole
    plate (``print_s``, (n,)); the share of the weld and the lower edge of its band, (n, layers).
    """

    mode: Mode
    copies: np.ndarray
    layer_s: Array
    print_s: Array
    weld: Array
    weld_low: Array


def points_of(most: int) -> np.ndarray:
    """Numbers of copies that are shown of 1 … ``most``."""
    if most <= MOST_POINTS:
        return np.arange(1, most + 1)
    close = np.arange(1, MOST_POINTS // 2 + 1)
    far = np.geomspace(close[-1], most, MOST_POINTS - len(close) + 1).round().astype(int)
    return np.unique(np.concatenate([close, far]))


def batches(
    made: Laid, process: Process, mode: Mode, copies: Sequence[int] | np.ndarray, pauses: Sequence[Pause] = ()
) -> Batches:
    """What is read of so many ``copies``, each at most as many as go."""
    numbers = np.asarray(copies, int)
    count = len(made.copy.extruding)
    layer_s, print_s = np.zeros((len(numbers), count)), np.zeros(len(numbers))
    weld, low = np.ones((len(numbers), count)), np.ones((len(numbers), count))
    for i, n in enumerate(numbers):
        way = float(made.travel[mode][n - 1])
        layer_s[i] = waits(made.copy, process, mode, int(n), way)
        waiting, cold = layer_s[i].copy(), np.zeros(count, bool)
        for pause in pauses:
            k = min(max(round(pause.z / made.copy.layers.pitch), 0), count - 1)
            waiting[k] += pause.wait
            cold[k] |= pause.cold
        weld[i, 1:], low[i, 1:] = made.bonds.at(np.where(cold, COLD_S, waiting)[1:])
        stops = sum(p.wait for p in pauses) * (int(n) if mode == "sequential" else 1)
        print_s[i] = plate_seconds(layer_s[i], mode, int(n), way) + stops
    return Batches(mode, numbers, layer_s, print_s, weld, low)
