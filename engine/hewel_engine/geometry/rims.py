"""The rim of an annular snap, measured from the round wall that its bead stands on: how far the bead stands out, its
slopes, how thick the wall is, how far it is from the end that gives. Lengths mm, degrees from the axis.
"""

from dataclasses import dataclass

import numpy as np

from hewel_engine.errors import InputError
from hewel_engine.geometry.frames import upright
from hewel_engine.geometry.measures import Feature, connected, feature_of
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.patches import Faces
from hewel_engine.geometry.rays import RayScene

AROUND = 12
"""Directions round the axis in which its outline is looked at."""
STEP = 0.05
"""mm along the axis between two looks."""
REACH = 20.0
"""mm beyond the round wall within which a bead and an end are looked for."""
LOOK = 8.0
"""mm that a bead may stand out, at most."""
MEETS = -0.2
"""normal·ray of a facet that is met from outside."""
LEVEL = 0.01
"""|normal·axis| of a facet of the wall."""
LEAST = 0.05
"""mm that a bead stands out at least."""
LONGEST = 12.0
"""mm along the axis that a bead takes up at most."""
STOUT = 0.15
"""Of the diameter: a wall thicker than this gives nothing."""


@dataclass(frozen=True, eq=False)
class Rim:
    """``diameter`` of the wall where the bead stands, ``inside`` whether that is a bore; ``undercut`` on the diameter;
    ``wall`` its thickness; ``from_end`` of the bead's crest to the end that gives; ``crest`` (3,) a place on it.
    """

    axis: Array
    diameter: float
    inside: bool
    undercut: float
    wall: float
    from_end: float
    angle_in: float
    angle_out: float
    crest: Array


def rim_at(mesh: Mesh, faces: Faces, rays: RayScene, facet: int) -> Rim:
    """The rim on the round wall that a facet belongs to. Raises InputError ``bad_options`` where there is none."""
    found = feature_of(mesh, rays, _wall_of(mesh, faces.around(facet), facet))
    if not found.is_round:
        raise _none("This is no round wall.")
    inside = found.kind == "bore"
    frame = upright(found.axis)
    heights, radii = _outline(mesh, rays, found, frame, inside)
    out = (found.size / 2 - radii) if inside else (radii - found.size / 2)  # how far it stands towards its mate
    first, last = _bead(heights, out, found)
    crest = first + int(np.argmax(out[first : last + 1]))
    standing = np.isfinite(radii)
    ends = [np.flatnonzero(~standing[:crest])[-1:] + 1, np.flatnonzero(~standing[crest:])[:1] + crest - 1]
    away = [abs(heights[crest] - heights[e[0]]) for e in ends if len(e)]
    if not away:
        raise _none("Neither end of its wall is free: nothing gives.")
    low_free = len(ends[0]) > 0 and (len(ends[1]) == 0 or away[0] <= away[-1])
    rise, fall = _slope(heights, out, first, crest), _slope(heights, out, last, crest)
    middle = found.places.mean(axis=0)
    wall = _wall(rays, found, frame, inside, middle)
    at = middle + heights[crest] * frame[2] + radii[crest] * frame[0]
    return Rim(
        found.axis, found.size, inside, 2 * float(out[crest]), wall, float(min(away)),
        rise if low_free else fall, fall if low_free else rise, at,
    )  # fmt: skip


def _none(words: str) -> InputError:
    return InputError("bad_options", words, "Point at the round wall beside the bead, not at the bead.")


def _wall_of(mesh: Mesh, face: np.ndarray, facet: int) -> np.ndarray:
    """Of a face, which may run on into the flat slopes of a bead, the facets that are parallel to one axis with a
    facet of it.
    """
    normals, areas = mesh.normals[face], mesh.areas[face]
    axes = np.cross(mesh.normals[facet], normals)
    size = np.linalg.norm(axes, axis=1)
    axes = axes[size > 1e-3] / size[size > 1e-3, None]
    if len(axes) == 0:
        return face
    level = np.abs(axes @ normals.T) < LEVEL
    best = level[int(np.argmax(level @ areas))]
    return next(piece for piece in connected(mesh, face[best]) if facet in piece)


