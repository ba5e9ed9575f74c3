"""Thin walls below a hanging surface: webs, which stay and lean at the limit; fins, which are broken off. Lengths mm.

Both stand on lines in plan that part the surface into strips short enough to bridge (``advice.combs`` finds them).
"""

import numpy as np
import shapely
from manifold3d import Manifold, OpType

from hewel_engine.edits.fans import OVERLAP, column, curtain
from hewel_engine.edits.solids import prism
from hewel_engine.edits.tools import Impossible, Tool
from hewel_engine.edits.undersides import Underside
from hewel_engine.geometry.plans import as_polygons, wall_on
from hewel_engine.geometry.rays import RayScene
from hewel_engine.processes import Process

SLENDER = 30.0
"""A fin is at least its height ÷ this thick, so that the nozzle does not bend it."""
NECK_LAYERS = 2
"""Layers of one line by which a fin holds what it carries."""
LOOSE = 0.4
"""mm between a fin and the walls beside it, so that it comes off."""
WAYS = 64
"""Directions in which a way out for a fin is looked for."""
SEEN = 0.03
"""Share of them that must lead outside for pliers to reach it."""


def least_web(process: Process) -> float:
    """mm: two lines."""
    return 2 * process.width


def least_fin(under: Underside, process: Process) -> float:
    """mm: two lines, and so that the nozzle does not bend it."""
    return max(least_web(process), under.low / SLENDER)


def below(under: Underside) -> Manifold:
    """All between a surface and the plate."""
    if under.low <= OVERLAP:
        raise Impossible("It lies on the plate.")
    return column(under.mesh.vertices, under.faces, 0.0, 0.0)


def webs(whole: Manifold, lines: list[shapely.LineString], process: Process, thickness: float) -> Tool:
    """The gusset ``whole``, which would carry a surface, cut down to thin walls on ``lines``."""
    low, high = whole.bounding_box()[2], whole.bounding_box()[5]
    walls = shapely.union_all([wall_on(line, thickness) for line in lines])
    add = whole ^ prism(walls, low - 1, high + 1)
    if add.is_empty():
        raise Impossible("Webs would find no wall to stand on.")
    count, depth = len(lines), high - low
    words = (
        f"Add {count} web{'s' if count > 1 else ''} {thickness:.2f} mm thick under it, {process.limit:.0f}° from the "
        f"vertical and {depth:.1f} mm high; between them it bridges."
    )
    numbers = {"webs": float(count), "thickness_mm": thickness, "rise_mm": depth}
    return Tool("webs", words, numbers, add=add, used={"thickness_mm": thickness})


def fins(
    under: Underside, lines: list[shapely.LineString], solid: Manifold, rays: RayScene, process: Process,
    thick: float,
) -> Tool:  # fmt: skip
    """Thin walls on ``lines`` from the plate or the part below up to the surface, which they hold by a neck one line
    thick; broken off by hand. Raises Impossible where nobody could reach them.
    """
    if not _reached(under, rays):
        raise Impossible("What stands under it could not be reached to be broken off.")
    neck, high = process.width, NECK_LAYERS * process.layer
    outline = lambda width: shapely.union_all([wall_on(line, width) for line in lines])
    under_all = below(under)
    sheet = curtain(under.mesh.vertices, under.faces, high, OVERLAP)
    walls = shapely.union_all([shapely.LineString(s[:, :2]) for s in under.held]).buffer(LOOSE)
    body = (under_all - sheet) ^ prism(outline(thick).difference(walls), -1.0, under.high + 1)
    pieces = (body - solid).decompose()
    # What the part below parts from the surface carries nothing.
    near = curtain(under.mesh.vertices, under.faces, high + OVERLAP, 0.0)
    kept = [p for p in pieces if not (p ^ near).is_empty()]
    if not kept:
        raise Impossible("There is no room under it for a fin.")
    body = Manifold.batch_boolean(kept, OpType.Add)
    tall = max(p.bounding_box()[5] - p.bounding_box()[2] for p in kept)
    stands = as_polygons(body.project()).buffer(2 * LOOSE)
    held = sheet ^ prism(outline(neck).intersection(stands), -1.0, under.high + 1)
    # Rooted in the part below by a hair; what stands on the plate begins there.
    rooted = body + (body.translate((0, 0, -OVERLAP)) ^ solid)
    count = len(lines)
    words = (
        f"Add {count} fin{'s' if count > 1 else ''} {thick:.2f} mm thick and up to {tall:.1f} mm high under it, held "
        f"by a neck {neck:.2f} mm thick; break {'them' if count > 1 else 'it'} off after printing."
    )
    numbers = {"fins": float(count), "thickness_mm": thick, "neck_mm": neck, "height_mm": float(tall)}
    return Tool("fins", words, numbers, add=rooted + held, used={"thickness_mm": thick})


def _reached(under: Underside, rays: RayScene) -> bool:
    """Whether enough lines from below the surface lead outside, level or downward."""
    turn = 2 * np.pi * np.arange(WAYS) / WAYS
    ways = np.c_[np.cos(turn), np.sin(turn), np.where(np.arange(WAYS) % 4 == 0, -1.0, -0.15)]
    ways /= np.linalg.norm(ways, axis=1, keepdims=True)
    spots = under.inner_spots[:: max(1, len(under.inner_spots) // 8)] - np.array([0, 0, 0.5])
    far = rays.distances(np.repeat(spots, WAYS, axis=0), np.tile(ways, (len(spots), 1)))
    return bool(np.isinf(far).mean() >= SEEN)
