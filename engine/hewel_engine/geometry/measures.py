"""What a touching face is as a measure: a bore, a pin, two flats across a gap or a body, a level face. Lengths mm."""

from dataclasses import dataclass

import numpy as np

from hewel_engine.geometry.features import find_flats
from hewel_engine.geometry.frames import upright
from hewel_engine.geometry.mesh import Array, Mesh, components
from hewel_engine.geometry.patches import Round, round_of
from hewel_engine.geometry.rays import RayScene

ROUND = ("bore", "pin")
WHOLE_TURN = 300.0
"""Degrees of its circle that a round face takes up at least, so that it can be given another diameter."""
FACING = 0.9998
"""Cosine from which on two flats are parallel."""
ON_CHORD = 1e-4
"""Share of its radius by which a vertex lies inside a circle from which on it is none of its corners."""
LOOKED_AT, QUARTERED = 12, 3
"""Facets of a flat from which it is looked for the one across from it, and how often each is quartered for that."""
MOST_SEE = 0.6
"""Share of the places that see a flat across at which that one is meant."""
ONE_PLANE = 0.01
"""mm within which flats lie in one plane."""


@dataclass(frozen=True, eq=False)
class Feature:
    """``kind``: bore, pin, slot (two flats that face each other), tongue (two that look away from each other), flat or
    other. ``size`` as drawn: across the vertices of a round one, between two flats. ``axis`` of a round one, else the
    outward normal of the first flat. ``places`` (k, 3): the middle of each round face on its axis, or a point of each
    flat; ``lengths`` (k,) along the axis, ``sides`` (k,) flats of each round face (0: not round).
    """

    kind: str
    size: float
    axis: Array | None
    places: Array
    lengths: Array
    sides: np.ndarray
    turn: float = 360.0
    """Degrees of its circle that the least of its round faces takes up."""

    @property
    def is_round(self) -> bool:
        return self.kind in ROUND


def feature_of(mesh: Mesh, rays: RayScene, facets: np.ndarray) -> Feature:
    """The measure that some facets have; of one flat: to the flat that it faces across a gap, else to the one behind
    it.
    """
    pieces = connected(mesh, facets)
    rounds = [round_of(mesh, rows) for rows in pieces]
    first = rounds[0]
    if first is not None and all(r is not None and _alike(first, r) for r in rounds):
        places = np.array([r.point for r in rounds if r])
        looks = [_sides(mesh, rows, r.point, r.axis) for rows, r in zip(pieces, rounds, strict=True) if r]
        size = 2 * float(np.mean([r.radius for r in rounds if r]))
        lengths = np.array([2 * r.half for r in rounds if r])
        sides, turn = np.array([n for n, _ in looks]), min(t for _, t in looks)
        return Feature("bore" if first.bore else "pin", size, first.axis, places, lengths, sides, turn)
    return _flats(mesh, rays, facets)


def _alike(a: Round, b: Round) -> bool:
    beside = np.cross(b.point - a.point, a.axis)
    return bool(
        abs(a.axis @ b.axis) > FACING and abs(a.radius - b.radius) < 0.02 + 0.005 * a.radius
        and np.linalg.norm(beside) < 0.05 and a.bore == b.bore
    )  # fmt: skip


def connected(mesh: Mesh, facets: np.ndarray) -> list[np.ndarray]:
    """The connected pieces of some facets, largest first."""
    facets = np.unique(facets)
    pairs = mesh.edges.pairs[mesh.edges.ids[facets].ravel()]
    at = np.minimum(np.searchsorted(facets, pairs), len(facets) - 1)
    count, label = components(len(facets), at[(facets[at] == pairs).all(axis=1)].astype(np.int32))
    rows = [facets[label == k] for k in range(count)]
    return sorted(rows, key=lambda r: -float(mesh.areas[r].sum()))


def _sides(mesh: Mesh, facets: np.ndarray, point: Array, axis: Array) -> tuple[int, float]:
    """(flats of a whole turn, degrees of the circle that are there) of a round face."""
    off = (mesh.vertices[np.unique(mesh.faces[facets])] - point) @ upright(axis).T
    off = off[np.linalg.norm(off[:, :2], axis=1) > (1 - ON_CHORD) * np.linalg.norm(off[:, :2], axis=1).max()]
    angle = np.sort(np.degrees(np.arctan2(off[:, 1], off[:, 0])) % 360)
    angle = angle[np.r_[True, np.diff(angle) > 0.01]]
    gaps = np.diff(np.r_[angle, angle[0] + 360])
    step = float(np.median(gaps))
    open_ = float(gaps.max())
    return max(round(360 / step), 3), 360.0 if open_ < 1.5 * step + 1 else 360 - open_


