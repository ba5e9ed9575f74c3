"""Where a feature is put on a part: a face that looks sideways, up or down, with the directions of its layers. Lengths
mm, over the plate.
"""

from dataclasses import dataclass
from math import cos, radians, sin

import numpy as np
from manifold3d import CrossSection, FillRule, Manifold

from hewel_engine.edits.tools import Impossible
from hewel_engine.geometry.frames import unit, upright
from hewel_engine.geometry.measures import Feature
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.rays import RayScene

SQUARE = 0.05
"""|sine| up to which a face is level, or stands."""
INSIDE = 0.3
"""mm behind a face that what is put on it reaches into the part."""
ROOTED = 0.98
"""Share of a root that has material behind it at least."""
NEAR = 0.3
"""mm within which a face is the one that was pointed at."""
RIM = 0.2
"""mm inside the face of a pin at which it is looked whether it goes on beyond its end."""
ALIKE = 0.9
"""Cosine from which on it looks as it did then."""


@dataclass(frozen=True, eq=False)
class Site:
    """A place on a face and its frame: ``out`` of the face, ``across`` it in the layers, ``third`` normal to both."""

    at: Array
    out: Array
    across: Array

    @classmethod
    def of(cls, at: Array, out: Array, turn: float = 0.0) -> "Site":
        """On a face whose normal is ``out``, turned by ``turn`` degrees about it. Raises Impossible where the face
        neither stands nor lies.
        """
        out = unit(out)
        if SQUARE < abs(float(out[2])) < (1 - SQUARE**2) ** 0.5:
            raise Impossible("The face leans: a feature is put on one that stands or lies in the chosen direction.")
        flat = abs(float(out[2])) > 0.5
        first = unit(np.cross([0.0, 1, 0] if flat else [0.0, 0, 1], out))
        second = np.cross(out, first)
        angle = radians(turn)
        return cls(at, out, cos(angle) * first + sin(angle) * second)

    @property
    def third(self) -> Array:
        return np.cross(self.out, self.across)

    @property
    def stands(self) -> bool:
        """Whether what is put here stands on its layers."""
        return bool(self.out[2] > 0.5)

    @property
    def hangs(self) -> bool:
        return bool(self.out[2] < -0.5)

    def extruded(self, plan: Array, low: float, high: float) -> Manifold:
        """An outline (k, 2) along (out, across) from ``low`` to ``high`` mm along the third direction."""
        body = Manifold.extrude(CrossSection([plan], FillRule.NonZero), high - low).translate((0, 0, low))
        return body.transform(np.c_[np.column_stack([self.out, self.across, self.third]), self.at])

    def box(self, out: tuple[float, float], across: tuple[float, float], third: tuple[float, float]) -> Manifold:
        (a, b), (c, d), (e, f) = out, across, third
        return self.extruded(np.array([[a, c], [b, c], [b, d], [a, d]]), e, f)

    def down_to_plate(self, tall: float) -> tuple[float, float]:
        """(low, high) mm along the third direction of what lies in the layers, ``tall`` mm high, from the plate up."""
        up = float(self.third[2])
        low = -float(self.at[2]) / up
        return tuple(sorted((low, low + tall / up)))


def rooted(solid: Manifold, root: Manifold, named: str) -> None:
    """Raises Impossible where what a feature stands on is not all there. ``root``: just behind the face."""
    if (root ^ solid).volume() < ROOTED * root.volume():
        raise Impossible(
            f"{named} would not stand on the face with all of its root: point farther from the edge, make it smaller, "
            "or point at a face that reaches down to the plate there."
        )


def free_before(solid: Manifold, body: Manifold, named: str, room: float) -> None:
    """Raises Impossible where ``body``, grown by the room that it needs, runs into the part."""
    if (body ^ solid).volume() > 0.02:
        raise Impossible(f"{named} would run into the part: it needs {room:.1f} mm free before it.")


def mouth(rays: RayScene, found: Feature, at: float) -> tuple[Array, bool]:
    """The axis of a bore or pin towards its open end, the one nearer to ``at`` mm from its middle where both are; and
    whether both are. Raises Impossible where neither is.
    """
    half = float(found.lengths[0]) / 2
    beside = upright(found.axis)[0] * (0.8 * found.size / 2 if found.kind == "bore" else found.size / 2 - RIM)
    starts = np.array([found.places[0] + beside + s * (half - 2 * rays.step) * found.axis for s in (1.0, -1.0)])
    free = rays.distances(starts, np.array([found.axis, -found.axis]))
    open_ = free > 0.1 if found.kind == "bore" else free < 0.1
    if not open_.any():
        raise Impossible("Neither of its ends is free.")
    first = (at >= 0) if open_.all() else bool(open_[0])
    return (found.axis if first else -found.axis), bool(open_.all())


def facet_at(mesh: Mesh, rays: RayScene, place: Array, normal: Array) -> int:
    """The facet under a place that was pointed at. Raises Impossible where its face is not there any more."""
    start = place + NEAR * normal
    facet = int(rays.facets(start[None], -normal[None])[0])
    if facet < 0 or mesh.normals[facet] @ normal < ALIKE:
        raise Impossible("No face is found there any more.")
    if float(rays.distances(start[None], -normal[None])[0]) > 2 * NEAR:
        raise Impossible("No face is found there any more.")
    return facet
