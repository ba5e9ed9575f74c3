"""What is better than more remedies where some are left: another direction, a few degrees of tilt, two pieces. mm."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from hewel_engine.advice.adapting import Adapted
from hewel_engine.advice.costs import Holds
from hewel_engine.advice.dividing import DividedPart, divided_by_plane
from hewel_engine.edits.splits import Joint
from hewel_engine.edits.tools import Impossible
from hewel_engine.errors import InputError
from hewel_engine.geometry.features import Bore
from hewel_engine.geometry.frames import direction_words, unit, upright
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.rays import RayScene
from hewel_engine.orientation.candidates import typed
from hewel_engine.orientation.ranking import STANDS
from hewel_engine.orientation.sweep import facet_sums
from hewel_engine.processes import Process

TILTS = (5.0, 10.0)
"""Degrees by which a direction is leaned to be looked at."""
LESS = 0.05
"""Share of what needs support now that a better direction leaves at most."""
MOST_LOOKS = 4
"""Directions that are looked at closely."""
BELOW = 1e-3
"""mm by which a cut lies below a ceiling, so that no film of it stays on the other piece."""
MOST_CUTS = 3
"""Heights of what is left at which a cut is tried, the largest area first."""


@dataclass(frozen=True, eq=False)
class Out:
    """Another direction, and how much surface needs support there."""

    up: Array
    needing: float
    reserve: float | None
    words: str

    def as_dict(self) -> dict:
        return {
            "up": self.up.tolist(), "needing_area_mm2": self.needing, "reserve": self.reserve, "words": self.words,
        }  # fmt: skip


def other_direction(
    mesh: Mesh, up: Array, process: Process, bores: list[Bore], needing: float, holds: Holds | None = None
) -> Out | None:
    """The direction among those a few degrees off and the axes in which hardly any of the ``needing`` mm² is left, the
    part stands and, where it is known what it ``holds``, loses none of that; of those that hang least by their facets
    the nearest to ``up``. None where there is none.
    """
    rays, ways = RayScene(mesh), np.array(list(_directions(up)))
    hanging = facet_sums(mesh, ways, process.limit)[0]
    best = np.sort(np.argsort(hanging, kind="stable")[:MOST_LOOKS])
    for way in ways[best]:
        bears, reserve = holds.bears(way, up) if holds else (True, None)
        if not bears:
            continue
        found = typed(mesh, rays, way, process, bores)
        if found.measures["tipping_deg"] >= STANDS and found.measures["needing_area_mm2"] <= LESS * needing:
            area = found.measures["needing_area_mm2"]
            left = "nothing needs support there" if area == 0 else f"{area:.0f} mm² need support there"
            held = "" if reserve is None else f", and its reserve is about {reserve:.2f}"
            return Out(way, area, reserve, f"Better: stand it {direction_words(way)}; {left}{held}.")
    return None


def _directions(up: Array) -> Iterator[Array]:
    """A few degrees off ``up`` every way, then the six axes, the nearest first."""
    x, y, z = upright(up)
    for tilt in np.radians(TILTS):
        for turn in np.radians(np.arange(0, 360, 45)):
            yield unit(np.cos(tilt) * z + np.sin(tilt) * (np.cos(turn) * x + np.sin(turn) * y))
    axes = np.concatenate([np.eye(3), -np.eye(3)])
    for axis in axes[np.argsort(-(axes @ z), kind="stable")]:
        if axis @ z < 1 - 1e-6:
            yield axis


def in_pieces(
    mesh: Mesh, found: Adapted, up: Array, process: Process, clearance: float, pegs: int
) -> DividedPart | None:
    """The part cut in two so that no piece needs support: at the height of what is left, or through its middle along
    the build direction; None where no such cut is found.
    """
    wanting = sorted((r for r in found.before.truth.regions if r.needs_support), key=lambda r: -r.area)
    floor = float(mesh.extents(np.asarray(up, float)[None])[0][0])
    middle = mesh.box.mean(axis=0)
    x, y, z = upright(up)
    heights = list(dict.fromkeys(round(r.low, 3) for r in wanting if r.low > process.layer))[:MOST_CUTS]
    level = [(middle + (floor + h - BELOW - middle @ z) * z, z) for h in heights]
    spare = None
    for point, normal in [*level, (middle, x), (middle, y), (middle, z)]:
        try:
            made = divided_by_plane(mesh, point, normal, process, Joint(clearance, count=pegs))
        except (Impossible, InputError):
            continue
        if any(p.needs_support for p in made.pieces) or any("separate bodies" in w for w in made.warnings):
            continue
        if len(made.seats) >= min(pegs, 2):
            return made
        spare = spare or made  # without pegs the halves must be aligned by hand
    return spare
