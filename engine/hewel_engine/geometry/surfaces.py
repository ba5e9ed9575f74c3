"""The exact surfaces that a file names for its facets: planes and cylinders, kept beside the mesh."""

from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from hewel_engine.geometry.mesh import Array, Mesh


@dataclass(frozen=True)
class Surface:
    """``kind`` is plane, cylinder or other; ``axis`` is the plane's normal or the cylinder's axis, a unit vector."""

    kind: str
    origin: tuple[float, float, float] = (0.0, 0.0, 0.0)
    axis: tuple[float, float, float] = (0.0, 0.0, 1.0)
    radius: float = 0.0
    """mm; 0 but for a cylinder."""


@dataclass(frozen=True)
class Surfaces:
    """``of_facet`` (m,) int32: which of ``list`` a facet lies on, −1 where the file says nothing."""

    list: list[Surface]
    of_facet: np.ndarray

    def facets_of(self, kind: str) -> np.ndarray:
        """(m,) bool: facets on a surface of this kind."""
        named = np.array([s.kind == kind for s in self.list] + [False])
        return named[self.of_facet]

    @property
    def named(self) -> np.ndarray:
        """(m,) bool: facets of which the file says what they lie on."""
        return self.of_facet >= 0

    def carried_over(self, before: Array, after: Mesh) -> "Surfaces":
        """The same knowledge for the facets of ``after``, which was mended from the triangles ``before`` (k, 3, 3).

        A facet is known again by its centroid; one that mending made is told nothing of.
        """
        tree = cKDTree(before.mean(axis=1))
        distance, nearest = tree.query(after.centroids, distance_upper_bound=max(1e-6 * after.diagonal, 1e-9))
        known = np.isfinite(distance)
        out = np.full(len(after.faces), -1, np.int32)
        out[known] = self.of_facet[nearest[known]]
        return Surfaces(self.list, out)
