"""The wall round every hole, against what a screw in it wants. Lengths mm."""

from dataclasses import dataclass

import numpy as np

from hewel_engine.geometry.features import Bore
from hewel_engine.walls.lines import Comb, whole_lines
from hewel_engine.walls.thickness import Thickness

SHARE = 0.5
"""Of a screw's diameter: the wall round its hole (handbook)."""
LINES = 4
"""Lines of that wall at least (handbook)."""
MOST = 12.0
"""mm of diameter past which a hole takes a shaft or a pipe and no screw."""
LEAST_SHARE = 0.05
"""Of a bore's surface that must be thinner than wanted: less is where another hole crosses it."""


@dataclass(frozen=True, eq=False)
class Hole:
    """``bore``: its number; ``wall`` mm that are least round it, ``wanted`` mm."""

    bore: int
    wall: float
    wanted: float


def wanted_wall(diameter: float, comb: Comb) -> float:
    """mm of wall round a screw hole: half its diameter, four lines at least, rounded up to whole lines."""
    return whole_lines(SHARE * diameter, comb, LINES)


def thin_holes(found: Thickness, bores: list[Bore], comb: Comb) -> list[Hole]:
    """Holes with less wall round them than a screw wants, the thinnest first."""
    out = []
    for number, bore in enumerate(bores):
        if bore.diameter > MOST:
            continue
        wanted = wanted_wall(bore.diameter, comb)
        rows = np.flatnonzero(np.isin(found.source, bore.facets))
        area = found.mesh.areas[rows]
        thin = found.counts[rows] & (found.ball[rows] < wanted - 1e-3)
        if area[thin].sum() > LEAST_SHARE * area.sum():
            out.append(Hole(number, found.at_share(rows[thin], 0.02)[0], wanted))
    return sorted(out, key=lambda h: h.wall)
