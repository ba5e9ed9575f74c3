"""Regions of a layer as the polygon-clipping library holds them: grown, shrunk, cut from each other. Lengths mm."""

import numpy as np
import shapely
from manifold3d import CrossSection, FillRule, JoinType, OpType
from numba import njit

from hewel_engine.geometry.mesh import Array

ROUND = 24
"""Sides of the full circle that stands at a grown corner; it falls 0.9 % of the growth short between two of them."""


def enclosed(loops: list[Array]) -> CrossSection:
    """The region with material on the left of its ``loops`` (n, 2)."""
    return CrossSection(loops, FillRule.Positive)


HAIR = 0.01
"""mm: a region that grows by less needs no arcs."""
GENTLE = np.radians(15)
"""Turn of a corner that needs no arc where a region grows: its point stands out 0.9 % of the growth, as much as a side
of the arc falls short.
"""


def grown(plan: CrossSection, by: float, sharp: float | None = None) -> CrossSection:
    """All points within ``by`` of the region (or, where negative, deeper inside it than that); ``sharp`` radians is by
    how much the sharpest of its corners that open turns, where that is known already.
    """
    if abs(by) < HAIR:
        return mitred(plan, by)
    if sharp is None:
        sharp = max((_sharpest(loop, 1.0 if by > 0 else -1.0) for loop in plan.to_polygons()), default=0.0)
    return mitred(plan, by) if sharp < GENTLE else plan.offset(by, JoinType.Round, 2.0, ROUND)


@njit(cache=True, nogil=True)
def turn_at(loop: Array, i: int):
    """Radians by which a closed loop (n, 2) turns to the left at its corner ``i``."""
    n = len(loop)
    ax, ay = loop[i, 0] - loop[i - 1, 0], loop[i, 1] - loop[i - 1, 1]
    bx, by = loop[(i + 1) % n, 0] - loop[i, 0], loop[(i + 1) % n, 1] - loop[i, 1]
    return np.arctan2(ax * by - ay * bx, ax * bx + ay * by)


@njit(cache=True, nogil=True)
def _sharpest(loop, way):
    """Radians: the greatest turn to the left (``way`` 1) or to the right (−1) of a closed loop (n, 2)."""
    most = 0.0
    for i in range(len(loop)):
        most = max(most, way * turn_at(loop, i))
    return most


@njit(cache=True, nogil=True)
def sharpest(xy: Array, starts: np.ndarray, groups: np.ndarray) -> Array:
    """(2, g) radians: the same to the left and to the right, of all loops of each group; loops ``starts`` (l + 1,) in
    ``xy`` (p, 2), groups (g + 1,) in those.
    """
    most = np.zeros((2, len(groups) - 1))
    for g in range(len(groups) - 1):
        for loop in range(groups[g], groups[g + 1]):
            points = xy[starts[loop] : starts[loop + 1]]
            for side in range(2):
                most[side, g] = max(most[side, g], _sharpest(points, 1.0 - 2.0 * side))
    return most


def mitred(plan: CrossSection, by: float) -> CrossSection:
    """The same with sharp corners where ``grown`` has arcs: a quarter of its time where only lengths are asked for."""
    return plan.offset(by, JoinType.Miter, 2.0)


def united(plans: list[CrossSection]) -> CrossSection:
    return plans[0] if len(plans) == 1 else CrossSection.batch_boolean(plans, OpType.Add)


def bounds_meet(a: tuple, b: tuple, gap: float) -> bool:
    """Whether two boxes (x0, y0, x1, y1) come within ``gap`` of each other."""
    return a[0] <= b[2] + gap and b[0] <= a[2] + gap and a[1] <= b[3] + gap and b[1] <= a[3] + gap


def length(plan: CrossSection) -> float:
    """Of all its outlines, those of holes included."""
    return sum(_round(loop) for loop in plan.to_polygons())


