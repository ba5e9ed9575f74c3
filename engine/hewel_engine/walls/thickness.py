"""How thick a part is at every facet: straight through, and by the largest ball inside that touches the facet. mm.

A reading counts only where the two faces are within 30° of antiparallel, and not between two faces that taper to a
sharp convex edge: there the thickness falls to nothing, and that is the edge, no wall.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from manifold3d import Error, Manifold, Mesh64

from hewel_engine.geometry.features import edge_geometry, rises
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.patches import find_faces
from hewel_engine.geometry.rays import RayScene
from hewel_engine.walls.balls import OPPOSED, Tree

SHARP = 90.0
"""Degrees between the normals of two faces from which on the convex edge between them is one that they taper to."""
PIECES = 60
"""Pieces that a large facet is divided into along the part's diagonal, so that a thickness that varies is seen."""
MOST_FACETS = 250_000
"""Of the divided part; past that it is divided more coarsely."""


@dataclass(frozen=True, eq=False)
class Thickness:
    """Readings of every facet of ``mesh``, the part with its large facets divided."""

    mesh: Mesh
    source: np.ndarray
    """(m,) the facet of the part that each is a piece of."""
    face: np.ndarray
    """(k,) the face that every facet of the part belongs to."""
    through: Array
    """(m,) mm straight through the material; inf where nothing is met."""
    ball: Array
    """(m,) mm, diameter of the largest ball that touches the facet; what lies beside and not opposite is left out."""
    opposite: np.ndarray
    """(m,) the facet that the ball touches on the other side; −1 where none."""
    counts: np.ndarray
    """(m,) whether the reading is that of a wall."""

    def at_share(self, facets: np.ndarray, *shares: float) -> list[float]:
        """mm that these shares of the area of some facets fall short of."""
        order = facets[np.argsort(self.ball[facets])]
        area = np.cumsum(self.mesh.areas[order])
        at = np.minimum(np.searchsorted(area, np.array(shares) * area[-1]), len(order) - 1)
        return self.ball[order[at]].tolist()

    @cached_property
    def thinnest(self) -> tuple[float, Array] | None:
        """The least thickness (mm) and the middle (3,) of its ball; None where no reading counts."""
        if not self.counts.any():
            return None
        i = int(np.argmin(np.where(self.counts, self.ball, np.inf)))
        return float(self.ball[i]), self.mesh.centroids[i] - self.ball[i] / 2 * self.mesh.normals[i]


def thickness_of(mesh: Mesh) -> Thickness:
    """Readings of a part. No ball is wider than what is met straight through; from there it is shrunk until no facet
    that faces it reaches into it.
    """
    fine, source = _divided(mesh)
    rays = RayScene(fine)
    spot, normal = fine.centroids, fine.normals
    start = spot - rays.step * normal
    through = rays.distances(start, -normal) + rays.step
    met = rays.facets(start, -normal)
    faces = (met >= 0) & ((normal * normal[met]).sum(axis=1) <= OPPOSED)
    # Rays are told in single precision: a little more, so that the facet met says exactly what there is.
    radius, opposite = through * (0.5 + 1e-5), np.where(faces, met, -1)
    Tree.of(fine).shrink(radius, opposite)
    counts = (opposite >= 0) & (fine.areas > 0) & np.isfinite(radius)
    face = find_faces(mesh).face
    counts &= ~_tapering(mesh, face.astype(np.int64), source, opposite)
    return Thickness(fine, source, face, through, 2 * radius, opposite, counts)


def _divided(mesh: Mesh) -> tuple[Mesh, np.ndarray]:
    """The part with no side of a facet much longer than a 60th of its diagonal, and where each piece is from."""
    length = mesh.diagonal / PIECES
    count = len(mesh.faces)
    expected = mesh.areas.sum() / (0.3 * length**2)
    if expected > MOST_FACETS:
        length *= np.sqrt(expected / MOST_FACETS)
    sides = np.linalg.norm(mesh.triangles - np.roll(mesh.triangles, 1, axis=1), axis=2)
    if not mesh.closed or sides.max() <= length:
        return mesh, np.arange(count)
    result = Mesh64(
        vert_properties=np.array(mesh.vertices),
        tri_verts=np.ascontiguousarray(mesh.faces, np.uint64),
        face_id=np.arange(count, dtype=np.uint64),
    )
    solid = Manifold(result)
    if solid.status() != Error.NoError:
        return mesh, np.arange(count)
    out = solid.refine_to_length(length).to_mesh64()
    fine = Mesh(np.asarray(out.vert_properties)[:, :3].copy(), np.asarray(out.tri_verts).astype(np.int32))
    return fine, np.asarray(out.face_id).astype(np.int64)


def _tapering(mesh: Mesh, face: np.ndarray, source: np.ndarray, opposite: np.ndarray) -> np.ndarray:
    """(m,) whether a reading is between two faces that meet at a sharp convex edge."""
    pairs, _, _, angle = edge_geometry(mesh)
    convex = rises(mesh, pairs) < 0
    size = int(face.max()) + 1
    named = lambda a, b: np.minimum(a, b) * size + np.maximum(a, b)
    sharp = pairs[convex & (angle > SHARP)]
    edges = np.unique(named(face[sharp[:, 0]], face[sharp[:, 1]]))
    other = np.where(opposite >= 0, opposite, 0)
    return (opposite >= 0) & np.isin(named(face[source], face[source[other]]), edges)
