"""A pin pushed from the side: what it bears at its root as its layers lie, and which radius there saves it (handbook 8;
card *pin*). Lengths mm, forces N, stresses MPa.
"""

from dataclasses import dataclass

import numpy as np

from hewel_engine.edits.sites import mouth
from hewel_engine.edits.tools import Impossible
from hewel_engine.fits.estimates import SLENDER
from hewel_engine.geometry.measures import WHOLE_TURN, Feature, feature_of
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.patches import Faces
from hewel_engine.geometry.rays import RayScene
from hewel_engine.processes import Process
from hewel_engine.reckoning.pins import pin, rounded

MOST_ROUND = 0.3
"""Of its diameter: the largest root radius that the card knows."""
STANDS = 0.5
"""|axis·up| from which on a push parts its layers."""


SQUARE = 0.02
"""|normal·up| of the facets of a face that stands."""
FEWEST = 6
"""Facets of a round face."""


@dataclass(frozen=True)
class Pushed:
    """``stress`` at its root without the notch, ``peak`` with it, ``strength`` of its layers there, ``reserve`` over
    the peak; ``radius``: the least at its root with which it holds; None where it holds as it is, or none saves it.
    """

    stress: float
    notch: float
    peak: float
    strength: float
    reserve: float
    radius: float | None
    stands: bool


def pushed(found: Feature, push: float, process: Process, up: Array) -> Pushed:
    """A pin held at one end, pushed at its other one. Its root is taken to be sharp: half a line stays of it."""
    stock = process.stock
    stands = abs(float(found.axis @ up)) > STANDS
    strength = float(stock.z_t if stands else stock.x_t)
    arm, wide = float(found.lengths.max()), found.size
    of = lambda radius: pin(push, arm, wide, radius, strength)[0]
    _, stress, notch, peak, reserve = of(process.width / 2)
    return Pushed(
        stress, notch, peak, strength, reserve, None if reserve >= 1 else _saves(stress, strength, wide), stands
    )


def _saves(stress: float, strength: float, wide: float) -> float | None:
    """The radius whose notch just brings the peak down to the strength."""
    wanted = strength / stress
    if wanted < 1:
        return None
    share = rounded(wanted)
    return share * wide if share <= MOST_ROUND else None


def standing_pins(mesh: Mesh, faces: Faces, rays: RayScene, up: Array) -> list[tuple[Feature, int]]:
    """The slender pins that stand on their layers, one end free, the most slender first; each with a facet of it."""
    upright = np.abs(mesh.normals @ up) < SQUARE
    count = np.bincount(faces.face)
    stands = np.bincount(faces.face, upright) == count
    found = []
    for label in np.flatnonzero(stands & (count >= FEWEST)):
        facets = np.flatnonzero(faces.face == label)
        pin_ = feature_of(mesh, rays, facets)
        if pin_.kind != "pin" or pin_.turn < WHOLE_TURN or float(pin_.lengths.max()) < SLENDER * pin_.size:
            continue
        try:
            _, both = mouth(rays, pin_, 0.0)
        except Impossible:
            continue
        if not both:
            found.append((pin_, int(facets[0])))
    return sorted(found, key=lambda row: row[0].size / float(row[0].lengths.max()))