def _ways(frame: Array) -> Array:
    """(AROUND, 3) directions round an axis, off the corners of what is drawn with as many flats."""
    turns = 2 * np.pi * (np.arange(AROUND) + 0.37) / AROUND
    return np.cos(turns)[:, None] * frame[0] + np.sin(turns)[:, None] * frame[1]


def _outline(mesh: Mesh, rays: RayScene, found: Feature, frame: Array, inside: bool) -> tuple[Array, Array]:
    """(heights, radii) of the wall along its axis about its middle: the median round it, not a number where nothing
    is.
    """
    half = float(found.lengths.max()) / 2 + REACH
    heights = np.arange(-half, half + STEP / 2, STEP)
    ways = _ways(frame)
    begin = max(found.size / 2 - LOOK, 0.1 * found.size / 2) if inside else found.size / 2 + LOOK
    middle = found.places.mean(axis=0)
    starts = (middle + heights[:, None] * frame[2])[:, None] + begin * ways[None]
    sense = 1.0 if inside else -1.0
    looks = np.tile(sense * ways, (len(heights), 1))
    gone, met = (ask(starts.reshape(-1, 3), looks) for ask in (rays.distances, rays.facets))
    meets = (met >= 0) & ((mesh.normals[met] * looks).sum(axis=1) < MEETS)  # not from within, not along a face
    radii = np.where(meets, begin + sense * gone, np.nan).reshape(len(heights), -1)
    radii = np.where(np.abs(radii - found.size / 2) < LOOK, radii, np.nan)
    there = np.isfinite(radii).sum(axis=1) >= AROUND / 2
    out = np.full(len(heights), np.nan)
    out[there] = np.nanmedian(radii[there], axis=1)
    return heights, out


def _bead(heights: Array, out: Array, found: Feature) -> tuple[int, int]:
    """The first and the last look at the bead nearest to the wall's middle. Raises InputError."""
    stands = np.nan_to_num(out, nan=0.0) > LEAST
    edges = np.flatnonzero(np.diff(np.r_[False, stands, False].astype(int)))
    runs = [(a, b - 1) for a, b in zip(edges[::2], edges[1::2], strict=True)]
    runs = [(a, b) for a, b in runs if heights[b] - heights[a] <= LONGEST]
    half = float(found.lengths.max()) / 2
    beside = [r for r in runs if min(abs(heights[r[0]] - half), abs(heights[r[1]] + half)) < 1.0 + 2 * STEP]
    if not beside:
        raise _none("No bead stands on this wall.")
    return min(beside, key=lambda r: float(-np.max(out[r[0] : r[1] + 1])))


def _slope(heights: Array, out: Array, edge: int, crest: int) -> float:
    """Degrees between the axis and the line from a bead's foot to its crest."""
    rise, run = float(out[crest]), abs(float(heights[crest] - heights[edge])) + STEP / 2
    top = out[min(edge, crest) : max(edge, crest) + 1]
    flat = STEP * max(int((top > 0.98 * rise).sum()) - 1, 0)  # a crest may be a short cylinder
    return float(np.degrees(np.arctan2(rise, max(run - flat, STEP))))


def _wall(rays: RayScene, found: Feature, frame: Array, inside: bool, middle: Array) -> float:
    """How thick the wall is behind the round face. Raises InputError where it is solid."""
    ways = _ways(frame)
    sense = 1.0 if inside else -1.0
    flat = found.size / 2 * np.cos(np.pi / found.sides.min())  # nearest to the axis that its face comes
    begin = found.size / 2 if inside else flat
    gone = rays.distances(middle + (begin + sense * 4 * rays.step) * ways, sense * ways)
    gone = gone[np.isfinite(gone)]
    wall = float(np.median(gone)) + (begin - flat if inside else found.size / 2 - flat) if len(gone) else np.inf
    if not wall < STOUT * found.size:
        raise _none("Its wall is too stout to give: what snaps here is its mate.")
    return wall
