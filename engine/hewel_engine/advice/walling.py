"""A wall of a part set to another thickness: which wall is meant, and which of its faces moves."""

from collections.abc import Iterator

import numpy as np

from hewel_engine.advice.placed_part import UP, PlacedPart, reach_of
from hewel_engine.edits.tools import Impossible, Tool
from hewel_engine.edits.walling import moved_face
from hewel_engine.geometry.mesh import Array
from hewel_engine.walls.lines import Comb, Plates
from hewel_engine.walls.thickness import Thickness, thickness_of
from hewel_engine.walls.zones import Zone, walls_of

WHOLE = 0.8
"""Share of a face that must bound the wall: else it goes on past the wall, and moving it would change more."""
LARGE = 0.25
"""Share of the largest face's area below which a face of a wall is a chamfer or an end of it."""


def wall_tools(placed: PlacedPart, centre: Array, wanted: float | None) -> Iterator[Tool]:
    """The ways of setting the wall at ``centre`` (3,) to ``wanted`` mm (to its nearest good size where none is given):
    one of its faces moved, the largest first, round ones of bores last. Raises Impossible.
    """
    found = thickness_of(placed.mesh)
    zone = _meant(_zones(placed, found), centre)
    if zone is None:
        raise Impossible("No wall is found there any more.")
    face, area = found.face, placed.mesh.areas
    inside = np.bincount(found.source[zone.facets], found.mesh.areas[zone.facets], minlength=len(area))
    own = np.bincount(face, inside)
    whole = np.bincount(face, area)
    bored = {int(face[f]) for bore in placed.bores for f in bore.facets}
    faces = [int(i) for i in np.flatnonzero(own > LARGE * own.max())]
    faces.sort(key=lambda i: (i in bored, -round(own[i], 6)))
    moving = [i for i in faces if own[i] >= WHOLE * whole[i]]
    if not moving:
        raise Impossible("Both faces of this wall go on past it: moving either would change more than the wall.")
    why: Impossible | None = None
    made = False
    for i in moving:
        rows = np.flatnonzero(face == i)
        pieces = zone.facets[np.isin(found.source[zone.facets], rows)]
        low, now, high = found.at_share(pieces, 0.02, 0.5, 0.98)
        try:
            tool = moved_face(placed.mesh, rows, now, zone.advice if wanted is None else wanted, (low, high))
        except Impossible as no:
            why = why or no
            continue
        made = True
        yield tool
    if why and not made:
        raise why


def wrong_walls(placed: PlacedPart) -> list[Array]:
    """The middles (3,) of the walls that neither lines nor infill fill."""
    return [z.centre for z in _zones(placed, thickness_of(placed.mesh)) if z.wrong]


def _zones(placed: PlacedPart, found: Thickness) -> list[Zone]:
    return walls_of(found, Comb.of(placed.process), Plates.of(placed.process, UP)).zones


def _meant(zones: list[Zone], centre: Array) -> Zone | None:
    """The zone whose middle is nearest, if it is within reach."""
    away = lambda z: float(np.linalg.norm(z.centre - centre))
    nearest = min(zones, key=away, default=None)
    return nearest if nearest and away(nearest) <= reach_of(nearest) else None
