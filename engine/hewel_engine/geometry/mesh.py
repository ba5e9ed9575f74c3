"""A triangle mesh and what follows from it directly."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numba import njit
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from scipy.spatial import ConvexHull, QhullError

Array = NDArray[np.float64]


@njit(cache=True, nogil=True, fastmath=True)
def _extents(x, y, z, ups):
    low, high = np.empty(len(ups)), np.empty(len(ups))
    for j in range(len(ups)):
        least, most = 1e300, -1e300
        for i in range(len(x)):
            h = x[i] * ups[j, 0] + y[i] * ups[j, 1] + z[i] * ups[j, 2]
            least = h if h < least else least
            most = h if h > most else most
        low[j], high[j] = least, most
    return low, high


def read_only(array: np.ndarray) -> np.ndarray:
    array.setflags(write=False)
    return array


@dataclass(frozen=True, eq=False)
class Mesh:
    """``vertices`` (n, 3) float64, mm, part frame; ``faces`` (m, 3) int32, counter-clockwise from outside."""

    vertices: Array
    faces: NDArray[np.int32]

    def __post_init__(self):
        object.__setattr__(self, "vertices", read_only(np.ascontiguousarray(self.vertices, np.float64)))
        object.__setattr__(self, "faces", read_only(np.ascontiguousarray(self.faces, np.int32)))

    @cached_property
    def triangles(self) -> Array:
        """(m, 3, 3) mm."""
        return read_only(self.vertices[self.faces])

    @cached_property
    def _cross(self) -> Array:
        t = self.triangles
        return np.cross(t[:, 1] - t[:, 0], t[:, 2] - t[:, 0])

    @cached_property
    def areas(self) -> Array:
        """(m,) mm²."""
        return read_only(0.5 * np.linalg.norm(self._cross, axis=1))

    @cached_property
    def normals(self) -> Array:
        """(m, 3) outward unit normals; zero for a facet without area."""
        length = np.linalg.norm(self._cross, axis=1, keepdims=True)
        return read_only(np.divide(self._cross, length, out=np.zeros_like(self._cross), where=length > 0))

    @cached_property
    def centroids(self) -> Array:
        """(m, 3) mm."""
        return read_only(self.triangles.mean(axis=1))

    @cached_property
    def used(self) -> NDArray[np.intp]:
        """Numbers of the vertices that a facet uses."""
        return read_only(np.flatnonzero(np.bincount(self.faces.ravel(), minlength=len(self.vertices))))

    @cached_property
    def box(self) -> Array:
        """(2, 3) mm: least and greatest corner."""
        points = self.vertices[self.used]
        return read_only(np.array([points.min(axis=0), points.max(axis=0)]))

    @cached_property
    def hull(self) -> ConvexHull | None:
        """The convex hull of the used vertices; None where the part is flat."""
        try:
            return ConvexHull(self.vertices[self.used])
        except QhullError:
            return None

    @cached_property
    def hull_points(self) -> Array:
        """(k, 3) mm: vertices of the convex hull; all used vertices where the part is flat."""
        points = self.vertices[self.used]
        return read_only(points if self.hull is None else points[self.hull.vertices])

    def extents(self, ups: Array) -> tuple[Array, Array]:
        """Least and greatest height (mm) of the part along each unit direction of ``ups`` (d, 3)."""
        x, y, z = np.ascontiguousarray(self.hull_points.T)
        return _extents(x, y, z, np.ascontiguousarray(ups, np.float64))

    @property
    def diagonal(self) -> float:
        return float(np.linalg.norm(self.box[1] - self.box[0]))

    @cached_property
    def _tetrahedra(self) -> Array:
        """(m,) signed volumes of the tetrahedra from the box centre to each facet (divergence theorem)."""
        t = self.triangles - self.box.mean(axis=0)
        return np.einsum("ij,ij->i", t[:, 0], np.cross(t[:, 1], t[:, 2])) / 6.0

    @cached_property
    def volume(self) -> float:
        """mm³; meaningful on a closed mesh only."""
        return float(self._tetrahedra.sum())

    @cached_property
    def centre_of_mass(self) -> Array:
        """(3,) mm, uniform density; the area's centroid where the mesh encloses nothing."""
        if abs(self.volume) < 1e-9 * max(self.diagonal, 1e-9) ** 3:
            return np.average(self.centroids, axis=0, weights=np.maximum(self.areas, 1e-300))
        middle = self.box.mean(axis=0)
        tips = (self.triangles - middle).sum(axis=1) / 4.0
        return middle + (tips * self._tetrahedra[:, None]).sum(axis=0) / self.volume

    @cached_property
    def edges(self) -> "EdgeTable":
        return EdgeTable.of(self.faces)

    @property
    def closed(self) -> bool:
        return self.edges.closed

    def moved(self, rotation: Array, shift: Array | float = 0.0) -> "Mesh":
        """The same solid after ``x → rotation @ x + shift``."""
        return Mesh(self.vertices @ rotation.T + shift, self.faces)


