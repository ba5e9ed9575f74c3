"""Space that nobody marked as free and that is likely to be used: in front of bores, between facing walls. mm.

Caution is the default: what fills such a space is offered with the question, never done by itself.
"""

import numpy as np
import shapely
from manifold3d import Manifold

from hewel_engine.edits.solids import prism, solid_of
from hewel_engine.geometry.features import Bore, Flat, find_flats
from hewel_engine.geometry.frames import upright
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.plans import polygons_of, sides
from hewel_engine.geometry.rays import RayScene
from hewel_engine.spaces.free import Space, rod

SCREW = 14.0
"""mm of diameter up to which a bore takes a screw, whose head and tool want room before it."""
HEAD = 2.2
"""Diameter of a washer or a head, in diameters of its bore."""
ROOM = 1.0
"""Diameters of its bore that are kept free before each of its ends."""
LEAST_FLAT = 20.0
"""mm² of a wall that faces another."""
MOST_FLATS, MOST_SLOTS = 80, 40
FACING = -0.996
"""Cosine between the normals of two walls from which on they face each other (5°)."""
NARROW, TWICE = 25.0, 2.0
"""mm between two walls, and times their shorter side, up to which what is between them is a slot, a groove or a fork:
it is kept free altogether. So is what lies between walls that are broader than they are apart.
"""
WIDE = 80.0
"""mm past which two walls are not taken to belong together."""
PART_OF = 0.15
"""Share of a wider space between walls that may be filled."""
AIR = 0.5
"""Share of the space between two walls that is air."""


def likely_spaces(mesh: Mesh, bores: list[Bore]) -> list[Space]:
    """The spaces of a closed part, in its own frame."""
    return [*fronts(mesh, bores), *slots(mesh)]


def fronts(mesh: Mesh, bores: list[Bore]) -> list[Space]:
    """Before every open end of a bore for a screw: as wide as a head, as deep as the bore is wide."""
    rays, out = RayScene(mesh), []
    for bore in bores:
        if bore.diameter > SCREW:
            continue
        for way in (-bore.axis, bore.axis):
            far = rays.distances(bore.centre[None], way[None])[0]
            end = bore.depth / 2
            if far > end + ROOM * bore.diameter / 2:
                head = rod(bore.centre, way, HEAD * bore.diameter / 2, end, end + ROOM * bore.diameter)
                out.append(Space(f"front of the {bore.diameter:.1f} mm bore", head, likely=True))
    return out


def slots(mesh: Mesh) -> list[Space]:
    """Between walls that face each other through air, no further apart than they are long."""
    flats = find_flats(mesh, LEAST_FLAT)[:MOST_FLATS]
    if not mesh.closed or len(flats) < 2:
        return []
    normals, centres = np.array([f.normal for f in flats]), np.array([f.centre for f in flats])
    gap = ((centres[None] - centres[:, None]) * normals[:, None]).sum(axis=2)  # from wall i to wall j, along i's normal
    facing = (normals @ normals.T < FACING) & (gap > 0) & (gap <= WIDE)
    pairs = [(float(gap[i, j]), i, j) for i, j in np.argwhere(facing) if i < j and gap[j, i] > 0]
    solid, out = solid_of(mesh), []
    plans = {i: _outline(mesh, flats[i], upright(flats[i].normal)) for i in {i for _, i, _ in pairs}}
    for between, i, j in sorted(pairs):
        space = _between(mesh, flats[i], flats[j], plans[i], between, solid)
        if space is not None:
            out.append(space)
        if len(out) == MOST_SLOTS:
            break
    return out


def _outline(mesh: Mesh, flat: Flat, turn: Array) -> shapely.Geometry:
    facets = mesh.triangles[flat.facets] @ turn.T
    return shapely.union_all(shapely.polygons(facets[:, :, :2]).tolist())


def _between(mesh: Mesh, one: Flat, other: Flat, plan: shapely.Geometry, gap: float, solid: Manifold) -> Space | None:
    turn = upright(one.normal)
    both = plan.intersection(_outline(mesh, other, turn).buffer(0))
    parts = [p for p in polygons_of(both) if p.area > LEAST_FLAT / 2]
    if not parts:
        return None
    both = shapely.MultiPolygon(parts)
    short, long = sides(both)
    if gap > long:
        return None
    level = float((mesh.triangles[one.facets] @ turn[2]).max())
    body = prism(both, level, level + gap).transform(np.c_[turn.T, np.zeros(3)])
    if (body - solid).volume() < AIR * body.volume():
        return None
    name = f"space of {gap:.1f} mm between two walls"
    slot = gap <= max(short, min(NARROW, TWICE * short))
    return Space(name, body, likely=True, share=0.0 if slot else PART_OF)
