"""Bosses and posts whose foot lies over sparse infill, and what pulls them out. Lengths mm, forces N.

A post begins where a layer is drawn well inside the one below. Its foot is held by the top layers it stands on and,
below them, by infill: it tears out with a plug of those layers. Estimate, each way the weakest of

* F = U·n·h·Z_s, a plug of the n top layers sheared out round the foot (outline U). The sparse infill under it gives
  so much more before it tears that it is no help: the stiffer of two ways carries alone,
* F = Z_t·A', the weld of the foot itself, A' its printed area.

Only a tensile pull along the build direction, spread evenly, is meant; it says nothing of bending.
"""

from dataclasses import dataclass

import numpy as np
import shapely
from manifold3d import CrossSection

from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.plans import as_polygons, enclosing, grown, signed_area
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.processes import Process

DROP = 20.0
"""mm² by which a layer must be smaller than the one below for a post to begin on it."""
LEAST_HEIGHT = 2.0
"""mm that a post rises at least."""
DEEP = 1.0
"""mm of infill below which the layers over and under it are one plate."""
HOLLOW = 0.5
"""Share of the foot over infill from which on it is a finding."""


@dataclass(frozen=True, eq=False)
class Post:
    """``plan``: the outline of its foot over the plate, as drawn, holes and all; ``foot`` mm above the plate."""

    plan: shapely.Polygon
    foot: float
    height: float
    share: float
    """Of the foot that lies over infill."""
    pull: float
    """N that pull it out as it is."""
    weld: float
    """N that its own weld at the foot carries, which is what is left once it is carried down."""

    @property
    def centre(self) -> Array:
        """(3,) mm over the plate, in the middle of its foot."""
        middle = enclosing(self.plan).centroid
        return np.array([middle.x, middle.y, self.foot])

    @property
    def width(self) -> float:
        """mm across, of a round with the same area."""
        return float(2 * np.sqrt(enclosing(self.plan).area / np.pi))


def posts_of(stack: LayerStack, process: Process, middle: Array) -> list[Post]:
    """Posts over sparse infill, the weakest first. ``middle`` (2,): of the plans, over the plate."""
    if process.infill >= 1:
        return []
    area = stack.integrals[:, 0]
    out = []
    for k in range(2 * process.top_bottom + 1, stack.count):
        if area[k - 1] - area[k] < DROP:
            continue
        core = None
        for piece in stack.plan(k).decompose():
            if piece.area() <= 0 or not _well_inside(piece, stack.plan(k - 1), process):
                continue
            core = core if core is not None else _core(stack, k - 1 - process.top_bottom, process)
            post = _post(stack, k, piece, core, process, middle)
            if post and post.share >= HOLLOW and post.height >= LEAST_HEIGHT:
                out.append(post)
    return sorted(out, key=lambda p: p.pull)


def _well_inside(piece: CrossSection, below: CrossSection, process: Process) -> bool:
    """Whether a piece of a layer lies a line or more inside the layer below, holes that go on down left aside."""
    holes = CrossSection([loop[::-1] for loop in piece.to_polygons() if signed_area(loop) < 0])
    return (piece - grown(below + holes, -process.width)).area() < 0.02 * piece.area()


def _core(stack: LayerStack, k: int, process: Process) -> CrossSection:
    """What is filled sparsely from layer ``k`` down, DEEP at least: inside its perimeters, below the top layers and
    above the bottom ones.
    """
    low = k - round(DEEP / process.layer) - process.top_bottom
    if low < 0:
        return CrossSection()
    below, above = stack.plan(low), stack.plan(min(k + process.top_bottom, stack.count - 1))
    return grown(stack.plan(k), -process.shell) ^ below ^ above


def _post(stack, k: int, piece: CrossSection, core: CrossSection, process: Process, middle: Array) -> Post | None:
    plan = as_polygons(piece)
    if plan.geom_type != "Polygon":
        return None
    foot = enclosing(plan)
    ring = piece.area()
    share = (piece ^ core).area() / ring
    top = k
    while top < stack.count and (stack.plan(top) ^ piece).area() > 0.5 * ring:
        top += 1
    stock = process.stock
    skins = process.top_bottom * process.layer
    plug = foot.exterior.length * skins * stock.z_s
    weld = stock.z_t * ring
    return Post(
        shapely.transform(plan, lambda xy: xy + middle),
        k * stack.pitch,
        (top - k) * stack.pitch,
        share,
        float(min(plug, weld)),
        float(weld),
    )
