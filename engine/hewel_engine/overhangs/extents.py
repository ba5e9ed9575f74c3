"""How far a region spans or reaches: measured in plan, from the material that holds it. Lengths mm."""

from dataclasses import dataclass

import numpy as np
import shapely
from manifold3d import CrossSection
from numba import njit
from scipy.spatial import cKDTree

from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.plans import as_polygons, grown, length

LINES = 24
"""Lines laid across a region in each direction."""
TURNS = np.radians(np.arange(0, 180, 5))
HELD = 0.02
"""An edge is held where material of the layer below lies this near."""
EXACT = 1e-6
"""mm to which two plans are one."""
SHORT_EDGES = 480
"""Outlines are divided into about this many pieces, for an edge may be held in part."""


@dataclass(frozen=True, eq=False)
class Rim:
    """The outline of a region in short edges from ``start`` to ``end`` (n, 2); ``held`` (n,) those that are held."""

    start: Array
    end: Array
    held: np.ndarray

    @property
    def lean(self) -> float:
        """Radians: the direction along which most of the outline runs."""
        along = self.end - self.start
        angle = np.arctan2(along[:, 1], along[:, 0]) % np.pi
        weight = np.linalg.norm(along, axis=1)
        bins = np.round(angle / np.radians(0.5)).astype(int) % 360
        best = np.bincount(bins, weight, minlength=360).argmax()
        return float(np.average(angle[bins == best], weights=weight[bins == best]))

    @property
    def between(self) -> float:
        """Radians: the mean direction of the edges that are held, so halfway between two walls that run apart."""
        along = (self.end - self.start)[self.held]
        turn = np.arctan2(along[:, 1], along[:, 0])
        weight = np.linalg.norm(along, axis=1)
        return float(np.arctan2(weight @ np.sin(2 * turn), weight @ np.cos(2 * turn)) / 2)


MOST_KNOWN = 20_000
"""Regions whose measures are kept, the latest."""
_known: dict[tuple, tuple[float | None, float]] = {}


def measured(plan: CrossSection, hold: CrossSection, slack: float) -> tuple[float | None, float]:
    """Span (see ``bridge_span``) and reach (see ``ledge_reach``) of a region held by ``hold``. What was measured is
    kept: a part is checked again after every remedy, and most of what hangs is as it was.
    """
    key = (*_print_of(plan), *_print_of(hold), slack)
    found = _known.get(key)
    if found is None:
        rim = rim_of(plan, hold)
        found = _known[key] = bridge_span(rim, slack), ledge_reach(rim)
        if len(_known) > MOST_KNOWN:
            _known.pop(next(iter(_known)), None)
    return found


def _print_of(plan: CrossSection) -> tuple:
    """What tells a plan from another, to EXACT mm, however its corners are counted."""
    corners = np.concatenate([np.zeros((0, 2)), *plan.to_polygons()])
    if not len(corners):
        return (0,)
    square = corners[:, :1] * corners
    sums = (*corners.sum(axis=0), *square.sum(axis=0), *plan.bounds(), plan.area(), length(plan))
    return (len(corners), *(round(v / EXACT) for v in sums))


def rim_of(plan: CrossSection, hold: CrossSection) -> Rim:
    piece = max(length(plan) / SHORT_EDGES, 0.02)
    starts, ends = [], []
    for loop in plan.to_polygons():
        a, b = loop, np.roll(loop, -1, axis=0)
        parts = np.maximum(1, np.ceil(np.linalg.norm(b - a, axis=1) / piece)).astype(int)
        edge = np.repeat(np.arange(len(a)), parts)
        at = np.arange(len(edge)) - np.repeat(np.cumsum(parts) - parts, parts)
        share = (at / parts[edge])[:, None], ((at + 1) / parts[edge])[:, None]
        starts.append(a[edge] + share[0] * (b - a)[edge])
        ends.append(a[edge] + share[1] * (b - a)[edge])
    start, end = np.concatenate(starts), np.concatenate(ends)
    middle = (start + end) / 2
    grip = as_polygons(grown(hold, HELD))
    shapely.prepare(grip)
    return Rim(start, end, shapely.intersects_xy(grip, middle[:, 0], middle[:, 1]))


