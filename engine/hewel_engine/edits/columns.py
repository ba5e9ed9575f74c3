"""A boss carried down to the base or into a wall: a shell under it that the perimeters draw, and a radius at its foot.
Lengths mm.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
import shapely
from manifold3d import CrossSection, Manifold, OpType

from hewel_engine.edits.fans import INSIDE, OVERLAP, edge_at, fan, slope
from hewel_engine.edits.solids import prism
from hewel_engine.edits.tents import rise_over, tent
from hewel_engine.edits.tools import Impossible, Tool, faceted
from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.plans import as_polygons, enclosed, enclosing, grown, largest, loops_of, signed_area
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.processes import Process

FLATS = np.radians((22.5, 45.0, 67.5))
"""Where the flats that a radius is made of touch it."""
ON_SOLID = 0.98
"""Share of a foot that a layer must fill to be solid under it."""
STEEPEST = 45.0
"""Degrees from the vertical that a column leans at most when it is not told: beyond, it is bent more than pulled."""
BASE_FIRST = "The base comes before the wall beside it, so it is carried straight down."
WORTH = 0.5
"""Share of the way straight down from which on a column leans into a wall instead, which it bends."""


@dataclass(frozen=True, eq=False)
class Foot:
    """Where a boss stands: ``plan``, the outline of it, at ``height``, in layers of which ``middle`` (2,) is the middle
    over the plate.
    """

    plan: shapely.Polygon
    height: float
    stack: LayerStack
    middle: Array

    @cached_property
    def whole(self) -> shapely.Polygon:
        return enclosing(self.plan)

    @cached_property
    def solid_below(self) -> list[bool]:
        """Of every layer below the foot, lowest first: whether it is solid all under it."""
        drawn = self.in_layers(self.plan)
        below = range(self.layer_at(self.height))
        return [(self.stack.plan(k) ^ drawn).area() > ON_SOLID * drawn.area() for k in below]

    @property
    def roof(self) -> int:
        """The uppermost layer of the cavity below."""
        return len(self.solid_below) - 1 - self.solid_below[::-1].index(False)

    def in_layers(self, shape: shapely.Geometry) -> CrossSection:
        return enclosed(loops_of(shape)).translate(tuple(-self.middle))

    def layer_at(self, height: float) -> int:
        """The number of the layer that begins at ``height``."""
        return max(1, round(height / self.stack.pitch))

    def inside(self, wall: float) -> shapely.Geometry:
        """Where the hole of a column goes: the boss's own hole carried down, else what its wall leaves."""
        return _holes(self.plan) if self.plan.interiors else largest(self.whole.buffer(-wall, quad_segs=12))


@dataclass(frozen=True, eq=False)
class Way:
    """One way down: how it is said, how long it is, how far it leans, what it adds and takes away."""

    words: str
    length: float
    aslant: float = 0.0
    add: Manifold = field(default_factory=Manifold)
    remove: Manifold = field(default_factory=Manifold)


def column(foot: Foot, process: Process, wall: float, root: float, aslant: float | None = None) -> Tool:
    """Carries a boss down. In a part that is solid there, by a hole inside it up to the top layers, which brings its
    own ring of perimeters, ``wall`` mm of them; through a cavity, by a tube ``wall`` mm thick. ``root``: radius where
    the boss leaves the face it stands on.

    ``aslant``: degrees from the vertical by which it leans to the nearest wall and ends in it; 0: straight down to what
    lies below. None: into the wall where that is at most half as long.

    Raises Impossible where it is too slender for a hole inside its wall, or nothing is there to end in.
    """
    ways, why = [], None
    lean = min(process.limit, STEEPEST) if aslant is None else aslant
    makes = [] if aslant else [lambda: _straight(foot, process, wall, root)]
    makes += [lambda: _aslant(foot, process, wall, lean)] if lean > 0 else []
    for make in makes:
        try:
            ways.append(make())
        except Impossible as no:
            why = why or no
    if not ways:
        raise why or Impossible("Nothing is there for a column to end in.")
    way = min(ways, key=lambda w: w.length * (1 if w.aslant == 0 else 1 / WORTH))
    add = way.add + rounded_root(foot.plan, foot.height, root, foot.stack, foot.middle)
    used = {"wall_mm": wall, "root_mm": root} | ({} if foot.plan.interiors else {"aslant_deg": way.aslant})
    words = f"Carry the boss, {foot.whole.area:.0f} mm² at its foot, {way.words}"
    numbers = used | {"foot_mm": foot.height}
    return Tool("column", words, numbers, add, way.remove, used, round_=faceted(add, way.remove))


