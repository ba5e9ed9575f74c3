"""One primitive for roof, gusset and chamfer: all that lies within the limit's slope of a curve.

A fan is the union, over the segments of a curve, of hull(K(p) ∪ K(q)), K a cone with its tip on the curve that opens
up or down with half-angle α. Opening up from the edges that hold a ceiling, it is what may stay of the material above
the ceiling; opening down from the free edges of a ledge, it is what must stay empty below the ledge.
"""

import numpy as np
from manifold3d import Manifold, Mesh64, OpType

from hewel_engine.geometry.mesh import Array

INSIDE = 0.05
"""Degrees by which every plane that an edit makes stays inside the limit; half of what a facet may pass it by."""
SIDES = 32
"""Of a cone. Inscribed, so that no side of it leans further than the limit."""
OVERLAP = 0.05
"""mm by which a tool reaches into what it is joined to or cuts free, so that no two faces lie in one plane."""
STRAY = 0.01
"""mm: a curve is followed to this."""


def slope(limit: float) -> float:
    """tan of the angle from the vertical that planes made by an edit have."""
    return float(np.tan(np.radians(limit - INSIDE)))


def fan(curve: Array, height: float, limit: float, up: bool) -> Manifold:
    """The fan of ``curve`` (k, 2, 3): cones ``height`` mm tall that open up or down at ``limit`` degrees."""
    curve = joined(curve)
    if len(curve) == 0 or height <= 0:
        return Manifold()
    along = curve[np.argmax(np.linalg.norm(np.diff(curve[:, :, :2], axis=1)[:, 0], axis=1))]
    lean = np.arctan2(*(along[1] - along[0])[1::-1])
    turn = lean + 2 * np.pi * np.arange(SIDES) / SIDES
    ring = np.c_[np.cos(turn), np.sin(turn)] * height * slope(limit)
    rim = np.c_[ring, np.full(SIDES, height if up else -height)]
    return Manifold.batch_boolean([Manifold.hull_points(_cones(p, q, rim)) for p, q in curve], OpType.Add)


def _cones(p: Array, q: Array, rim: Array) -> Array:
    return np.concatenate([[p], p + rim, [q], q + rim])


def edge_at(ring: Array, height: float) -> Array:
    """The curve (k, 2, 3) of a closed outline ``ring`` (k + 1, 2), its first point again at its end, at a height."""
    points = np.c_[ring, np.full(len(ring), height)]
    return np.stack([points[:-1], points[1:]], axis=1)


def joined(curve: Array) -> Array:
    """The same curve (k, 2, 3) with segments that go straight on, to STRAY, made one."""
    after: dict[tuple, int] = {}
    key = lambda p: tuple(np.round(p, 6))
    for i, (p, _) in enumerate(curve):
        after[key(p)] = i if key(p) not in after else -1
    has_one_before = {after.get(key(q), -1) for _, q in curve}
    heads = [i for i in range(len(curve)) if i not in has_one_before]
    done, out = np.zeros(len(curve), bool), []
    for head in [*heads, *range(len(curve))]:
        chain, at = [], head
        while at >= 0 and not done[at]:
            done[at] = True
            chain.append(at)
            at = after.get(key(curve[at, 1]), -1)
        if chain:
            line = np.concatenate([curve[chain, 0], curve[chain[-1:], 1]])
            line = line[_needed(line)]
            out.append(np.stack([line[:-1], line[1:]], axis=1))
    return np.concatenate(out) if out else np.zeros((0, 2, 3))


def _needed(line: Array) -> np.ndarray:
    """Numbers of the points without which the line (n, 3) strays by more than STRAY (Douglas–Peucker)."""
    keep = np.zeros(len(line), bool)
    keep[[0, -1]] = True
    spans = [(0, len(line) - 1)]
    if len(line) > 3 and np.linalg.norm(line[0] - line[-1]) < 1e-6:
        far = int(np.argmax(np.linalg.norm(line - line[0], axis=1)))
        keep[far] = True
        spans = [(0, far), (far, len(line) - 1)]
    while spans:
        a, b = spans.pop()
        if b - a < 2:
            continue
        way = line[b] - line[a]
        size = max(float(np.linalg.norm(way)), 1e-12)
        off = np.linalg.norm(np.cross(line[a + 1 : b] - line[a], way / size), axis=1)
        if off.max() > STRAY:
            far = a + 1 + int(off.argmax())
            keep[far] = True
            spans += [(a, far), (far, b)]
    return np.flatnonzero(keep)


def column(points: Array, faces: np.ndarray, level: float, lift: float) -> Manifold:
    """All between the facets ``faces`` (m, 3), which face down, raised by ``lift`` and the plane z = ``level``,
    which lies above or below all of them.
    """
    near = points + np.array([0, 0, lift])
    far = np.c_[points[:, :2], np.full(len(points), level)]
    return between(far, near, faces) if level < near[np.unique(faces), 2].min() else between(near, far, faces)


def curtain(points: Array, faces: np.ndarray, drop: float, lift: float) -> Manifold:
    """All between the facets ``faces`` (m, 3), which face down, raised by ``lift`` and the same lowered by ``drop``."""
    return between(points - np.array([0, 0, drop]), points + np.array([0, 0, lift]), faces)


def between(low: Array, high: Array, faces: np.ndarray) -> Manifold:
    """The solid between two copies of the facets ``faces`` (m, 3): ``low`` its vertices where they face out of it,
    ``high`` on the other side.
    """
    numbers, corner = np.unique(faces, return_inverse=True)
    corner, n = corner.reshape(-1, 3), len(numbers)
    sides = corner[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2)
    there = {(int(a), int(b)) for a, b in sides}
    rim = np.array([(a, b) for a, b in there if (b, a) not in there]).reshape(-1, 2)
    a, b = rim[:, 0], rim[:, 1]
    facets = np.concatenate([corner, corner[:, ::-1] + n, np.c_[b, a, a + n], np.c_[b, a + n, b + n]])
    return Manifold(
        Mesh64(
            vert_properties=np.ascontiguousarray(np.concatenate([low[numbers], high[numbers]])),
            tri_verts=np.ascontiguousarray(facets, np.uint64),
        )
    )


def skirt(curve: Array, low: float, high: Array | float, out: Array) -> Manifold:
    """Strips OVERLAP wide beside the segments of ``curve`` (k, 2, 3), towards ``out`` (k, 2), from ``low`` up to
    ``high`` (k, 2 heights of the ends, or one height).
    """
    strips = []
    tops = np.broadcast_to(high, (len(curve), 2))
    for (p, q), way, (end_p, end_q) in zip(curve, out, tops, strict=True):
        foot = np.array([p[:2], q[:2], q[:2] + OVERLAP * way, p[:2] + OVERLAP * way])
        top = np.array([end_p, end_q, end_q, end_p])
        strips.append(Manifold.hull_points(np.concatenate([np.c_[foot, np.full(4, low)], np.c_[foot, top]])))
    return Manifold.batch_boolean(strips, OpType.Add) if strips else Manifold()