@dataclass(frozen=True, eq=False)
class EdgeTable:
    """Which facets share which edge.

    ``ids`` (m, 3) int32: edge id of side i→i+1 of each facet; a side and its opposite share an id, and no id
    is shared by more than two sides, also where more than two facets meet along one line.
    ``pairs`` (e, 2) int32: the two facets of every id, -1 where the second is missing.
    """

    ids: NDArray[np.int32]
    pairs: NDArray[np.int32]
    unmatched: int
    crowded: int
    """Lines where more than two facets meet."""
    same_way: int
    """Edges whose two facets run along them the same way: their windings disagree."""

    @property
    def closed(self) -> bool:
        return self.unmatched == 0 and self.same_way == 0 and len(self.ids) > 0

    @classmethod
    def of(cls, faces: NDArray[np.int32]) -> "EdgeTable":
        m = len(faces)
        start = faces.reshape(-1).astype(np.int64)
        end = faces[:, [1, 2, 0]].reshape(-1).astype(np.int64)
        forward = start < end
        low, high = np.where(forward, start, end), np.where(forward, end, start)
        key = low * (int(faces.max(initial=0)) + 1) + high
        order = np.lexsort((~forward, key))
        sorted_key = key[order]
        fresh = np.ones(3 * m, bool)
        fresh[1:] = sorted_key[1:] != sorted_key[:-1]
        group = np.cumsum(fresh) - 1
        count = np.bincount(group) if m else np.zeros(0, int)
        crowded = int((count > 2).sum())
        first = np.flatnonzero(fresh)
        way = forward[order]
        n_forward = np.add.reduceat(way.astype(int), first) if m else np.zeros(0, int)
        same_way = int(((count == 2) & (n_forward != 1)).sum())
        # Within a group the forward sides come first: pair the k-th forward with the k-th backward.
        place = np.arange(3 * m) - first[group]
        rank = np.where(way, place, place - n_forward[group])
        if same_way:  # still one edge, so that windings can be traced across it
            two = (count == 2)[group]
            rank = np.where(two, 0, rank)
        slot = group * (int(count.max(initial=1)) + 1) + rank
        _, ids_sorted = np.unique(slot, return_inverse=True)
        ids = np.empty(3 * m, np.int32)
        ids[order] = ids_sorted
        total = int(ids.max(initial=-1)) + 1
        pairs = np.full((total, 2), -1, np.int32)
        facet = (np.arange(3 * m) // 3).astype(np.int32)
        by_id = np.argsort(ids, kind="stable")
        sid = ids[by_id]
        lead = np.ones(3 * m, bool)
        lead[1:] = sid[1:] != sid[:-1]
        pairs[sid[lead], 0] = facet[by_id[lead]]
        pairs[sid[~lead], 1] = facet[by_id[~lead]]
        return cls(
            read_only(ids.reshape(m, 3)),
            read_only(pairs),
            unmatched=int((pairs[:, 1] < 0).sum()),
            crowded=crowded,
            same_way=same_way,
        )

    @cached_property
    def shared(self) -> NDArray[np.int32]:
        """(k, 2) int32: facets that are neighbours."""
        return self.pairs[self.pairs[:, 1] >= 0]


def components(count: int, links: NDArray[np.int32]) -> tuple[int, NDArray[np.int32]]:
    """Connected components of ``count`` items joined by ``links`` (k, 2): how many, and each item's label."""
    graph = coo_matrix((np.ones(len(links), bool), (links[:, 0], links[:, 1])), shape=(count, count))
    return connected_components(graph, directed=False)
