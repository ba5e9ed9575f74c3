"""Places spread evenly over a surface: one in every part of a grid's voxels that it passes through."""

import numpy as np
from numba import njit

from hewel_engine.geometry.distinct import hashed
from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.voxels import Grid, clipped

BORDER = 1e-6
"""Parts of a voxel by which a surface on the grid's border may lie outside it."""
EVEN = 1e-9
"""Parts of a voxel by which a corner may reach across a plane of the grid and not count as beyond it."""
LEAST = 0.1
"""Of a part's side squared: less surface than that is a corner of it, which the parts beside it speak for."""
CORNERS_AT_MOST = 16
DEEPEST = 128


def spots(grid: Grid, triangles: Array, normals: Array, parts: int) -> tuple[Array, np.ndarray]:
    """Places (k, 3) mm on ``triangles`` (m, 3, 3) mm inside ``grid``, and the triangle (k,) of each: one for every part
    of a voxel (``parts`` along its side) and every side that the surface looks to there, the one nearest to the part's
    middle. Triangles may be as long and thin as they like: each is cut along the grid.
    """
    scale = grid.size / parts
    shape = parts * np.array(grid.shape[::-1])
    places, owners = _gathered((triangles - grid.origin) / scale, np.ascontiguousarray(normals), shape)
    return grid.origin + scale * places, owners


@njit(cache=True, nogil=True)
def _gathered(triangles, normals, shape):
    """The same in parts of a voxel."""
    stack, counts = np.empty((DEEPEST, CORNERS_AT_MOST, 3)), np.empty(DEEPEST, np.int64)
    spare, spot = np.empty((CORNERS_AT_MOST, 3)), np.empty(3, np.int64)
    room, found = 1024, 0
    table = np.full(2 * room, -1)
    keys, owners = np.empty((room, 3), np.int64), np.empty(room, np.int64)
    places, away, areas = np.empty((room, 3)), np.empty(room), np.empty(room)
    for t in range(len(triangles)):
        side = 0
        for d in range(1, 3):
            if abs(normals[t, d]) > abs(normals[t, side]):
                side = d
        side = 2 * side + (normals[t, side] > 0)
        stack[0, :3], counts[0], top = triangles[t], 3, 1
        while top > 0:
            p, n = stack[top - 1], counts[top - 1]
            axis, plane = _cut_by(p, n, shape)
            if axis >= 0 and top < DEEPEST:
                counts[top] = clipped(p, n, axis, plane, True, stack[top])
                counts[top - 1] = clipped(p, n, axis, plane, False, spare)
                p[: counts[top - 1]] = spare[: counts[top - 1]]
                top += 1
                continue
            top -= 1
            if axis == OUTSIDE or n < 3:
                continue
            area, x, y, z = _middle(p, n)
            if area <= 0:
                continue
            square = 0.0
            for d, at in enumerate((x, y, z)):
                spot[d] = min(max(int(np.floor(at)), 0), shape[d] - 1)
                square += (at - spot[d] - 0.5) ** 2
            spot[2] = 6 * spot[2] + side
            slot = _slot(table, keys, spot)
            k = table[slot]
            if k < 0:
                if found == room:
                    room *= 2
                    keys, owners = _more(keys), np.append(owners, np.empty_like(owners))
                    places, away, areas = _more(places), np.append(away, away), np.append(areas, areas)
                    table = np.full(2 * room, -1)
                    for i in range(found):
                        table[_slot(table, keys, keys[i])] = i
                    slot = _slot(table, keys, spot)
                k, found = found, found + 1
                table[slot], keys[k], away[k], areas[k] = k, spot, np.inf, 0.0
            areas[k] += area
            if square < away[k]:
                away[k], owners[k] = square, t
                places[k, 0], places[k, 1], places[k, 2] = x, y, z
    kept = np.flatnonzero(areas[:found] >= LEAST)
    return places[kept], owners[kept]


OUTSIDE, WHOLE = -2, -1


@njit(cache=True, nogil=True)
def _cut_by(p, n, shape):
    """The axis along which a polygon of n corners spans most parts and the plane between them that halves it; WHOLE
    where it lies in one part, OUTSIDE where it lies in none.
    """
    axis, plane, most = WHOLE, 0, 1
    for d in range(3):
        low, high = p[0, d], p[0, d]
        for i in range(1, n):
            low, high = min(low, p[i, d]), max(high, p[i, d])
        below = high <= 0 and low < -BORDER
        beyond = low >= shape[d] and high > shape[d] + BORDER
        if below or beyond:
            return OUTSIDE, 0
        first, last = int(np.floor(low + EVEN)), int(np.ceil(high - EVEN)) - 1
        if last - first + 1 > most:
            axis, plane, most = d, (first + last + 1) // 2, last - first + 1
    return axis, plane


@njit(cache=True, nogil=True)
def _middle(p, n):
    """Area and centroid of a convex polygon."""
    area, x, y, z = 0.0, 0.0, 0.0, 0.0
    for i in range(1, n - 1):
        ux, uy, uz = p[i, 0] - p[0, 0], p[i, 1] - p[0, 1], p[i, 2] - p[0, 2]
        vx, vy, vz = p[i + 1, 0] - p[0, 0], p[i + 1, 1] - p[0, 1], p[i + 1, 2] - p[0, 2]
        a = 0.5 * np.sqrt((uy * vz - uz * vy) ** 2 + (uz * vx - ux * vz) ** 2 + (ux * vy - uy * vx) ** 2)
        area += a
        x, y, z = x + a * (ux + vx) / 3, y + a * (uy + vy) / 3, z + a * (uz + vz) / 3
    if area <= 0:
        return 0.0, 0.0, 0.0, 0.0
    return area, p[0, 0] + x / area, p[0, 1] + y / area, p[0, 2] + z / area


@njit(cache=True, nogil=True)
def _slot(table, keys, spot):
    """Where in the ``table`` (a power of two long) a spot stands, or may be put."""
    mask = np.uint64(len(table) - 1)
    at = hashed(spot) & mask
    while True:
        k = table[at]
        if k < 0 or (keys[k, 0] == spot[0] and keys[k, 1] == spot[1] and keys[k, 2] == spot[2]):
            return at
        at = (at + np.uint64(1)) & mask


@njit(cache=True, nogil=True)
def _more(rows):
    """``rows`` with as many again."""
    out = np.empty((2 * len(rows), rows.shape[1]), rows.dtype)
    out[: len(rows)] = rows
    return out
