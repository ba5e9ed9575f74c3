"""How long a machine takes over the moves of a prepared file, and what each of its layers is. Lengths mm, times s.

Corners are taken as fast as a small deviation from them allows (junction deviation); each move speeds up and slows down
within its length (trapezoids, after a pass backward and one forward).
"""

from dataclasses import dataclass
from math import pi

import numpy as np
from numba import njit

from hewel_engine.errors import Note
from hewel_engine.geometry.mesh import Array
from hewel_engine.prepared.moves import LAID, Moves

DEVIATION = 0.02
"""mm that the path may be off a corner."""
DIGITS = 3
"""Of heights in mm: lines whose heights agree in them are of one layer."""
SPIRAL = 0.5
"""Share of what is laid while the height changes from which a file is printed as one spiral."""
SHORT = 0.5
"""mm: shorter lines say nothing of their width."""
PARTS = (0.01, 0.5, 0.99)
"""Shares of the length of all lines that are narrower than what is told as least, median and most."""


@njit(cache=True, nogil=True)
def _seconds(kind, points, speed, dwell, acceleration, deviation):
    """(n,) s of every move. ``points`` (n, 4): x, y, z, e of its end."""
    count = len(kind)
    length = np.empty(count, np.float32)
    entry = np.zeros(count + 1, np.float32)
    x = y = z = 0.0
    ux = uy = uz = 0.0
    before = 0.0
    for k in range(count):
        dx, dy, dz = points[k, 0] - x, points[k, 1] - y, points[k, 2] - z
        far = np.sqrt(dx * dx + dy * dy + dz * dz)
        still = far < 1e-6
        if still:
            far = abs(points[k, 3])
        length[k] = far
        fast = speed[k]
        if k and not still and kind[k] != 2 and before > 0.0:
            vx, vy, vz = dx / far, dy / far, dz / far
            cosine = -(ux * vx + uy * vy + uz * vz)
            if cosine < 0.999999:
                half = np.sqrt(0.5 * (1.0 - max(cosine, -1.0)))
                corner = fast if half > 0.999999 else np.sqrt(acceleration * deviation * half / (1.0 - half))
                entry[k] = min(fast, before, corner)
        if still or kind[k] == 2:
            before = 0.0
        else:
            ux, uy, uz = dx / far, dy / far, dz / far
            before = fast
        x, y, z = points[k, 0], points[k, 1], points[k, 2]
    for k in range(count - 1, -1, -1):  # whoever comes too fast could not stop in time
        most = np.sqrt(entry[k + 1] * entry[k + 1] + 2.0 * acceleration * length[k])
        entry[k] = min(entry[k], most)
    out = np.empty(count, np.float32)
    for k in range(count):
        if kind[k] == 2:
            out[k] = dwell[k]
            entry[k + 1] = min(entry[k + 1], 0.0)
            continue
        far, begin, fast = length[k], entry[k], speed[k]
        end = min(entry[k + 1], np.sqrt(begin * begin + 2.0 * acceleration * far))
        entry[k + 1] = end
        top = min(fast, np.sqrt(acceleration * far + 0.5 * (begin * begin + end * end)))
        top = max(top, begin, end, 1e-6)
        ramps = (2 * top * top - begin * begin - end * end) / (2 * acceleration)
        out[k] = (2 * top - begin - end) / acceleration + max(far - ramps, 0.0) / top
    return out


@dataclass(frozen=True, eq=False)
class PreparedLayers:
    """(count,) from the lowest: ``z`` and ``height`` mm, ``seconds``, ``volume`` mm³ and ``path`` mm laid."""

    z: Array
    height: Array
    seconds: Array
    volume: Array
    path: Array

    def as_rows(self) -> list[dict]:
        rows = zip(self.z, self.height, self.seconds, self.volume, self.path, strict=True)
        names = ("z_mm", "height_mm", "seconds", "extruded_mm3", "path_mm")
        return [dict(zip(names, map(float, row), strict=True)) for row in rows]


@dataclass(frozen=True, eq=False)
class Prepared:
    """A prepared file as a machine goes through it. ``widths``: of its lines, mm, PARTS of their length."""

    moves: int
    layers: PreparedLayers
    seconds: float
    volume: float
    widths: tuple[float, float, float]
    notes: list[Note]

    def as_dict(self) -> dict:
        return {
            "moves": self.moves,
            "layers": self.layers.as_rows(),
            "seconds": self.seconds,
            "extruded_mm3": self.volume,
            "widths_mm": dict(zip(("least", "median", "most"), self.widths, strict=True)),
        }


def planned(moves: Moves, acceleration: float, filament: float, factor: float = 1.0) -> Prepared:
    """Times and layers of moves on a machine of one ``acceleration`` mm/s², fed with a ``filament`` mm thick;
    ``factor``: what the machine's prints were found to take over what was planned.
    """
    points = np.column_stack([moves.x, moves.y, moves.z, moves.e])
    seconds = factor * _seconds(moves.kind, points, moves.speed, moves.dwell, acceleration, DEVIATION).astype(float)
    before = np.vstack([np.zeros((1, 3), points.dtype), points[:-1, :3]])
    laid = moves.kind == LAID
    path = np.where(laid, np.linalg.norm(points[:, :3] - before, axis=1), 0.0).astype(float)
    volume = np.where(laid, moves.e, 0.0).astype(float) * pi / 4 * filament**2
    rising = laid & (np.abs(points[:, 2] - before[:, 2]) > 1e-6)
    notes = []
    if path[rising].sum() > SPIRAL * path.sum():
        notes.append(Note("spiral", "It is printed as one rising spiral: it has no layers, only turns."))
    layers, number = _layers(points[:, 2], laid, path, seconds, volume)
    return Prepared(
        len(moves.kind), layers, float(seconds.sum()), float(volume.sum()),
        _widths(path, volume, layers.height, number), notes,
    )  # fmt: skip


def _layers(z: Array, laid: np.ndarray, path: Array, seconds: Array, volume: Array):
    """The heights at which something is laid; of every move the number of its layer. What the nozzle does between two
    laid lines counts with the layer of the first.
    """
    levels, own = np.unique(np.round(z[laid].astype(float), DIGITS), return_inverse=True)
    last = np.maximum.accumulate(np.where(laid, np.arange(len(z)), -1))
    rank = np.cumsum(laid) - 1
    number = np.where(last >= 0, own[np.maximum(rank, 0)], own[0])
    gather = lambda values: np.bincount(number, values, len(levels))
    return PreparedLayers(levels, np.diff(levels, prepend=0.0), gather(seconds), gather(volume), gather(path)), number


def _widths(path: Array, volume: Array, height: Array, number: np.ndarray) -> tuple[float, float, float]:
    """mm of the lines: a flat line with round sides, A = (w − h)·h + π/4·h²."""
    told = path >= SHORT
    if not told.any():
        return 0.0, 0.0, 0.0
    h = np.maximum(height[number[told]], 1e-6)
    widths = volume[told] / path[told] / h + h * (1 - pi / 4)
    order = np.argsort(widths)
    behind = np.cumsum(path[told][order])
    least, median, most = (float(widths[order[np.searchsorted(behind, share * behind[-1])]]) for share in PARTS)
    return least, median, most
