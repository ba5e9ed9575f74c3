"""What must not be lost of a part while it is changed: the way of a pin through every bore, spaces that stay free, and
protected faces.
"""

from dataclasses import dataclass, field, replace

import numpy as np
import shapely
from manifold3d import CrossSection, Manifold, OpType

from hewel_engine.advice.placed_part import PlacedPart
from hewel_engine.edits.bores import across, half_angle
from hewel_engine.edits.solids import mesh_of
from hewel_engine.edits.tools import Impossible, Tool
from hewel_engine.geometry.features import Bore
from hewel_engine.geometry.frames import upright
from hewel_engine.geometry.mending import winding_numbers
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.plans import as_polygons
from hewel_engine.spaces.free import Space

PIN = 0.98
"""Share of a bore's diameter, between its sides, that a pin which must still enter has."""
TOUCHED = 0.02
"""mm off a protected face at which it counts as touched."""
NOTHING = 0.02
"""mm³ in a space that stays free that are rounding."""
GRAZED = 1.0
"""mm³ by which a space that nobody wrote down may be grazed."""


@dataclass(frozen=True, eq=False)
class Clear:
    """What nothing is added in: ``pins``, the way into every bore, and ``spaces``; where the part stands."""

    pins: Manifold = field(default_factory=Manifold)
    spaces: tuple[Space, ...] = ()

    def lowered(self, by: float) -> "Clear":
        down = np.c_[np.eye(3), [0, 0, -by]]
        return Clear(self.pins.translate((0, 0, -by)), tuple(s.placed(down) for s in self.spaces))

    def barred(self, room: Manifold, removed: bool) -> shapely.Geometry:
        """Where, in plan, thin walls within ``room`` would stand in what stays free; what is ``removed`` by hand may
        stand where nobody wrote that it must not.
        """
        kept = [self.pins, *(s.solid for s in self.spaces if not (removed and s.likely))]
        shadows = [as_polygons((room ^ body).project()) for body in kept if not body.is_empty()]
        return shapely.union_all([s for s in shadows if not s.is_empty])

    def without_pins(self, tool: Tool) -> Tool:
        """The tool without what it would put in the way of a pin."""
        return replace(tool, add=tool.add - self.pins)

    def check(self, tool: Tool, solid: Manifold, removed: bool, asked: bool) -> None:
        """Raises Impossible where a tool fills what stays free. ``asked``: somebody said that it may fill what only
        looks used.
        """
        if not self.spaces or tool.add.is_empty():
            return
        gained = tool.add - solid
        for space in self.spaces:
            if space.likely and (removed or asked):
                continue
            filled = (gained ^ space.solid).volume()
            if not space.likely and filled > NOTHING:
                raise Impossible(f"It would reach {filled:.1f} mm³ into “{space.name}”, which stays free.")
            if space.likely and filled > max(GRAZED, space.share * space.solid.volume()):
                raise Filled(
                    f"It would fill {filled:.0f} mm³ of the {space.name}, which is likely to be used. Does anything "
                    "run, turn or sit there? If not, do it all the same.",
                    space, filled,
                )  # fmt: skip


class Filled(Impossible):
    """A remedy that would fill a space that looks used: for somebody to decide."""

    def __init__(self, words: str, space: Space, volume: float):
        super().__init__(words)
        self.space, self.volume = space, volume


def pins_of(placed: PlacedPart) -> Manifold:
    """What every bore keeps free: its own round, and the way of a pin into each open end; of a bore that lies, under a
    roof of its own, so that what is added round it needs no support there.
    """
    size = placed.mesh.diagonal
    pins = []
    for bore in placed.bores:
        reach = [size, size] if bore.through else [_open_to(placed, bore, w, size) for w in (-bore.axis, bore.axis)]
        rod = Manifold.cylinder(bore.depth + sum(reach), PIN * bore.diameter / 2, circular_segments=48)
        start = bore.centre - bore.axis * (bore.depth / 2 + reach[0])
        pins.append(rod.transform(np.c_[upright(bore.axis).T, start]) + _roofed(placed, bore, start, sum(reach)))
    return Manifold.batch_boolean(pins, OpType.Add) if pins else Manifold()


def _roofed(placed: PlacedPart, bore: Bore, start: Array, beyond: float) -> Manifold:
    """The room under two planes tangent to the pin of a bore that lies; nothing where it prints as it is."""
    limit = placed.process.limit
    if np.degrees(np.arccos(min(abs(float(bore.axis[2])), 1.0))) <= limit:
        return Manifold()
    phi, radius = half_angle(bore.axis, limit) - 1e-3, PIN * bore.diameter / 2
    beside, above = across(bore.axis)
    touch = radius * np.array([np.cos(phi), np.sin(phi)])
    roof = CrossSection([[touch, (0, radius / np.sin(phi)), touch * (-1, 1)]])
    return Manifold.extrude(roof, bore.depth + beyond).transform(np.c_[beside, above, bore.axis, start])


def _open_to(placed: PlacedPart, bore: Bore, way: Array, size: float) -> float:
    """How far a pin comes from outside to this end of a blind bore: 0 at its floor."""
    far = placed.rays.distances(bore.centre[None], way[None])[0]
    return size if far > bore.depth / 2 + 0.1 else 0.0


SPACED = 1.0
"""mm between places at which a protected face is looked at, where a tool comes near it."""
MOST_SPOTS = 400
"""Places along the longest side of one facet at most."""


def guarded(mesh: Mesh, protected: np.ndarray | None) -> Array:
    """(m, 3, 3) the ``protected`` facets."""
    return mesh.triangles[np.zeros(0, int) if protected is None else np.asarray(protected, int)]


def touches(tool: Tool, guarded: Array) -> bool:
    """Whether a tool adds material on a protected face, or takes some from under it: places all over the facets that
    lie in the box round it, just outside for what it adds, just inside for what it takes.
    """
    for body, side in ((tool.add, TOUCHED), (tool.remove, -TOUCHED)):
        if len(guarded) == 0 or body.is_empty():
            continue
        mesh = mesh_of(body)
        low, high = mesh.box + np.array([[-TOUCHED], [TOUCHED]])
        near = guarded[((guarded.min(axis=1) <= high) & (guarded.max(axis=1) >= low)).all(axis=1)]
        spots = [spot for facet in near for spot in [_spots(facet, low, high, side)] if len(spot)]
        if spots and (winding_numbers(np.concatenate(spots), mesh.triangles) > 0.5).any():
            return True
    return False


def _spots(facet: Array, low: Array, high: Array, side: float) -> Array:
    """(k, 3) places of a facet (3, 3), ``side`` mm off it, within a box."""
    edges = np.roll(facet, -1, axis=0) - facet
    normal = np.cross(edges[0], edges[1])
    size = np.linalg.norm(normal)
    if size == 0:
        return np.zeros((0, 3))
    count = int(np.clip(np.ceil(np.linalg.norm(edges, axis=1).max() / SPACED), 3, MOST_SPOTS))
    a, b = np.meshgrid(np.arange(count) + 1 / 3, np.arange(count) + 1 / 3, indexing="ij")
    shares = np.stack([a, b], -1)[a + b < count] / count
    places = facet[0] + shares @ np.array([edges[0], -edges[2]]) + side * normal / size
    return places[((places >= low) & (places <= high)).all(axis=1)]
