"""A part's facets in a tree by place and by which way they face, and the balls that find room between them."""

from dataclasses import dataclass

import numpy as np
from numba import njit

from hewel_engine.geometry.mesh import Array, Mesh

LEAF = 4
"""Facets of a leaf."""
FACING = 3
"""Ranges of each coordinate of a normal by which facets are parted first: a ball looks only at those that face it."""
PLACES = 1 << 10
"""Ranges of each coordinate of a place by which facets that face alike follow each other."""
OPPOSED = -float(np.cos(np.radians(30.0)))
"""n·n of two faces from which on they bound one wall."""
REACHED = 0.995
"""A ball is free of what comes no nearer to its middle than this share of its radius."""
NOWHERE = 1e30
"""mm: bounds of a leaf that holds nothing."""


@dataclass(frozen=True, eq=False)
class Tree:
    """``boxes`` (2p, 12): least and most of the corners and of the normals in each node, its children at 2i and 2i + 1,
    the p leaves last; ``result`` (n, 13), in the order of the leaves: corners, normal and plane n·x of each facet;
    ``order`` (n,) the facets they are.
    """

    boxes: Array
    result: Array
    order: np.ndarray

    @classmethod
    def of(cls, mesh: Mesh) -> "Tree":
        points, normals, corners = np.array(mesh.centroids), np.array(mesh.normals), np.array(mesh.triangles)
        low = points.min(axis=0)
        span = max(float((points.max(axis=0) - low).max()), 1e-9)
        place = np.minimum((points - low) * (PLACES / span), PLACES - 1).astype(np.int64)
        facing = np.minimum((normals + 1) * (FACING / 2), FACING - 1).astype(np.int64)
        order = np.lexsort((_woven(place), _woven(facing)))
        boxes = _boxes(np.c_[corners.min(axis=1), normals][order], np.c_[corners.max(axis=1), normals][order])
        result = np.c_[corners.reshape(-1, 9), normals, (points * normals).sum(axis=1)][order]
        return cls(boxes, result, order)

    def shrink(self, radius: Array, opposite: np.ndarray) -> None:
        """``smallest_balls`` of these facets among themselves; ``radius`` and ``opposite`` (n,) change in place."""
        r, met = radius[self.order], opposite[self.order]
        smallest_balls(r, met, OPPOSED, self.boxes, self.result, self.order)
        radius[self.order], opposite[self.order] = r, met


def _woven(cells: np.ndarray) -> np.ndarray:
    """(n,) one number of three (n, 3), their bits in turn, so that what is near in all three is near in it."""
    out = np.zeros(len(cells), np.int64)
    for bit in range(10):
        for axis in range(3):
            out |= ((cells[:, axis] >> bit) & 1) << (3 * bit + axis)
    return out


def _boxes(lows: Array, highs: Array) -> Array:
    """Least and most (n, 6) of every row in every node of the tree over blocks of them."""
    leaves = 1
    while leaves * LEAF < len(lows):
        leaves *= 2
    starts = np.arange(0, len(lows), LEAF)
    boxes = np.empty((2 * leaves, 12))
    boxes[:, :6], boxes[:, 6:] = NOWHERE, -NOWHERE
    boxes[leaves : leaves + len(starts), :6] = np.minimum.reduceat(lows, starts)
    boxes[leaves : leaves + len(starts), 6:] = np.maximum.reduceat(highs, starts)
    while leaves > 1:
        below = boxes[leaves : 2 * leaves].reshape(-1, 2, 12)
        leaves //= 2
        boxes[leaves : 2 * leaves, :6] = below[:, :, :6].min(axis=1)
        boxes[leaves : 2 * leaves, 6:] = below[:, :, 6:].max(axis=1)
    return boxes


@njit(cache=True, nogil=True, fastmath=True)
def _beyond(box, cx, cy, cz, ux, uy, uz, opposed):
    """Square of how far a node lies from the middle of a ball; beyond all balls where nothing in it faces."""
    facing = min(ux * box[3], ux * box[9]) + min(uy * box[4], uy * box[10]) + min(uz * box[5], uz * box[11])
    if facing > opposed:
        return NOWHERE
    dx = max(box[0] - cx, 0.0, cx - box[6])
    dy = max(box[1] - cy, 0.0, cy - box[7])
    dz = max(box[2] - cz, 0.0, cz - box[8])
    return dx * dx + dy * dy + dz * dz


