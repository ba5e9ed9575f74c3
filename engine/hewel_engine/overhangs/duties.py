"""What a part's faces and bores ask of a direction: no scars where it says so, and bores that stay round."""

from dataclasses import dataclass, field

import numpy as np

from hewel_engine.geometry.mesh import Array
from hewel_engine.loads.regions import Patch

ROUND_LYING = 8.0
"""mm: a lying bore up to about this diameter stays round without a remedy."""
STANDS_WITHIN = 5.0
"""Degrees off the vertical within which a bore counts as upright."""


@dataclass(frozen=True, eq=False)
class Needs:
    """``protected``: pieces of faces that must not be scarred; ``bores``: (axis, diameter mm) of those with a fit."""

    protected: list[Patch] = field(default_factory=list)
    bores: list[tuple[Array, float]] = field(default_factory=list)


def tilts(axis: Array, ups: Array) -> Array:
    """(d,) degrees between a bore's axis and the vertical: also the overhang angle of its roof's steepest line."""
    return np.degrees(np.arccos(np.clip(np.abs(ups @ axis), 0, 1)))


def lying_chord(diameter: float, tilt: float, limit: float) -> float:
    """Width (mm) of a bore's roof beyond ``limit``, degrees from the vertical; 0 while nothing overhangs.

    n·b of the roof's facets is −sin(tilt)·cos(φ): φ off the top line overhangs while that passes sin(limit). A level
    bore (tilt 90°) has D·cos(limit).

    >>> round(lying_chord(12.0, 90.0, 45.0), 3), lying_chord(12.0, 30.0, 45.0)
    (8.485, 0.0)
    """
    steep, allowed = np.sin(np.radians(tilt)), np.sin(np.radians(limit))
    return 0.0 if steep <= allowed else float(diameter * np.sqrt(1 - (allowed / steep) ** 2))


def how_it_lies(axis: Array, diameter: float, up: Array, limit: float, clean_bridge: float) -> tuple[str, float, float]:
    """(upright | tilted | lying, tilt in degrees, flagged chord in mm) of a bore in direction ``up``."""
    tilt = float(tilts(axis, up[None])[0])
    chord = lying_chord(diameter, tilt, limit)
    word = "upright" if tilt <= STANDS_WITHIN else "lying" if chord > 0 else "tilted"
    return word, tilt, chord
