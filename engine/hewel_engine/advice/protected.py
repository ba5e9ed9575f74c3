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


def guarded(mesh: Mesh, protected: np.ndarray | None) -> tuple[Array, Array]:
    """(n, 3) points just outside and just inside the ``protected`` facets."""
    rows = np.zeros(0, int) if protected is None else np.asarray(protected, int)
    spots, middle, off = mesh.triangles[rows], mesh.centroids[rows], TOUCHED * mesh.normals[rows]
    places = [middle, *(0.8 * spots[:, i] + 0.2 * middle for i in range(3))]
    return np.concatenate([p + off for p in places]), np.concatenate([p - off for p in places])


def touches(tool: Tool, guarded: tuple[Array, Array]) -> bool:
    """Whether a tool adds material on a protected face, or takes some from under it."""
    for body, points in zip((tool.add, tool.remove), guarded, strict=True):
        if len(points) == 0 or body.is_empty():
            continue
        mesh = mesh_of(body)
        low, high = mesh.box
        near = points[((points >= low) & (points <= high)).all(axis=1)]
        if (winding_numbers(near, mesh.triangles) > 0.5).any():
            return True
    return False
