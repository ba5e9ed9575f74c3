"""A prepared file beside what was calculated of the same plate: what differs, in words. Lengths mm, times s."""

from dataclasses import dataclass

import numpy as np

from hewel_engine.geometry.mesh import Array
from hewel_engine.prepared.moves import LAID, Moves
from hewel_engine.prepared.planning import DIGITS, Prepared

CLOSE = 0.05
"""Share by which a width or a volume may be off and still be the same."""
TIME = 0.15
"""Share by which the time of a plate may be off before a factor for the machine is worth its while."""
EXTRA = 0.25
"""Share of a layer laid beyond the part from which something else is there."""
RUN = 3
"""Layers in a row that make it a support; at the plate it is a brim or a skirt."""
FOOT = 2
MOST_LINES = 6000


@dataclass(frozen=True, eq=False)
class Expected:
    """A plate as it was calculated: layers ``pitch`` apart, lines ``width`` wide; of every layer (count,) mm³ laid for
    one copy and s that it waits; ``copies``, and s of the whole plate.
    """

    pitch: float
    width: float
    volume: Array
    layer_s: Array
    copies: int
    print_s: float


@dataclass(frozen=True)
class Difference:
    """A sentence with what was found and what was expected; ``state`` good, doubtful or fails."""

    key: str
    state: str
    words: str
    found: float
    expected: float

    def as_dict(self) -> dict:
        words = f"Fails: {self.words[0].lower()}{self.words[1:]}" if self.state == "fails" else self.words
        return {
            "key": self.key, "state": self.state, "words": words, "found": self.found, "expected": self.expected,
        }  # fmt: skip


def at_layers(found: Prepared, values: Array, count: int, pitch: float) -> Array:
    """(count,) what the file's layers say of each layer of the part: all of those that begin within it together; a
    layer that none begins in has nothing.
    """
    tops = found.layers.z
    number = np.clip(np.ceil(tops / pitch - 0.5).astype(int) - 1, 0, count - 1)
    return np.bincount(number, values, count)[:count]


def waits(found: Prepared, expected: Expected) -> Array:
    """(count,) s that every layer of the part waits by the file: those of the file's layer that its middle lies in;
    above the file what was calculated.
    """
    middles = (np.arange(len(expected.layer_s)) + 0.5) * expected.pitch
    number = np.searchsorted(found.layers.z, middles)
    last = len(found.layers.z) - 1
    return np.where(number <= last, found.layers.seconds[np.minimum(number, last)], expected.layer_s)


def copies_of(found: Prepared, expected: Expected) -> float:
    """Copies that the file lays: the median over the layers of what is laid over what one copy takes."""
    laid = at_layers(found, found.layers.volume, len(expected.volume), expected.pitch)
    full = (expected.volume > 0) & (laid > 0)
    return float(np.median(laid[full] / expected.volume[full])) if full.any() else 0.0


def differences(found: Prepared, expected: Expected) -> list[Difference]:
    """What differs, the gravest first, and what agrees."""
    rows = [_height(found, expected), _layers(found, expected), _width(found, expected)]
    count = copies_of(found, expected)
    rows += [_copies(count, expected), *_beyond(found, expected, max(round(count), 1)), _time(found, expected)]
    return sorted(rows, key=lambda row: ("fails", "doubtful", "good").index(row.state))


def _height(found: Prepared, expected: Expected) -> Difference:
    high, wanted = float(found.layers.z[-1]), len(expected.volume) * expected.pitch
    off = abs(high - wanted) > 1.5 * expected.pitch
    words = f"It is {high:.2f} mm high; the part stands {wanted:.2f} mm high"
    tail = ": it was turned, scaled or cut." if off else "."
    return Difference("height", "fails" if off else "good", words + tail, high, wanted)


