"""A designed block: fills the opening below a ceiling with a gap of whole layers above and below, and is taken out by
hand. Lengths mm.
"""

import itertools

import numpy as np
import shapely
import shapely.affinity
from manifold3d import CrossSection, Manifold

from hewel_engine.edits.lettering import lettered, width_of
from hewel_engine.edits.solids import prism
from hewel_engine.edits.tools import Impossible, Tool, drawn
from hewel_engine.edits.undersides import Underside
from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.plans import largest, loops_of
from hewel_engine.geometry.rays import RayScene
from hewel_engine.processes import Process, layers_of

GAP = 0.3
"""mm of air round a block at least: what is printed in place and comes free."""
LEAST_HEIGHT = 2.0
"""mm of a block that fingers or pliers can take hold of."""
LABEL = "OUT"
SUNK = 0.6
"""mm that the label is sunk."""
LETTERS = (2.5, 8.0)
"""mm: least and greatest height of its letters."""
WAYS = 8
"""Ways out that are tried."""


def block(
    under: Underside, solid: Manifold, rays: RayScene, process: Process, gap: float = GAP, side: float = GAP
) -> Tool:
    """A body under a level ceiling, as thick as the wall it serves: ``gap`` mm or more, in whole layers, above it and
    below it (none on the plate), ``side`` mm beside the walls. Its label is sunk into the face that comes out first.

    Raises Impossible where the ceiling or the floor is not level, or where the block could not be taken out.
    """
    h = process.layer
    if under.high - under.low > h / 2:
        raise Impossible("A block serves a level ceiling; this one is not.")
    air = max(1, layers_of(gap, h)) * h
    floor = _floor(under, rays, h)
    low = drawn(floor, h) + air if floor > 1e-6 else 0.0
    high = drawn(under.low, h) - air
    if high - low < LEAST_HEIGHT:
        raise Impossible(
            f"A block would be {max(high - low, 0):.1f} mm high; below {LEAST_HEIGHT:.0f} mm none comes out."
        )
    plan = _plan(under, side)
    if plan.buffer(-process.width).is_empty:
        raise Impossible(f"With {side:.2f} mm beside it a block would be thinner than two lines.")
    if not (prism(plan.buffer(0.8 * side), low + h / 2, high - h / 2) ^ solid).is_empty():
        raise Impossible("The walls lean into the opening, so a straight block would meet them.")
    way, face = _way_out(under, plan, solid, rays, low, high, h)
    body, label = _labelled(prism(plan, low, high), way, face, high - low, process)
    words = f"Put a separate block {high - low:.2f} mm high into the opening: {air:.2f} mm of air above"
    words += (
        f" and below, {side:.2f} mm beside; it begins {low:.2f} mm above the plate"
        if floor > 1e-6
        else f", {side:.2f} mm beside"
    )
    words += f". {label} It is taken out after printing."
    numbers = {"height_mm": high - low, "gap_mm": air, "low_mm": low, "high_mm": high}
    return Tool("block", words, numbers, add=body, used={"gap_mm": air, "side_mm": side})


def _floor(under: Underside, rays: RayScene, layer: float) -> float:
    """Height of the level floor below a ceiling; 0 for the plate."""
    spots = under.inner_spots - np.array([0, 0, rays.step])
    fall = rays.distances(spots, np.array([0, 0, -1.0])) + rays.step
    heights = np.where(np.isfinite(fall), under.low - fall, 0.0)
    low, high = float(np.quantile(heights, 0.02)), float(np.quantile(heights, 0.98))
    if high - low > layer / 2:
        raise Impossible(
            f"The floor below is not level: it rises {high - low:.1f} mm, so a block would not stand on it."
        )
    return max(high, 0.0)


def _plan(under: Underside, side: float) -> shapely.Polygon:
    walls = shapely.union_all([shapely.LineString(s[:, :2]) for s in under.held]).buffer(side, quad_segs=8)
    left = largest(under.plan.difference(walls))
    if left.is_empty:
        raise Impossible(f"With {side:.2f} mm beside it nothing of a block would be left.")
    return left.simplify(1e-3)


def _way_out(
    under: Underside, plan: shapely.Polygon, solid: Manifold, rays: RayScene, low: float, high: float, layer: float
) -> tuple[Array, Array]:
    """The level direction (2,) in which the block comes out without meeting the part, and the edge (2, 2) of its plan
    that leads.
    """
    free, out = under.free, under.way_out(of_held=False)
    size = np.linalg.norm(np.diff(free[:, :, :2], axis=1)[:, 0], axis=1)
    for i in np.argsort(-size, kind="stable")[:WAYS]:
        far = under.mesh.diagonal * out[i]
        if (prism(_swept(plan, far), low + layer / 2, high - layer / 2) ^ solid).is_empty():
            return out[i], _leading(plan, out[i])
    raise Impossible("It has no open side that a block could be taken out by.")


def _swept(plan: shapely.Polygon, far: Array) -> shapely.Polygon:
    """All that the plan passes on its way along ``far``."""
    ring = np.array(plan.exterior.coords)
    walls = [shapely.Polygon([a, b, b + far, a + far]) for a, b in itertools.pairwise(ring)]
    moved = shapely.affinity.translate(plan, *far)
    return shapely.union_all([plan, moved, *(w.buffer(0) for w in walls if w.area > 1e-9)])


def _leading(plan: shapely.Polygon, way: Array) -> Array:
    """The longest edge of the plan that faces ``way``."""
    ring = np.array(shapely.orient_polygons(plan).exterior.coords)
    along = np.diff(ring, axis=0)
    faces = along[:, 1] * way[0] - along[:, 0] * way[1]  # length of an edge, seen along the way
    i = int(faces.argmax())
    return ring[i : i + 2]


def _labelled(body: Manifold, way: Array, face: Array, tall: float, process: Process) -> tuple[Manifold, str]:
    """The block with its label sunk into the face that leads, and what is said of the label."""
    stroke = 2 * process.width
    along = face[1] - face[0]
    room = float(np.linalg.norm(along)) - 2 * process.width
    letters = min(LETTERS[1], 0.7 * tall)
    wide = width_of(LABEL, letters, stroke)
    if wide > room:
        letters *= room / wide
    if letters < max(LETTERS[0], 4 * process.width):
        return body, "It is too small to carry a label."
    along = along / np.linalg.norm(along)
    box = body.bounding_box()
    middle = np.array([*face.mean(axis=0), (box[2] + box[5]) / 2])
    inward = np.array([-along[1], along[0], 0.0])
    sunk = Manifold.extrude(CrossSection(loops_of(lettered(LABEL, letters, stroke))), 2 * SUNK)
    place = np.c_[[*along, 0], [0, 0, 1.0], -inward, middle + SUNK * inward]
    cut = body - sunk.transform(place)
    if len(cut.decompose()) > 1:
        return body, "It is too thin to carry a label."
    return cut, f"“{LABEL}” is sunk {SUNK:.1f} mm into it, in letters {letters:.1f} mm high."
