"""Whether what was laid out really stands clear: code of its own, on whole numbers, that shares nothing with the
search.

Corners lie on a grid of a ten-thousandth of a millimetre. Which side a corner lies on, and how far edges are apart, is
then decided without rounding.
"""

from dataclasses import dataclass

import numpy as np
import shapely

from hewel_engine.plates.nesting import Item, Plate

GRID = 10_000
"""Whole numbers to a mm."""
ROUNDED = 3
"""Grid steps by which rounding two outlines to it may bring them nearer."""


@dataclass(frozen=True)
class Breach:
    """What stands wrong: a copy against another (numbers from 0) or, with ``other`` None, against the plate.
    ``short_mm``: how much of the distance is missing.
    """

    item: int
    other: int | None
    short_mm: float


def _loops(shape: shapely.Geometry) -> list[list[tuple[int, int]]]:
    whole = lambda ring: [(round(x * GRID), round(y * GRID)) for x, y in ring.coords[:-1]]
    parts = [p for p in getattr(shape, "geoms", [shape]) if not p.is_empty]
    return [whole(ring) for p in parts for ring in (p.exterior, *p.interiors)]


def _side(a, b, c) -> int:
    """Twice the area of a, b, c: positive where c lies left of a → b."""
    return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])


def _cross(a, b, c, d) -> bool:
    """Whether two edges have a point in common."""
    one, two, three, four = _side(a, b, c), _side(a, b, d), _side(c, d, a), _side(c, d, b)
    if one * two < 0 and three * four < 0:
        return True
    on = lambda p, q, r: min(p[0], q[0]) <= r[0] <= max(p[0], q[0]) and min(p[1], q[1]) <= r[1] <= max(p[1], q[1])
    return (
        (one == 0 and on(a, b, c))
        or (two == 0 and on(a, b, d))
        or (three == 0 and on(c, d, a))
        or (four == 0 and on(c, d, b))
    )


def _nearer(point, a, b, gap: int) -> bool:
    """Whether a point comes nearer than ``gap`` to an edge."""
    along, way = (b[0] - a[0], b[1] - a[1]), (point[0] - a[0], point[1] - a[1])
    size, share = along[0] ** 2 + along[1] ** 2, way[0] * along[0] + way[1] * along[1]
    if size == 0 or share <= 0:
        return way[0] ** 2 + way[1] ** 2 < gap**2
    if share >= size:
        return (point[0] - b[0]) ** 2 + (point[1] - b[1]) ** 2 < gap**2
    return (along[0] * way[1] - along[1] * way[0]) ** 2 < gap**2 * size


def _encloses(loops, point) -> bool:
    """Even and odd: whether a point lies inside outlines and their holes."""
    inside = False
    for loop in loops:
        for a, b in zip(loop, loop[1:] + loop[:1], strict=True):
            if (a[1] <= point[1]) != (b[1] <= point[1]) and (_side(a, b, point) > 0) == (b[1] > a[1]):
                inside = not inside
    return inside


def _edges(loops) -> list[tuple]:
    return [edge for loop in loops for edge in zip(loop, loop[1:] + loop[:1], strict=True)]


def _clash(first, second, gap: int) -> bool:
    """Whether two outlines overlap, or come nearer than ``gap``."""
    if _encloses(first, second[0][0]) or _encloses(second, first[0][0]):
        return True
    own, other = _edges(first), _edges(second)
    boxes = np.array([[*np.min(e, axis=0), *np.max(e, axis=0)] for e in other])
    for a, b in own:
        low, high = np.minimum(a, b) - gap, np.maximum(a, b) + gap
        near = (boxes[:, :2] <= high).all(axis=1) & (boxes[:, 2:] >= low).all(axis=1)
        for k in np.flatnonzero(near):
            c, d = other[k]
            if _cross(a, b, c, d) or _nearer(a, c, d, gap) or _nearer(b, c, d, gap):
                return True
            if _nearer(c, a, b, gap) or _nearer(d, a, b, gap):
                return True
    return False


def breaches(outline: shapely.Geometry, items: list[Item], plate: Plate, gap: float) -> list[Breach]:
    """What stands nearer than ``gap`` to another copy, on what is kept out, or beyond the plate's margin; empty where
    the plate is proved.
    """
    return breaches_of([item.on(outline) for item in items], plate, gap)


def breaches_of(placed: list[shapely.Geometry], plate: Plate, gap: float) -> list[Breach]:
    """The same of outlines of any kinds, each where it stands."""
    whole, steps = [_loops(p) for p in placed], max(round(gap * GRID) - ROUNDED, 1)
    out, tree = [], shapely.STRtree(placed)
    m, (sx, sy) = plate.margin, plate.size
    for i, shape in enumerate(placed):
        x0, y0, x1, y1 = shape.bounds
        beyond = max(m - x0, m - y0, x1 - (sx - m), y1 - (sy - m))
        if beyond * GRID > ROUNDED:
            out.append(Breach(i, None, float(beyond)))
        for barred in plate.keep_out:
            if _clash(whole[i], _loops(barred), 1):
                out.append(Breach(i, None, float(shape.intersection(barred).area ** 0.5)))
        for j in sorted(tree.query(shapely.box(x0 - gap, y0 - gap, x1 + gap, y1 + gap))):
            if j > i and _clash(whole[i], whole[j], steps):
                out.append(Breach(i, int(j), float(gap - shape.distance(placed[j]))))
    return out
