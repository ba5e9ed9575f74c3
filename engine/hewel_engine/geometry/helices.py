"""Threads that a part has already: round walls whose outline repeats along their axis and goes round with it. mm."""

from dataclasses import dataclass

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view

from hewel_engine.geometry.frames import upright
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.patches import Faces, round_of
from hewel_engine.geometry.rays import RayScene

STEP = 0.05
"""mm along the axis between two looks."""
DEEP = 0.15
"""mm that a thread is deep at least."""
TURNS = 2.5
"""Turns of a thread at least."""
ALIKE, ROUND_IT = 0.8, 0.6
"""Correlation of an outline with itself one pitch on, and with the one a quarter round, a quarter of a pitch on."""
PITCHES = (0.4, 8.0)
MOST = 24
"""Round faces that are looked at, the largest first."""
REACH, ALONG = 6.0, 30.0
"""mm beyond a round face, square to its axis and along it, within which its thread lies."""
LOOK = 4.0
"""mm along the axis over which an outline that rises and falls is no plain one."""


@dataclass(frozen=True, eq=False)
class Helix:
    """``diameter`` at its crests or roots, whichever face was found; ``pitch``, ``deep``, ``length`` along the axis."""

    axis: Array
    middle: Array
    diameter: float
    inside: bool
    pitch: float
    deep: float
    length: float
    facet: int


def find_helices(mesh: Mesh, faces: Faces, rays: RayScene) -> list[Helix]:
    """The threads of a part, each once."""
    area = np.bincount(faces.face, mesh.areas)
    found: list[Helix] = []
    looked = 0
    for label in np.argsort(-area):
        facets = np.flatnonzero(faces.face == label)
        if len(facets) < 12:
            continue
        round_ = round_of(mesh, facets)
        if round_ is None:
            continue
        looked += 1
        if looked > MOST:
            break
        told = _thread(rays, round_.point, round_.axis, round_.radius, round_.half, round_.bore, int(facets[0]))
        if told and all(not _same(told, other) for other in found):
            found.append(told)
    return found


def _same(a: Helix, b: Helix) -> bool:
    beside = np.cross(b.middle - a.middle, a.axis)
    return bool(abs(a.axis @ b.axis) > 0.999 and np.linalg.norm(beside) < 0.1 and a.inside == b.inside)


def _thread(
    rays: RayScene, point: Array, axis: Array, radius: float, half: float, inside: bool, facet: int
) -> Helix | None:
    """The thread on a round face; None where its outline is plain."""
    frame = upright(axis)
    heights = np.arange(-half - ALONG, half + ALONG, STEP)
    outlines = [_outline(rays, point, frame, radius, heights, inside, turn) for turn in (0.3, 0.3 + np.pi / 2)]
    run = _rough(outlines)
    if run is None:
        return None
    a, b = (o[run] for o in outlines)
    deep = float(np.percentile(a, 97) - np.percentile(a, 3))
    if deep < DEEP or deep > 0.6 * radius:
        return None
    lag = _period(a)
    if lag is None or len(a) < TURNS * lag:
        return None
    round_it = max(_alike(a, b, s) for s in (round(lag / 4), round(3 * lag / 4)))
    beside = _alike(a, b, 0)
    if round_it < ROUND_IT or beside > round_it - 0.3:  # rings that repeat do not go round
        return None
    return Helix(axis, point, 2 * radius, inside, lag * STEP, deep, len(a) * STEP, facet)


def _rough(outlines: list[Array]) -> slice | None:
    """The longest stretch where both outlines are there and neither is plain; None where that is short."""
    wide = int(LOOK / STEP)
    ok = np.ones(len(outlines[0]), bool)
    for row in outlines:
        there = np.isfinite(row)
        high, low = (
            getattr(sliding_window_view(np.where(there, row, gone), wide), pick)(axis=1)
            for pick, gone in (("max", -np.inf), ("min", np.inf))
        )
        rough = np.zeros(len(row), bool)
        rough[wide // 2 : wide // 2 + len(high)] = high - low > DEEP
        ok &= there & rough
    edges = np.flatnonzero(np.diff(np.r_[False, ok, False].astype(int)))
    runs = list(zip(edges[::2], edges[1::2], strict=True))
    first, last = max(runs, key=lambda r: r[1] - r[0], default=(0, 0))
    inner = wide // 4
    return slice(first + inner, last - inner) if (last - first - 2 * inner) * STEP > TURNS * PITCHES[0] else None


def _outline(
    rays: RayScene, point: Array, frame: Array, radius: float, heights: Array, inside: bool, turn: float
) -> Array:
    """(n,) radii of the wall in one direction; not a number where nothing is near."""
    way = np.cos(turn) * frame[0] + np.sin(turn) * frame[1]
    begin = max(radius - REACH, 0.05 * radius) if inside else radius + REACH
    sense = 1.0 if inside else -1.0
    starts = point + heights[:, None] * frame[2] + begin * way
    gone = rays.distances(starts, np.tile(sense * way, (len(heights), 1)))
    radii = begin + sense * gone
    return np.where(np.isfinite(gone) & (np.abs(radii - radius) < min(REACH, 0.7 * radius)), radii, np.nan)


def _period(row: Array) -> int | None:
    """The lag at which an outline comes again, in looks; None where it does not."""
    low, high = (max(int(p / STEP), 4) for p in PITCHES)
    lags = np.arange(low, min(high, int(len(row) / TURNS) + 1))
    if len(lags) < 3:
        return None
    alike = np.array([_alike(row, row, int(lag)) for lag in lags])
    peaks = np.flatnonzero((alike[1:-1] >= alike[:-2]) & (alike[1:-1] >= alike[2:]) & (alike[1:-1] > ALIKE)) + 1
    return int(lags[peaks[0]]) if len(peaks) else None


def _alike(a: Array, b: Array, lag: int) -> float:
    """Correlation of one outline with another, ``lag`` looks on."""
    x, y = a[: len(a) - lag], b[lag:]
    if len(x) < 4 or np.std(x) < 1e-6 or np.std(y) < 1e-6:
        return 0.0
    return float(np.corrcoef(x, y)[0, 1])