def _layers(found: Prepared, expected: Expected) -> Difference:
    pitch = float(np.median(found.layers.height))
    off = abs(pitch - expected.pitch) > CLOSE * expected.pitch
    words = f"Its layers are {pitch:.2f} mm; {expected.pitch:g} mm were calculated with"
    tail = ": walls, welds and bridges hold for those alone." if off else "."
    return Difference("layer", "fails" if off else "good", words + tail, pitch, expected.pitch)


def _width(found: Prepared, expected: Expected) -> Difference:
    width = found.widths[1]
    off = abs(width - expected.width) > CLOSE * expected.width
    words = f"Half of its lines are up to {width:.2f} mm wide; {expected.width:g} mm were calculated with"
    tail = ": walls are no longer whole lines." if off else "."
    return Difference("width", "doubtful" if off else "good", words + tail, width, expected.width)


def _copies(count: float, expected: Expected) -> Difference:
    whole = round(count)
    even = whole > 0 and abs(count - whole) <= 2 * CLOSE * whole
    if not even:
        words = f"It lays {count:.2f} times one copy: filling or perimeters are others than calculated."
        return Difference("copies", "doubtful", words, count, expected.copies)
    off = whole != expected.copies
    words = f"It prints {whole} {'copy' if whole == 1 else 'copies'}"
    tail = f"; {expected.copies} are looked at here: the wait between layers is another." if off else "."
    return Difference("copies", "fails" if off else "good", words + tail, count, expected.copies)


def _beyond(found: Prepared, expected: Expected, copies: int) -> list[Difference]:
    """Where much more is laid than the part is: a support, or at the plate a brim or a skirt."""
    laid = at_layers(found, found.layers.volume, len(expected.volume), expected.pitch)
    beyond = laid - copies * expected.volume
    much = beyond > np.maximum(EXTRA * copies * expected.volume, 2.0)
    rows = []
    if much[:FOOT].any():
        extra = float(beyond[:FOOT].sum())
        rows.append(
            Difference("brim", "good", f"On the plate {extra:.0f} mm³ more are laid: a brim or a skirt.", extra, 0.0)
        )
    for first, last in _runs(much[FOOT:]):
        if last - first + 1 < RUN:
            continue
        low, high = (first + FOOT) * expected.pitch, (last + FOOT + 1) * expected.pitch
        extra = float(beyond[first + FOOT : last + FOOT + 1].sum())
        words = f"From {low:.1f} to {high:.1f} mm {extra:.0f} mm³ more are laid than the part is: a support was added."
        rows.append(Difference("support", "fails", words, extra, 0.0))
    return rows


def _runs(flags: np.ndarray) -> list[tuple[int, int]]:
    edges = np.flatnonzero(np.diff(np.r_[0, flags.astype(int), 0]))
    return [(int(a), int(b) - 1) for a, b in edges.reshape(-1, 2)]


def _time(found: Prepared, expected: Expected) -> Difference:
    ratio = found.seconds / max(expected.print_s, 1e-9)
    off = abs(ratio - 1) > TIME
    hours = lambda s: f"{int(s // 3600)}:{int(s % 3600 // 60):02d} h"
    words = f"By its moves the plate takes {hours(found.seconds)}; {hours(expected.print_s)} were calculated"
    tail = f", {ratio:.2f} times as much." if off else "."
    return Difference("time", "doubtful" if off else "good", words + tail, found.seconds, expected.print_s)


def lines_at(moves: Moves, z: float, pitch: float) -> Array:
    """(n, 4) mm, x0 y0 x1 y1, of the lines laid in the layer whose top is nearest to ``z``; at most MOST_LINES."""
    laid = moves.kind == LAID
    if not laid.any():
        return np.zeros((0, 4))
    levels = np.unique(np.round(moves.z[laid].astype(float), DIGITS))
    level = levels[np.argmin(np.abs(levels - z))]
    rows = np.flatnonzero(laid & (np.abs(moves.z - level) < 0.25 * pitch))
    rows = rows[rows > 0][:MOST_LINES]
    return np.column_stack([moves.x[rows - 1], moves.y[rows - 1], moves.x[rows], moves.y[rows]]).astype(float)
