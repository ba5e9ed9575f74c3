"""What of a part is seen from above, and the room that one outline leaves to another. Lengths mm, angles degrees."""

import numpy as np
import shapely
from manifold3d import CrossSection, FillRule, JoinType
from numba import njit

from hewel_engine.geometry.frames import upright
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.plans import as_polygons, loops_of

STRAIGHT = 1e-4
"""Corners that stand off a straight outline by less say nothing."""
MOST_CORNERS = 240
COARSE = 0.02
"""An outline of more corners is followed this closely, from outside."""
TOUCHING = 1e-6
"""Outlines that keep the gap to within this do not overlap: what just fits, fits."""
ARC = np.radians(7.5)
"""A round corner of a grown outline has a side each so many radians, outside the true arc."""


def outline_of(mesh: Mesh, up: Array) -> shapely.Geometry:
    """The whole part seen from above as it stands with ``up`` upward; its own origin is the origin."""
    turn = upright(up)
    flat = mesh.vertices @ turn[:2].T
    corners = flat[mesh.faces]
    a, b = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    twice = a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]
    seen = np.abs(twice) > 1e-12
    corners[twice < 0] = corners[twice < 0][:, ::-1]
    if mesh.closed:
        seen &= twice > 0  # what faces down lies under what faces up
    plan = CrossSection(list(corners[seen]), FillRule.NonZero).simplify(STRAIGHT)
    if plan.num_vert() > MOST_CORNERS:
        plan = plan.offset(COARSE, JoinType.Miter, 2.0).simplify(COARSE)
    return as_polygons(plan)


def turned(outline: shapely.Geometry, degrees: float) -> shapely.Geometry:
    """Anticlockwise about the part's own origin; quarter turns are exact."""
    quarter = {0: (1, 0), 90: (0, 1), 180: (-1, 0), 270: (0, -1)}.get(round(degrees % 360, 9))
    cos, sin = quarter or (np.cos(np.radians(degrees)), np.sin(np.radians(degrees)))
    return shapely.transform(outline, lambda xy: xy @ np.array([[cos, sin], [-sin, cos]]))


def grown_outside(outline: shapely.Geometry, by: float) -> shapely.Geometry:
    """All points within ``by`` and a little more: straight sides move exactly so far, and the sides at round corners
    stand outside the arc.
    """
    if by <= 0:
        return outline
    sides = int(np.ceil((np.pi / 2) / ARC))
    pointed = outline.buffer(by, join_style="mitre", mitre_limit=10.0)
    return outline.buffer(by / np.cos(np.pi / (4 * sides)), quad_segs=sides).intersection(pointed)


def _edges(outline: shapely.Geometry) -> Array:
    """(n, 4) of all outlines, x0 y0 x1 y1."""
    loops = loops_of(outline)
    return np.concatenate([np.c_[loop, np.roll(loop, -1, axis=0)] for loop in loops])


@njit(cache=True, nogil=True)
def _mark_quad(table, xs, ys, x0, y0, pitch):
    """Marks the lattice points inside a convex quadrangle or on it. ``xs``, ``ys`` (4,): its corners in turn."""
    low, high = min(ys[0], ys[1], ys[2], ys[3]), max(ys[0], ys[1], ys[2], ys[3])
    first = max(int(np.ceil((low - y0) / pitch - 1e-9)), 0)
    last = min(int(np.floor((high - y0) / pitch + 1e-9)), table.shape[1] - 1)
    for row in range(first, last + 1):
        y = y0 + row * pitch
        left, right = np.inf, -np.inf
        for i in range(4):
            j = (i + 1) & 3
            ya, yb = ys[i], ys[j]
            if (y < ya and y < yb) or (y > ya and y > yb):
                continue
            if ya == yb:
                left, right = min(left, xs[i], xs[j]), max(right, xs[i], xs[j])
            else:
                x = xs[i] + (xs[j] - xs[i]) * (y - ya) / (yb - ya)
                left, right = min(left, x), max(right, x)
        begin = max(int(np.ceil((left - x0) / pitch - 1e-9)), 0)
        end = min(int(np.floor((right - x0) / pitch + 1e-9)), table.shape[0] - 1)
        for column in range(begin, end + 1):
            table[column, row] = 1


@njit(cache=True, nogil=True)
def _mark_swept(table, a, b, x0, y0, pitch):
    """Marks the displacements at which an edge of ``a`` (n, 4) meets one of ``b`` (m, 4) moved by them."""
    xs, ys = np.empty(4), np.empty(4)
    for i in range(len(a)):
        for j in range(len(b)):
            xs[0], ys[0] = a[i, 0] - b[j, 0], a[i, 1] - b[j, 1]
            xs[1], ys[1] = a[i, 2] - b[j, 0], a[i, 3] - b[j, 1]
            xs[2], ys[2] = a[i, 2] - b[j, 2], a[i, 3] - b[j, 3]
            xs[3], ys[3] = a[i, 0] - b[j, 2], a[i, 1] - b[j, 3]
            _mark_quad(table, xs, ys, x0, y0, pitch)


@njit(cache=True, nogil=True)
def _mark_inside(table, edges, sign, dx, dy, x0, y0, pitch):
    """Marks the lattice points inside the region whose edges (n, 4), times ``sign`` and moved by (dx, dy), are
    given.
    """
    crossings = np.empty(len(edges))
    for row in range(table.shape[1]):
        y = y0 + row * pitch
        count = 0
        for e in range(len(edges)):
            ax, ay = sign * edges[e, 0] + dx, sign * edges[e, 1] + dy
            bx, by = sign * edges[e, 2] + dx, sign * edges[e, 3] + dy
            if (ay <= y) != (by <= y):
                crossings[count] = ax + (bx - ax) * (y - ay) / (by - ay)
                count += 1
        rows = np.sort(crossings[:count])
        for k in range(0, count - 1, 2):
            begin = max(int(np.ceil((rows[k] - x0) / pitch)), 0)
            end = min(int(np.floor((rows[k + 1] - x0) / pitch)), table.shape[0] - 1)
            for column in range(begin, end + 1):
                table[column, row] = 1


def kept_clear(outline: shapely.Geometry, gap: float) -> shapely.Geometry:
    """What another outline may not enter, so that the two keep the gap."""
    return grown_outside(outline, gap - TOUCHING)


def forbidden(clear: shapely.Geometry, b: shapely.Geometry, offset: Array, pitch: float):
    """Displacements ``offset`` + lattice of ``b`` at which it enters what is kept ``clear``, in one table that holds
    all of them: (nx, ny) bytes and the lattice point (2,) of its first corner. The no-fit polygon, read at lattice
    points: what edges sweep over each other, and what either encloses of the other.
    """
    (ax0, ay0, ax1, ay1), (bx0, by0, bx1, by1) = clear.bounds, b.bounds
    first = np.floor((np.array([ax0 - bx1, ay0 - by1]) - offset) / pitch).astype(int)
    last = np.ceil((np.array([ax1 - bx0, ay1 - by0]) - offset) / pitch).astype(int)
    table = np.zeros(tuple(last - first + 1), np.uint8)
    x0, y0 = offset + first * pitch
    own, other = _edges(clear), _edges(b)
    _mark_swept(table, own, other, x0, y0, pitch)
    for part in getattr(b, "geoms", [b]):
        px, py = part.exterior.coords[0]
        _mark_inside(table, own, 1.0, -px, -py, x0, y0, pitch)
    for part in getattr(clear, "geoms", [clear]):
        px, py = part.exterior.coords[0]
        _mark_inside(table, other, -1.0, px, py, x0, y0, pitch)
    return table, first