@njit(cache=True, nogil=True)
def _longest_chords(start, end, held, angles, lines, slack):
    """(angles,) longest line across the region in each direction; inf where one longer than ``slack`` ends free."""
    n = len(start)
    out = np.zeros(len(angles))
    u, grip = np.empty(n), np.empty(n, np.bool_)
    for t in range(len(angles)):
        c, s = np.cos(angles[t]), np.sin(angles[t])
        low, high = np.inf, -np.inf
        for e in range(n):
            v = -start[e, 0] * s + start[e, 1] * c
            low, high = min(low, v), max(high, v)
        for line in range(lines):
            if out[t] == np.inf:
                break
            level = low + (line + 0.5) / lines * (high - low)
            m = 0
            for e in range(n):
                v0 = -start[e, 0] * s + start[e, 1] * c
                v1 = -end[e, 0] * s + end[e, 1] * c
                if (v0 < level) != (v1 < level):
                    f = (level - v0) / (v1 - v0)
                    u0 = start[e, 0] * c + start[e, 1] * s
                    u1 = end[e, 0] * c + end[e, 1] * s
                    u[m], grip[m] = u0 + f * (u1 - u0), held[e]
                    m += 1
            order = np.argsort(u[:m])
            for i in range(0, m - 1, 2):  # crossings of a line come in pairs: in, out, in, out
                a, b = order[i], order[i + 1]
                if grip[a] and grip[b]:
                    out[t] = max(out[t], u[b] - u[a])
                elif u[b] - u[a] > slack:
                    out[t] = np.inf
    out[out == 0] = np.inf
    return out


def bridge_span(rim: Rim, slack: float) -> float | None:
    """The longest line across the region in the direction where that is shortest, among the directions in which
    every line is held at both ends; None when there is no such direction. mm. The directions
    come from the outline, so that a part turned about the build direction is told the same.

    ``slack`` (mm) is what holds itself, so that the steps by which a region ends on a curved wall do not matter: lines
    no longer than that, and ends no further than that from a held edge (unless all of the region is as near).
    """
    if not rim.held.any():
        return None
    middle = (rim.start + rim.end) / 2
    near = cKDTree(middle[rim.held]).query(middle)[0] <= slack
    held = rim.held if near.all() else near
    ways = np.r_[rim.lean + TURNS, rim.between, rim.between + np.pi / 2]
    best = float(_longest_chords(rim.start, rim.end, held, ways, LINES, slack).min())
    return best if np.isfinite(best) else None


@njit(cache=True, nogil=True)
def _farthest(points, start, end):
    """Greatest of the points' distances to the nearest edge."""
    worst = 0.0
    for p in range(len(points)):
        least = np.inf
        for e in range(len(start)):
            dx, dy = end[e, 0] - start[e, 0], end[e, 1] - start[e, 1]
            px, py = points[p, 0] - start[e, 0], points[p, 1] - start[e, 1]
            size = dx * dx + dy * dy
            t = 0.0 if size == 0 else min(1.0, max(0.0, (px * dx + py * dy) / size))
            least = min(least, (px - t * dx) ** 2 + (py - t * dy) ** 2)
            if least <= worst:
                break
        worst = max(worst, least)
    return np.sqrt(worst)


def ledge_reach(rim: Rim) -> float:
    """Greatest distance (mm) from the region's outline to the edge that holds it; across it all where none does."""
    if not rim.held.any():
        return float(np.linalg.norm(np.ptp(rim.start, axis=0)))
    return float(_farthest(rim.start, rim.start[rim.held], rim.end[rim.held]))