@njit(cache=True, nogil=True, fastmath=True)
def _largest(q, px, py, pz, ux, uy, uz, most):
    """Radius of the ball that touches a surface at p, inward of its normal u, and the facet ``q``: its plane where that
    lies within its corners, r = D/(1 + cos θ); else its middle, r = d²/(2 u·d), d from there to p. Anything from
    ``most`` on where it is no less than that.
    """
    nx, ny, nz = q[9], q[10], q[11]
    r = (q[12] - px * nx - py * ny - pz * nz) / (1.0 - ux * nx - uy * ny - uz * nz)
    if 0.0 < r < most:
        tx, ty, tz = px - r * (ux - nx), py - r * (uy - ny), pz - r * (uz - nz)
        within = True
        for k in range(3):
            a, b = 3 * k, 3 * ((k + 1) % 3)
            ex, ey, ez = q[b] - q[a], q[b + 1] - q[a + 1], q[b + 2] - q[a + 2]
            fx, fy, fz = tx - q[a], ty - q[a + 1], tz - q[a + 2]
            side = (ey * fz - ez * fy) * nx + (ez * fx - ex * fz) * ny + (ex * fy - ey * fx) * nz
            within = within and side >= -1e-9 * (ex * ex + ey * ey + ez * ez)
        if within:
            return r
    dx, dy, dz = px - (q[0] + q[3] + q[6]) / 3, py - (q[1] + q[4] + q[7]) / 3, pz - (q[2] + q[5] + q[8]) / 3
    inward = ux * dx + uy * dy + uz * dz
    return (dx * dx + dy * dy + dz * dz) / (2.0 * inward) if inward > 0.0 else NOWHERE


@njit(cache=True, nogil=True, fastmath=True)
def smallest_balls(
    radius: Array, opposite: np.ndarray, opposed: np.ndarray, boxes: Array, result: np.ndarray, order: np.ndarray
):
    """Shrinks, in place, each ball that touches facet ``result`` (n,) at its middle, ``radius`` (n,) large, until no
    facet that faces it (n·n ≤ ``opposed``) reaches into it; ``opposite`` becomes the facet it touches. Balls that touch
    one spot lie in one another, so what lies outside the first is outside all after it.
    """
    leaves = len(boxes) // 2
    stack = np.empty(64, np.int64)
    for i in range(len(result)):
        r = radius[i]
        if not r < 1e12 or r <= 0:
            continue
        own = result[i]
        px, py, pz = (own[0] + own[3] + own[6]) / 3, (own[1] + own[4] + own[7]) / 3, (own[2] + own[5] + own[8]) / 3
        ux, uy, uz = own[9], own[10], own[11]
        cx, cy, cz, near = px - r * ux, py - r * uy, pz - r * uz, (REACHED * r) ** 2
        stack[0], depth = 1, 1
        while depth > 0:
            depth -= 1
            node = stack[depth]
            if node < leaves:
                left = _beyond(boxes[2 * node], cx, cy, cz, ux, uy, uz, opposed)
                right = _beyond(boxes[2 * node + 1], cx, cy, cz, ux, uy, uz, opposed)
                first = 2 * node if left <= right else 2 * node + 1  # the nearer may shrink the ball past the other
                if max(left, right) < near:
                    stack[depth] = 4 * node + 1 - first
                    depth += 1
                if min(left, right) < near:
                    stack[depth] = first
                    depth += 1
                continue
            for at in range((node - leaves) * LEAF, min((node - leaves + 1) * LEAF, len(result))):
                q = result[at]
                if ux * q[9] + uy * q[10] + uz * q[11] > opposed:
                    continue
                less = _largest(q, px, py, pz, ux, uy, uz, r)
                if less < r:
                    r, opposite[i] = less, order[at]
                    cx, cy, cz, near = px - r * ux, py - r * uy, pz - r * uz, (REACHED * r) ** 2
        radius[i] = r