def _straight(foot: Foot, process: Process, wall: float, root: float) -> Way:
    inner, skin = foot.inside(wall), process.top_bottom * process.layer
    if all(foot.solid_below):
        own = bool(foot.plan.interiors)
        low, high = skin, foot.height + OVERLAP if own else foot.height - skin
        _roomy(inner, low, high, wall, process)
        hole = prism(inner, low, high) if own else _under_its_own_roof(inner, low, high, process)
        words = f"down to the base: a hole inside, from {low:.1f} to {min(high, foot.height):.1f} mm, "
        return Way(f"{words}that {wall:.2f} mm of lines go round.", high - low, remove=hole)
    pitch = foot.stack.pitch
    low = pitch * next((k + 1 for k in range(foot.roof, -1, -1) if foot.solid_below[k]), 0)
    tube = prism(_tube(foot, inner), max(low - OVERLAP, 0.0), foot.height)
    words = (
        f"down to the base: a tube of {wall:.2f} mm from {low:.1f} mm up, with {root:.1f} mm of radius at both ends."
    )
    return Way(
        words, (foot.roof + 1) * pitch - low, add=tube + rounded_root(foot.plan, low, root, foot.stack, foot.middle)
    )


def _aslant(foot: Foot, process: Process, wall: float, lean: float) -> Way:
    """Each layer of it is the one above, moved towards the nearest wall, until that holds it."""
    if foot.plan.interiors:
        raise Impossible("A boss with a hole of its own is carried straight down, where its screw goes.")
    make = _aslant_hole if all(foot.solid_below) else _aslant_tube
    return make(foot, process, wall, lean)


def _aslant_hole(foot: Foot, process: Process, wall: float, lean: float) -> Way:
    inner, skin, pitch = foot.inside(wall), process.top_bottom * process.layer, foot.stack.pitch
    top = foot.height - skin
    _roomy(inner, skin, top, wall, process)
    bend = top - rise_over(inner, process) - 2 * process.layer  # its own roof stays upright
    move = slope(lean) * _to_the_wall(foot, foot.layer_at(top) - 1)
    in_its_lines = lambda k, at: (at - grown(foot.stack.plan(k), -process.shell)).area() > 0
    low = pitch * (1 + _down_until(in_its_lines, foot, inner, move, bend, foot.layer_at(bend) - 1))
    if low < skin:
        raise Impossible(BASE_FIRST)
    if low > bend - 2 * process.layer:
        raise Impossible("It stands so near the wall that there is no room to lean in.")
    hole = _moved(inner, low, bend, move) + _under_its_own_roof(inner, bend, top, process)
    words = f"into the wall beside it, leaning {lean:.0f}°: a hole inside, from {low:.1f} to {top:.1f} mm, "
    return Way(f"{words}that {wall:.2f} mm of lines go round.", _length(top - low, lean), lean, remove=hole)


def _aslant_tube(foot: Foot, process: Process, wall: float, lean: float) -> Way:
    plan, pitch, little = foot.stack.plan, foot.stack.pitch, (1 - ON_SOLID) * foot.whole.area
    top = (foot.roof + 1) * pitch  # a lid stays as it is
    move = slope(lean) * _to_the_wall(foot, foot.roof)
    inside = lambda k: CrossSection([loop for loop in plan(k).to_polygons() if signed_area(loop) > 0])
    gone_in = lambda k, at: ((at ^ inside(k)) - plan(k)).area() < little
    last = _down_until(gone_in, foot, foot.whole, move, top, foot.roof)
    low = pitch * last
    end = shapely.transform(foot.whole, lambda xy: xy + (top - low) * move)
    if (foot.in_layers(end) ^ plan(last)).area() < little:
        raise Impossible("The wall beside it is open where a leaning column would end.")
    within = lambda k: grown(inside(k), -process.width)  # no layer's step comes out of a wall that leans
    tube = _within(_moved(_tube(foot, foot.inside(wall)), low, top, move), foot, within, last)
    words = f"into the wall beside it, leaning {lean:.0f}°: a tube of {wall:.2f} mm from {low:.1f} mm up, "
    return Way(f"{words}with a radius at its foot.", _length(top - low, lean), lean, add=tube)


