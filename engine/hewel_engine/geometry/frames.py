"""Turning a part so that a build direction points up."""

from collections.abc import Sequence

import numpy as np
from scipy.spatial import ConvexHull

from hewel_engine.errors import InputError
from hewel_engine.geometry.mesh import Array


def unit(vector: Array | Sequence[float]) -> Array:
    """``vector`` (3,) scaled to length 1; raises InputError when it has none.

    >>> unit([0, 3, 4]).tolist()
    [0.0, 0.6, 0.8]
    """
    v = np.asarray(vector, float)
    most = float(np.abs(v).max()) if v.shape == (3,) and np.isfinite(v).all() else 0.0
    if most < 1e-12:
        raise InputError(
            "bad_options", "A direction needs three numbers that are not all zero.", "Write it like 0,0,1."
        )
    v = v / most  # so that the square of no number is too large
    return v / np.linalg.norm(v)


SAME_DIRECTION = 0.1
"""Degrees: directions no further apart are one. Nothing calculated for the one would be shown otherwise for the
other.
"""


def same_direction(a: Array | Sequence[float], b: Array | Sequence[float]) -> bool:
    """Whether two unit vectors (3,) are one build direction.

    >>> same_direction([0, 0, 1], unit([0, 0.001, 1])), same_direction([0, 0, 1], unit([0, 0.01, 1]))
    (True, False)
    """
    return bool(same_directions(a, b))


def same_directions(up: Array | Sequence[float], ups: Array | Sequence) -> Array:
    """(...) bool: which of unit vectors ``ups`` (..., 3) are one build direction with ``up`` (3,)."""
    return np.linalg.norm(np.subtract(up, ups), axis=-1) <= np.radians(SAME_DIRECTION)


def upright(up: Array | Sequence[float]) -> Array:
    """(3, 3) rotation whose rows are the plate's x, y and z in the part's frame; z is ``up``.

    x is chosen next to the part's own x (or y, when ``up`` is nearly x), so that small changes of ``up`` turn
    the part little.
    """
    z = unit(up)
    guide = np.array([1.0, 0, 0]) if abs(z[0]) < 0.9 else np.array([0, 1.0, 0])
    x = unit(guide - z * (guide @ z))
    return np.array([x, np.cross(z, x), z])


def sphere_directions(splits: int = 4) -> Array:
    """(n, 3) unit vectors: the vertices of an icosahedron whose facets are split in four ``splits`` times.

    n = 10·4^splits + 2; 2,562 for the default, neighbours about 4.4° apart. Holds −b for every b.
    """
    g = (1 + 5**0.5) / 2
    points = [(s * 1.0, t * g, 0.0) for s in (-1, 1) for t in (-1, 1)]
    points = np.array(points + [(0, a, b) for a, b, _ in points] + [(b, 0, a) for a, b, _ in points])
    points = points / np.linalg.norm(points[0])
    faces = ConvexHull(points).simplices
    for _ in range(splits):
        sides = np.sort(np.concatenate([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]]), axis=1)
        edges, where = np.unique(sides, axis=0, return_inverse=True)
        middle = points[edges].mean(axis=1)
        middle /= np.linalg.norm(middle, axis=1, keepdims=True)
        ab, bc, ca = (where.reshape(3, -1) + len(points)).reshape(3, -1)
        a, b, c = faces.T
        faces = np.concatenate([np.c_[a, ab, ca], np.c_[b, bc, ab], np.c_[c, ca, bc], np.c_[ab, bc, ca]])
        points = np.concatenate([points, middle])
    return points + 0.0


AXES = {"+x": (1, 0, 0), "−x": (-1, 0, 0), "+y": (0, 1, 0), "−y": (0, -1, 0), "+z": (0, 0, 1), "−z": (0, 0, -1)}


def direction_words(up: Array | Sequence[float]) -> str:
    """How an engineer would say a direction.

    >>> direction_words([0, 0, 1]), direction_words(unit([-0.5, 0, 0.8]))
    ('+z up', '+z tilted 32° to −x')
    """
    leaning = sorted(AXES, key=lambda name: -float(np.dot(AXES[name], up)))
    tilt = float(np.degrees(np.arccos(np.clip(np.dot(AXES[leaning[0]], up), -1, 1))))
    return f"{leaning[0]} up" if tilt < 0.5 else f"{leaning[0]} tilted {tilt:.0f}° to {leaning[1]}"