def _flats(mesh: Mesh, rays: RayScene, facets: np.ndarray) -> Feature:
    areas = mesh.areas[facets]
    largest = facets[int(np.argmax(areas))]
    normal = mesh.normals[largest]
    along = mesh.normals[facets] @ normal
    other = Feature("other", 0.0, None, np.zeros((0, 3)), np.zeros(0), np.zeros(0, int))
    if np.abs(along).min() < FACING:
        return other
    heights = (mesh.triangles[facets] @ normal).mean(axis=1)
    here, there = along > 0, along < 0
    if np.ptp(heights[here]) > ONE_PLANE or (there.any() and np.ptp(heights[there]) > ONE_PLANE):
        return other
    middle = lambda rows: mesh.centroids[rows[int(np.argmax(mesh.areas[rows]))]]
    one = middle(facets[here])
    if there.any():
        two = middle(facets[there])
        return _between(one, two, normal)
    for way in (1.0, -1.0):
        two = _across(mesh, rays, facets, normal, way)
        if two is not None:
            return _between(one, two, normal)
    return Feature("flat", 0.0, normal, one[None], np.zeros(1), np.zeros(1, int))


def _between(one: Array, two: Array, normal: Array) -> Feature:
    """Two flats; the first looks along ``normal``."""
    apart = float((two - one) @ normal)
    places = np.array([one, two])
    return Feature("slot" if apart > 0 else "tongue", abs(apart), normal, places, np.zeros(2), np.zeros(2, int))


def _across(mesh: Mesh, rays: RayScene, facets: np.ndarray, normal: Array, way: float) -> Array | None:
    """A point of the flat that some facets face (``way`` 1), or that lies behind them (−1): the one that most places
    which see a flat there see.
    """
    at = _spread(mesh, facets) + way * 2 * rays.step * normal
    seen = rays.facets(at, way * normal)
    seen = seen[seen >= 0]
    seen = seen[mesh.normals[seen] @ normal < -FACING]
    if len(seen) == 0:
        return None
    one = mesh.centroids[facets[int(np.argmax(mesh.areas[facets]))]]
    far = (mesh.triangles[seen, 0] - one) @ normal  # a ray's distance is one of single precision, the planes are not
    levels, count = np.unique(np.round(far / ONE_PLANE), return_counts=True)
    most = int(np.argmax(count))
    if count[most] < MOST_SEE * count.sum():
        return None
    return one + float(np.median(far[np.abs(far / ONE_PLANE - levels[most]) < 1])) * normal


def _spread(mesh: Mesh, facets: np.ndarray) -> Array:
    """(k, 3) places all over some facets, by their area: the middles of the quarters of quarters of the larger ones."""
    t = mesh.triangles[facets[np.argsort(-mesh.areas[facets])[:LOOKED_AT]]]
    for _ in range(QUARTERED):
        a, b, c = t[:, 0], t[:, 1], t[:, 2]
        ab, bc, ca = (a + b) / 2, (b + c) / 2, (c + a) / 2
        t = np.concatenate([np.stack(x, axis=1) for x in ((a, ab, ca), (ab, b, bc), (ca, bc, c), (ab, bc, ca))])
    return t.mean(axis=1)


def flat_at(mesh: Mesh, place: Array, normal: Array, within: float = 0.05) -> np.ndarray:
    """The facets of the flat that looks along ``normal`` at a place; empty where there is none."""
    for flat in find_flats(mesh, 0.0):
        level = abs((place - flat.centre) @ flat.normal) < within and flat.normal @ normal > FACING
        if level and _holds(mesh, flat.facets, place, within):
            return flat.facets
    return np.zeros(0, int)


def _holds(mesh: Mesh, facets: np.ndarray, place: Array, within: float) -> bool:
    """Whether a place lies on one of some facets, or nearly."""
    t = mesh.triangles[facets]
    normal = mesh.normals[facets]
    inside = np.ones(len(facets), bool)
    for k in range(3):
        a, b = t[:, k], t[:, (k + 1) % 3]
        side = np.cross(normal, b - a)
        length = np.maximum(np.linalg.norm(side, axis=1), 1e-12)
        inside &= ((place - a) * side).sum(axis=1) / length > -within
    return bool(inside.any())