def rounded_root(plan: shapely.Polygon, foot: float, root: float, stack: LayerStack, middle: Array) -> Manifold:
    """A radius, in three flats inside it, round what stands on ``plan`` at ``foot``, where there is a face below it."""
    if root <= 0:
        return Manifold()
    ring = np.array(shapely.orient_polygons(enclosing(plan)).exterior.coords)
    out = []
    for angle in FLATS:
        across, up = legs(root, angle)
        lean = float(np.degrees(np.arctan2(across, up))) + INSIDE
        out.append(fan(edge_at(ring, foot + up), up + OVERLAP, lean, up=False))
    face = stack.plan(max(0, round(foot / stack.pitch) - 1)).translate(tuple(middle))
    on = Manifold.extrude(face, root + OVERLAP).translate((0, 0, foot - OVERLAP))
    body = Manifold.batch_boolean(out, OpType.Add) ^ on
    return body - prism(_holes(plan), foot - 1, foot + root + 1) if plan.interiors else body


def legs(root: float, angle: float) -> tuple[float, float]:
    """mm across and up from the corner at which the tangent of a radius meets its two walls."""
    rest = root * (np.cos(angle) + np.sin(angle) - 1)
    return float(rest / np.cos(angle)), float(rest / np.sin(angle))


def _holes(plan: shapely.Polygon) -> shapely.Geometry:
    return shapely.union_all([shapely.Polygon(r) for r in plan.interiors])


def _tube(foot: Foot, inner: shapely.Geometry) -> shapely.Geometry:
    return foot.whole if inner.is_empty else foot.whole - inner


def _roomy(inner: shapely.Geometry, low: float, high: float, wall: float, process: Process) -> None:
    if inner.is_empty:
        raise Impossible(f"It is too slender for a hole with {wall:.2f} mm of lines round it.")
    if high - low < 2 * process.layer:
        raise Impossible("Between the top and the bottom layers there is no infill to carry it through.")


def _to_the_wall(foot: Foot, k: int) -> Array:
    """(2,) unit, from the middle of the foot to the nearest place of the outline of layer ``k``."""
    centre = shapely.Point(np.array(foot.whole.centroid.coords[0]) - foot.middle)
    outline = enclosing(as_polygons(foot.stack.plan(k)))
    nearest = shapely.shortest_line(centre, outline.boundary)
    (x, y), (to_x, to_y) = nearest.coords
    way = np.array([to_x - x, to_y - y])
    if not outline.contains(centre) or np.linalg.norm(way) < foot.stack.pitch:
        raise Impossible("There is no wall beside it to lean a column to.")
    return way / np.linalg.norm(way)


def _down_until(
    ends: Callable[[int, CrossSection], bool], foot: Foot, shape: shapely.Geometry, move: Array, top: float, first: int
) -> int:
    """The first layer from ``first`` down at which ``shape``, moved on by ``move`` per mm below ``top``, is at its end.
    Raises Impossible where the plate comes first.
    """
    at = foot.in_layers(shape)
    for k in range(first, -1, -1):
        if ends(k, at.translate(tuple((top - k * foot.stack.pitch) * move))):
            return k
    raise Impossible(BASE_FIRST)


def _moved(shape: shapely.Geometry, low: float, top: float, move: Array) -> Manifold:
    """A prism under ``shape`` at ``top``, every layer of it moved on by ``move`` (2,) per mm of depth."""
    sheared = np.array([[1, 0, -move[0], 0], [0, 1, -move[1], 0], [0, 0, 1, top]])
    return prism(shape, low - top, OVERLAP).transform(sheared)


def _within(body: Manifold, foot: Foot, outline: Callable[[int], CrossSection], low: int) -> Manifold:
    """What of ``body`` lies within the ``outline`` of each layer from ``low`` up to the foot."""
    pitch, slabs, k, top = foot.stack.pitch, [], low, foot.layer_at(foot.height)
    while k < top:
        end = k + 1
        while end < top and foot.stack.plan(end) is foot.stack.plan(k):
            end += 1
        slab = Manifold.extrude(outline(k), (end - k) * pitch + OVERLAP).translate((*foot.middle, k * pitch - OVERLAP))
        slabs.append(slab)
        k = end
    return body ^ Manifold.batch_boolean(slabs, OpType.Add)


def _length(height: float, lean: float) -> float:
    return height / float(np.cos(np.radians(lean)))


def _under_its_own_roof(inner: shapely.Geometry, low: float, high: float, process: Process) -> Manifold:
    """A hole whose end is a clean bridge, or leans at the limit until it is one."""
    rise = rise_over(inner, process)
    if rise == 0:
        return prism(inner, low, high)
    if high - low < rise + 2 * process.layer:
        wide = 2 * shapely.maximum_inscribed_circle(inner).length
        raise Impossible(f"The hole inside is {wide:.1f} mm wide, and no roof over it finds room.")
    return tent(inner, low, high - rise, rise, process)
