"""Faces of a mesh as a person sees them, so that pointing at one facet means its whole face.

Belonging to a face is an equivalence, so every facet simply carries the number of its face: whoever points needs to
grow nothing.
"""

from dataclasses import dataclass

import numpy as np

from hewel_engine.geometry.features import edge_geometry, fit_circle, on_a_circle
from hewel_engine.geometry.frames import unit, upright
from hewel_engine.geometry.mesh import Array, Mesh, components, read_only
from hewel_engine.tolerances import FLAT_EDGE, SMOOTH_EDGE

WIDER = 4.0
"""A plane piece this many times larger than each piece it flows into is a face of its own (a flat beside its fillet),
else one facet of something curved (a side of a many-sided bore)."""


@dataclass(frozen=True, eq=False)
class Faces:
    """``face`` and ``wide`` (m,) int32: the face of each facet, largest first; ``wide`` takes in tangent faces
    smoothly, fillets and all.
    """

    face: np.ndarray
    wide: np.ndarray

    def around(self, facet: int, wide: bool = False) -> np.ndarray:
        """Facets of the face that ``facet`` belongs to."""
        label = self.wide if wide else self.face
        return np.flatnonzero(label == label[facet])


def find_faces(mesh: Mesh) -> Faces:
    pairs, _, _, angle = edge_geometry(mesh)
    count = len(mesh.faces)
    smooth = angle < SMOOTH_EDGE
    n, flat = components(count, pairs[angle < FLAT_EDGE])
    area = np.bincount(flat, mesh.areas, minlength=n)
    flows = flat[pairs[smooth]]
    flows = flows[flows[:, 0] != flows[:, 1]]
    widest = np.zeros(n)
    np.maximum.at(widest, flows[:, 0], area[flows[:, 1]])
    np.maximum.at(widest, flows[:, 1], area[flows[:, 0]])
    own = (area > WIDER * widest)[flat]
    together = (smooth & ~own[pairs].any(axis=1)) | (angle < FLAT_EDGE)
    _, face = components(count, pairs[together])
    _, wide = components(count, pairs[smooth])
    return Faces(_largest_first(face, mesh.areas), _largest_first(wide, mesh.areas))


def _largest_first(label: np.ndarray, areas: Array) -> np.ndarray:
    order = np.argsort(-np.bincount(label, areas), kind="stable")
    place = np.empty(len(order), np.int32)
    place[order] = np.arange(len(order))
    return read_only(place[label])


@dataclass(frozen=True)
class Round:
    """A cylinder that some facets lie on: a point of its axis midway along them, radius and half length in mm."""

    point: Array
    axis: Array
    radius: float
    half: float
    bore: bool
    """Material outside, so that a pin goes in; else a pin itself."""


SOME = 1000
"""Facets of a large face that are asked first whether they lie round one axis at all."""


def _no_one_axis(mesh: Mesh, facets: np.ndarray) -> bool:
    """Whether these facets cannot all run along one axis."""
    n = mesh.normals[facets]
    return bool(np.linalg.eigvalsh(n.T @ n / len(n))[0] > 1e-3)


LEAST_CORNERS = 10
"""Corners of a round face from which on a circle is told by them alone."""


def _corners(mesh: Mesh, facets: np.ndarray) -> np.ndarray:
    """Vertices at which facets of different planes meet."""
    rows, ids = np.repeat(mesh.normals[facets], 3, axis=0), mesh.faces[facets].ravel()
    numbers, at = np.unique(ids, return_inverse=True)
    first = np.zeros(len(numbers), int)
    first[at[::-1]] = np.arange(len(ids))[::-1]
    bent = (rows * rows[first[at]]).sum(axis=1) < np.cos(np.radians(FLAT_EDGE))
    return numbers[np.bincount(at, bent, minlength=len(numbers)) > 0]


def round_of(mesh: Mesh, facets: np.ndarray) -> Round | None:
    """The cylinder that all of ``facets`` lie on; None where there is no such one. A quarter turn at least."""
    if len(facets) > 2 * SOME and _no_one_axis(mesh, facets[:: len(facets) // SOME]):
        return None
    n, a = mesh.normals[facets], mesh.areas[facets]
    values, vectors = np.linalg.eigh((n * (a / a.sum())[:, None]).T @ n)
    axis = unit(vectors[:, 0])
    if values[0] > 1e-4 or values[1] < 0.05 or np.abs(n @ axis).max() > 0.03:
        return None
    axis = axis * (1 if axis @ [1.0, 1e-3, 1e-6] >= 0 else -1)
    frame = upright(axis)
    points = mesh.vertices[np.unique(mesh.faces[facets])] @ frame.T
    centre, radius, stray = fit_circle(points[:, :2])
    if not on_a_circle(stray, radius):  # unless some lie on its chords, where edges of other faces end in its rim
        corners = mesh.vertices[_corners(mesh, facets)] @ frame.T
        if len(corners) < LEAST_CORNERS:
            return None
        centre, radius, stray = fit_circle(corners[:, :2])
        out = np.linalg.norm(points[:, :2] - centre, axis=1)
        if not on_a_circle(stray, radius) or not on_a_circle(max(out.max() - radius, 0.0), radius):
            return None
    along = points[:, 2]
    middle = frame.T @ np.array([*centre, (along.min() + along.max()) / 2])
    outward = mesh.centroids[facets] - middle
    outward -= np.outer(outward @ axis, axis)
    return Round(middle, axis, float(radius), float(np.ptp(along)) / 2, bool((a * (outward * n).sum(axis=1)).sum() < 0))
