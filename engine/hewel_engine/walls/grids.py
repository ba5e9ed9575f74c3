"""Points sorted into cubes of several sizes, so that what lies in a ball is found by looking into few of them."""

from dataclasses import dataclass

import numpy as np
from numba import njit

from hewel_engine.geometry.mesh import Array

FINEST = 128
"""Cubes along the longest side of the box, of the finest grid; each further grid has cubes twice as large."""
LEVELS = 6
ACROSS = 6.0
"""A ball is looked through in the grid whose cubes are at least a sixth of its radius."""


REACHED = 0.995
"""A ball is free of what comes no nearer to its middle than this share of its radius."""


@dataclass(frozen=True, eq=False)
class Grids:
    """``low`` (3,) corner; for each level the size of its cubes (mm), their counts along x, y, z, where its starts
    begin among ``starts``, and the facets in the order of their cubes: numbers ``order`` and ``told`` (level, n, 8),
    middle, normal, plane n·x and how far its corners lie from its middle.
    """

    low: Array
    sizes: Array
    counts: np.ndarray
    firsts: np.ndarray
    starts: np.ndarray
    order: np.ndarray
    told: Array

    @classmethod
    def of(cls, points: Array, normals: Array, reach: Array) -> "Grids":
        low, high = points.min(axis=0), points.max(axis=0)
        finest = max(float((high - low).max()) / FINEST, 1e-9)
        rows = np.c_[points, normals, (points * normals).sum(axis=1), reach]
        sizes, counts, firsts, starts, order = [], [], [], [], []
        first = 0
        for level in range(LEVELS):
            size = finest * 2**level
            n = np.floor((high - low) / size).astype(np.int64) + 1
            cell = np.minimum(((points - low) / size).astype(np.int64), n - 1)
            number = (cell[:, 0] * n[1] + cell[:, 1]) * n[2] + cell[:, 2]
            begins = np.r_[0, np.cumsum(np.bincount(number, minlength=int(n.prod())))]
            sizes.append(size)
            counts.append(n)
            firsts.append(first)
            starts.append(begins)
            order.append(np.argsort(number, kind="stable"))
            first += len(begins)
        told = np.stack([rows[o] for o in order])
        return cls(
            low, np.array(sizes), np.array(counts), np.array(firsts), np.concatenate(starts), np.array(order), told
        )

    def shrunk(self, points: Array, normals: Array, radius: Array, opposite: np.ndarray, opposed: float) -> None:
        """``smallest_balls`` among these facets; ``radius`` and ``opposite`` change in place."""
        grids = (self.low, self.sizes, self.counts, self.firsts, self.starts, self.order, self.told)
        smallest_balls(points, normals, radius, opposite, opposed, REACHED, *grids)


@njit(cache=True, nogil=True, fastmath=True)
def smallest_balls(
    points, normals, radius, opposite, opposed, reached, low, sizes, counts, firsts, starts, order, told
):
    """Shrinks, in place, each ball that touches a surface at ``points`` (n, 3), inward of ``normals`` and ``radius``
    large, until no facet that faces it (n·n ≤ ``opposed``) reaches into it; ``opposite`` becomes the facet it touches.

    Balls that touch one spot lie in one another, so one look through the first ball sees all that reaches into the
    last. A facet bounds by its plane where the ball touches that within its corners, r = D/(1 + cos θ); else by its
    middle, r = d²/(2 n·d), d from there to the spot.
    """
    for i in range(len(points)):
        r = radius[i]
        if not r < 1e12 or r <= 0:
            continue
        level = 0
        while level < len(sizes) - 1 and r > ACROSS * sizes[level]:
            level += 1
        size, n = sizes[level], counts[level]
        px, py, pz = points[i, 0], points[i, 1], points[i, 2]
        ux, uy, uz = normals[i, 0], normals[i, 1], normals[i, 2]
        cx, cy, cz, near = px - r * ux, py - r * uy, pz - r * uz, (reached * r) ** 2
        x0, x1 = max(0, int((cx - r - low[0]) / size)), min(n[0] - 1, int((cx + r - low[0]) / size))
        y0, y1 = max(0, int((cy - r - low[1]) / size)), min(n[1] - 1, int((cy + r - low[1]) / size))
        for x in range(x0, x1 + 1):
            dx = max(low[0] + x * size - cx, 0.0, cx - low[0] - (x + 1) * size)
            for y in range(y0, y1 + 1):
                dy = max(low[1] + y * size - cy, 0.0, cy - low[1] - (y + 1) * size)
                room = near - dx * dx - dy * dy
                if room <= 0:
                    continue
                half = np.sqrt(room)
                z0 = min(n[2] - 1, max(0, int((cz - half - low[2]) / size)))
                z1 = max(0, min(n[2] - 1, int((cz + half - low[2]) / size)))
                row = firsts[level] + (x * n[1] + y) * n[2]
                for at in range(starts[row + z0], starts[row + z1 + 1]):
                    q = told[level, at]
                    if (q[0] - cx) ** 2 + (q[1] - cy) ** 2 + (q[2] - cz) ** 2 >= near:
                        continue
                    facing = ux * q[3] + uy * q[4] + uz * q[5]
                    if facing > opposed:
                        continue
                    less = (q[6] - px * q[3] - py * q[4] - pz * q[5]) / (1.0 - facing)
                    tx = px - less * (ux - q[3]) - q[0]
                    ty = py - less * (uy - q[4]) - q[1]
                    tz = pz - less * (uz - q[5]) - q[2]
                    if tx * tx + ty * ty + tz * tz > q[7] * q[7]:
                        ex, ey, ez = px - q[0], py - q[1], pz - q[2]
                        less = (ex * ex + ey * ey + ez * ez) / (2.0 * max(ux * ex + uy * ey + uz * ez, 1e-12))
                    if 0.0 < less < reached * r:
                        r, opposite[i] = less, order[level, at]
                        cx, cy, cz, near = px - r * ux, py - r * uy, pz - r * uz, (reached * r) ** 2
        radius[i] = r
