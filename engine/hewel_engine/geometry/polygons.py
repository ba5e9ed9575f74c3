"""Plane polygons of a file's faces, cut into triangles."""

import numpy as np

from hewel_engine.geometry.mesh import Array


def newell_normal(points: Array) -> Array:
    """(3,) twice the vector area of a closed polygon (n, 3); also for one that is not quite plane."""
    return np.cross(points, np.roll(points, -1, axis=0)).sum(axis=0)


def ears(points: Array) -> list[tuple[int, int, int]]:
    """Triangles (corner numbers) of a simple polygon (n, 3), also a concave one, by cutting ears.

    Corners that cannot be an ear because of rounding are cut anyway in order, so the result always has n − 2.
    """
    left = list(range(len(points)))
    up = newell_normal(points)
    out = []
    while len(left) > 3:
        for k in range(len(left)):
            a, b, c = left[k - 1], left[k], left[(k + 1) % len(left)]
            pa, pb, pc = points[a], points[b], points[c]
            if np.cross(pb - pa, pc - pb) @ up <= 0:
                continue
            others = [i for i in left if i not in (a, b, c)]
            if not any(_within(points[i], pa, pb, pc, up) for i in others):
                break
        else:
            k = 1
            a, b, c = left[0], left[1], left[2]
        out.append((a, b, c))
        del left[k]
    return [*out, (left[0], left[1], left[2])]


def _within(p: Array, a: Array, b: Array, c: Array, up: Array) -> bool:
    return all(np.cross(v - u, p - u) @ up >= 0 for u, v in ((a, b), (b, c), (c, a)))


def triangulated(vertices: Array, loops: list) -> np.ndarray:
    """(m, 3) vertex numbers of triangles that cover the given loops of vertex numbers."""
    out: list[tuple[int, int, int]] = []
    for loop in loops:
        if len(loop) == 3:
            out.append(tuple(loop))
        elif len(loop) > 3:
            out += [(loop[a], loop[b], loop[c]) for a, b, c in ears(vertices[list(loop)])]
    return np.array(out, np.int64).reshape(-1, 3)
