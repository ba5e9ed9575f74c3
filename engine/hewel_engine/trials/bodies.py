"""What coupons are made of: prisms chamfered at the plate, true holes, marks. Lengths mm, z up from the plate."""

from math import acos, ceil, cos, pi

import numpy as np
import shapely
import shapely.affinity
from manifold3d import CrossSection, Manifold, Mesh64, triangulate

from hewel_engine.edits.lettering import lettered, width_of
from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.plans import loops_of

FOOT = 0.6
"""mm of the 45° chamfer at every edge on the plate: the first layer's bulge must not be measured."""
CHORD = 0.005
"""mm by which a facet of a round hole may stand out of its circle."""
LETTERS, SUNK = 5.0, 0.6
"""mm high and deep of a mark."""
TAG = 2.4
"""mm thick of a tag that carries a mark."""
NOTCH = 2.0
"""mm of the notch that says which end is X."""


def facets_for(diameter: float) -> int:
    """Facets of a hole drawn outside its circle: n ≥ π/acos(1/(1 + 0.005/D)) (coupons)."""
    return ceil(pi / acos(1 / (1 + CHORD / diameter)))


def pin(diameter: float, low: float, high: float, at: tuple[float, float] = (0, 0)) -> Manifold:
    """An upright hole as a body to be taken away, no point of it inside its circle."""
    n = facets_for(diameter)
    return Manifold.cylinder(high - low, diameter / 2 / cos(pi / n), circular_segments=n).translate((*at, low))


def peg(diameter: float, low: float, high: float, at: tuple[float, float] = (0, 0)) -> Manifold:
    """A round body, its corners on its circle."""
    n = facets_for(diameter)
    return Manifold.cylinder(high - low, diameter / 2, circular_segments=n).translate((*at, low))


def block(x0: float, y0: float, x1: float, y1: float) -> shapely.Polygon:
    return shapely.box(x0, y0, x1, y1)


def standing(plan: shapely.Geometry, height: float, foot: float = FOOT) -> Manifold:
    """A prism over a plan, chamfered at its lower edges."""
    body = Manifold()
    for part in getattr(plan, "geoms", [plan]):
        body += _lofted(loops_of(part), height, foot) if foot > 0 else _straight(part, 0.0, height)
    return body


def _straight(plan: shapely.Geometry, low: float, high: float) -> Manifold:
    return Manifold.extrude(section(plan), high - low).translate((0, 0, low))


def section(plan: shapely.Geometry) -> CrossSection:
    return CrossSection(loops_of(plan))


def over(plan: shapely.Geometry, low: float, high: float) -> Manifold:
    """A prism that stands on something else."""
    return _straight(plan, low, high)


def _inset(loop: Array, by: float) -> Array:
    """A loop with the material on its left, every edge moved ``by`` mm into it; corner by corner."""
    along = np.roll(loop, -1, axis=0) - loop
    along /= np.linalg.norm(along, axis=1)[:, None]
    inward = np.column_stack([-along[:, 1], along[:, 0]])
    before = np.roll(inward, 1, axis=0)
    share = 1 + (inward * before).sum(axis=1)
    return loop + by * (inward + before) / share[:, None]


def _lofted(loops: list[Array], height: float, foot: float) -> Manifold:
    rings = [[_inset(loop, foot), loop, loop] for loop in loops]
    levels = [0.0, foot, height]
    count = [len(loop) for loop in loops]
    total = sum(count)
    points = np.concatenate(
        [np.column_stack([np.concatenate([r[k] for r in rings]), np.full(total, z)]) for k, z in enumerate(levels)]
    )
    faces, start = [], 0
    for n in count:
        i = start + np.arange(n)
        j = start + (np.arange(n) + 1) % n
        for k in (0, 1):
            a, b, c, d = i + k * total, j + k * total, j + (k + 1) * total, i + (k + 1) * total
            faces += [np.column_stack([a, b, c]), np.column_stack([a, c, d])]
        start += n
    low = np.asarray(triangulate([r[0] for r in rings]))
    high = np.asarray(triangulate(loops))
    faces += [low[:, ::-1], high + 2 * total]
    return Manifold(Mesh64(vert_properties=points, tri_verts=np.concatenate(faces).astype(np.uint64)))


def turned(body: Manifold, degrees: float) -> Manifold:
    """Turned about z."""
    return body.rotate((0, 0, degrees))


def mark(text: str, at: tuple[float, float], level: float, width: float, turn: float = 0.0) -> Manifold:
    """What is sunk into a level face to say ``text``."""
    shape = shapely.affinity.rotate(lettered(text, LETTERS, 2 * width), turn, origin=(0, 0))
    if shape.is_empty:
        return Manifold()
    return over(shapely.affinity.translate(shape, *at), level - SUNK, level + 1)


def tag(text: str, width: float, x: float, y: float, thick: float = TAG) -> Manifold:
    """A small plate from ``x`` to the right, its middle at ``y``, with ``text`` sunk in and the notch at its X end."""
    long = max(width_of(text, LETTERS, 2 * width) if text else 0.0, 6.0) + 2 * NOTCH + 2
    wide = LETTERS + 3
    plan = block(x, y - wide / 2, x + long, y + wide / 2)
    body = standing(plan, thick)
    end = [(x + long + 0.1, y - NOTCH), (x + long + 0.1, y + NOTCH), (x + long - NOTCH, y)]
    notch = over(shapely.Polygon(end), -1, thick + 1)
    return body - mark(text, (x + (long - NOTCH) / 2, y), thick, width) - notch