def after_inset(plan: CrossSection, by: float) -> float:
    """mm² that are left of a plan whose every side moves inward by ``by`` mm as long as none of it vanishes on the way:
    A − L·d + (Σ tan(θ/2) − Σ φ/2)·d², θ the turns of its outward corners, φ those of its inward ones (Steiner).
    """
    return plan.area() - length(plan) * by + sum(_bend(loop) for loop in plan.to_polygons()) * by**2


@njit(cache=True, nogil=True)
def _bend(loop):
    total = 0.0
    for i in range(len(loop)):
        turn = turn_at(loop, i)
        total += np.tan(turn / 2) if turn > 0 else turn / 2
    return total


@njit(cache=True, nogil=True)
def _round(loop):
    total = 0.0
    for i in range(len(loop)):
        total += np.sqrt((loop[i, 0] - loop[i - 1, 0]) ** 2 + (loop[i, 1] - loop[i - 1, 1]) ** 2)
    return total


def as_polygons(plan: CrossSection) -> shapely.Geometry:
    """The same region for questions about points."""
    parts = []
    for body in plan.decompose():
        loops = sorted(body.to_polygons(), key=lambda p: -abs(signed_area(p)))
        if loops:  # dividing a region without any area may give a body without an outline
            parts.append(shapely.Polygon(loops[0], loops[1:]))
    return shapely.MultiPolygon(parts) if len(parts) != 1 else parts[0]


def polygons_of(shape: shapely.Geometry) -> list[shapely.Polygon]:
    """The polygons of a region; lines and points that an intersection left are none of it."""
    return [p for p in getattr(shape, "geoms", [shape]) if p.geom_type == "Polygon" and not p.is_empty]


def loops_of(shape: shapely.Geometry) -> list[Array]:
    """The outlines (n, 2) of polygons, material on the left."""
    parts = map(shapely.orient_polygons, polygons_of(shape))
    return [np.array(r.coords[:-1]) for p in parts for r in (p.exterior, *p.interiors)]


def plan_of(corners: Array) -> shapely.Geometry:
    """What triangles (k, 3, 2 or 3) of a face cover, seen along its normal."""
    return shapely.union_all(shapely.polygons(corners[:, :, :2]).tolist(), grid_size=1e-6)


def enclosing(shape: shapely.Geometry) -> shapely.Geometry:
    """Polygons with what they enclose."""
    return shapely.union_all([shapely.Polygon(p.exterior) for p in getattr(shape, "geoms", [shape]) if not p.is_empty])


def largest(shape: shapely.Geometry) -> shapely.Geometry:
    """The largest polygon of several; an empty one where there is none."""
    return max(polygons_of(shape), key=lambda p: p.area, default=shapely.Polygon())


def wall_on(line: shapely.LineString, width: float) -> shapely.Polygon:
    """The plan of a wall so wide on a straight line of two points."""
    a, b = np.array(line.coords)
    way = (b - a) / max(float(np.linalg.norm(b - a)), 1e-12)
    side = width / 2 * np.array([-way[1], way[0]])
    return shapely.Polygon([a + side, b + side, b - side, a - side])


def sides(shape: shapely.Geometry) -> tuple[float, float]:
    """mm: the shorter and the longer side of the least rectangle round it."""
    box = np.array(shapely.minimum_rotated_rectangle(shape).exterior.coords)[:3]
    short, long = np.sort(np.linalg.norm(np.diff(box, axis=0), axis=1))
    return float(short), float(long)


def signed_area(loop: Array) -> float:
    """mm²; negative for the outline (n, 2) of a hole.

    >>> square = np.array([[0.0, 0.0], [2.0, 0.0], [2.0, 3.0], [0.0, 3.0]])
    >>> signed_area(square), signed_area(square[::-1])
    (6.0, -6.0)
    """
    x, y = loop.T
    return 0.5 * float(x @ np.roll(y, -1) - y @ np.roll(x, -1))
