"""Plane polygons of a file's faces, cut into triangles by a library made for it."""

import numpy as np
from manifold3d import triangulate

from hewel_engine.geometry.frames import upright
from hewel_engine.geometry.mesh import Array


def newell_normal(points: Array) -> Array:
    """(3,) twice the vector area of a closed polygon (n, 3); also for one that is not quite plane."""
    return np.cross(points, np.roll(points, -1, axis=0)).sum(axis=0)


def cut(points: Array) -> np.ndarray:
    """(n − 2, 3) corner numbers of triangles that cover a polygon (n, 3), also a concave one, seen normal to its area.

    A polygon without area, or one that crosses itself so that no cut covers it with n − 2 triangles, is cut as a fan
    from its first corner: every corner stays in use, and a closed surface stays closed.
    """
    count = len(points)
    fan = np.c_[np.zeros(count - 2, int), np.arange(1, count - 1), np.arange(2, count)]
    normal = newell_normal(points)
    size = float(np.linalg.norm(normal))
    if count == 3 or size <= 1e-18:
        return fan
    flat = (points - points[0]) @ upright(normal / size)[:2].T
    made = np.asarray(triangulate([flat], 0.0), int).reshape(-1, 3)
    return made if len(made) == count - 2 else fan


def triangulated(vertices: Array, loops: list) -> np.ndarray:
    """(m, 3) vertex numbers of triangles that cover the given loops of vertex numbers."""
    sizes = np.fromiter(map(len, loops), int, len(loops))
    alike = lambda size: np.array([loops[i] for i in np.flatnonzero(sizes == size)], np.int64).reshape(-1, size)
    four = alike(4)
    convex = _convex(vertices[four])  # most quadrangles are, and any fan of such a one will do
    out = [alike(3), four[convex][:, [0, 1, 2]], four[convex][:, [0, 2, 3]]]
    rest = [*four[~convex], *(np.asarray(loop, np.int64) for loop in loops if len(loop) > 4)]
    return np.concatenate(out + [loop[cut(vertices[loop])] for loop in rest])


def _convex(corners: Array) -> np.ndarray:
    """(k,) whether quadrangles (k, 4, 3) turn the same way at every corner."""
    along = np.roll(corners, -1, axis=1) - corners
    turn = np.cross(np.roll(along, 1, axis=1), along)
    return ((turn * turn.sum(axis=1, keepdims=True)).sum(axis=2) > 0).all(axis=1)
