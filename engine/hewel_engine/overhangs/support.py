"""What a generated support would be: its volume, by rays down from the surface that needs it, and what it scars."""

import numpy as np

from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.rays import RayScene
from hewel_engine.tolerances import CONTACT_BAND, overhang_threshold


def beyond_limit(mesh: Mesh, up: Array, limit: float) -> np.ndarray:
    """(m,) bool: facets steeper than ``limit`` degrees from the vertical that do not lie on the plate."""
    floor = float(mesh.extents(up[None])[0][0])
    out = mesh.normals @ up < overhang_threshold(limit)
    steep = np.flatnonzero(out)
    a, b, c = (mesh.vertices @ up)[mesh.faces[steep].T]  # numpy is slow along an axis of three
    out[steep] = np.maximum(np.maximum(a, b), c) - floor > CONTACT_BAND
    return out


def contact_facets(mesh: Mesh, up: Array) -> np.ndarray:
    """Facets that face down with all vertices within CONTACT_BAND of the lowest plane."""
    z = mesh.vertices @ up
    low = z - z[mesh.used].min() <= CONTACT_BAND
    a, b, c = low[mesh.faces.T]
    return np.flatnonzero(a & b & c & (mesh.normals @ up < 0))


def support_spots(mesh: Mesh, up: Array, needs: np.ndarray, points: int = 20000) -> tuple[Array, Array, np.ndarray]:
    """Points (n, 3) spread over the facets ``needs`` (k,), the plan area (n,) mm² that each stands for, and the facet
    (n,) it lies on.

    Every facet is split into like triangles until none is longer than a sixtieth of the part, so that one ray
    from the middle of each is a fair sum.
    """
    if len(needs) == 0:
        return np.zeros((0, 3)), np.zeros(0), needs
    t = mesh.triangles[needs]
    longest = np.linalg.norm(t - np.roll(t, 1, axis=1), axis=2).max(axis=1)
    grain = max(mesh.diagonal / 60, 0.05)
    n = np.clip(np.ceil(longest / grain), 1, 40).astype(int)
    while (n**2).sum() > points and n.max() > 1:
        n = np.maximum(1, (n * 0.8).astype(int))
    spots, plans, facets = [], [], []
    for k in np.unique(n):
        rows = np.flatnonzero(n == k)
        weights = _thirds(k)
        spots.append(np.einsum("sw,rwx->rsx", weights, t[rows]).reshape(-1, 3))
        plans.append((mesh.areas[needs[rows]] * -(mesh.normals[needs[rows]] @ up) / k**2).repeat(len(weights)))
        facets.append(needs[rows].repeat(len(weights)))
    return np.concatenate(spots), np.concatenate(plans), np.concatenate(facets)


def _thirds(k: int) -> Array:
    """(k², 3) barycentric middles of a triangle split into k² like ones."""
    out = []
    for i in range(k):
        for j in range(k - i):
            out.append((i + 1 / 3, j + 1 / 3))
            if i + j < k - 1:
                out.append((i + 2 / 3, j + 2 / 3))
    a = np.array(out) / k
    return np.c_[a, 1 - a.sum(axis=1)]


class Drops:
    """How far the surface beyond the limit stands above the plate or the part below it, spot by spot."""

    def __init__(self, mesh: Mesh, rays: RayScene, up: Array, limit: float):
        self.rays, self.up = rays, up
        self.beyond = beyond_limit(mesh, up, limit)
        """(m,) bool: the facets past the limit."""
        spots, self.plan, self.facet = support_spots(mesh, up, np.flatnonzero(self.beyond))
        plate = spots @ up - float(mesh.extents(up[None])[0][0])
        gap = rays.distances(spots - rays.step * up, -up) + rays.step
        self.on_part = gap < plate - 2 * CONTACT_BAND
        self.drop = np.minimum(gap, plate)

    def below(self, point: Array, height: float) -> tuple[float, bool]:
        """How far a point ``height`` above the plate stands above what is below it, and whether that is the part."""
        gap = float(self.rays.distances((point - self.rays.step * self.up)[None], -self.up)[0]) + self.rays.step
        return min(gap, height), gap < height - 2 * CONTACT_BAND

    def volume(self, rows: np.ndarray = slice(None)) -> float:
        """Support volume (mm³): plan area × drop."""
        return float((self.plan[rows] * self.drop[rows]).sum())

    def landed(self, rows: np.ndarray = slice(None)) -> float:
        """Area (mm²) of the part that support stands on."""
        return float(self.plan[rows][self.on_part[rows]].sum())

    def of(self, facets: np.ndarray, count: int) -> np.ndarray:
        """(n,) bool: the spots on these facets, of ``count`` in all."""
        mine = np.zeros(count, bool)
        mine[facets] = True
        return mine[self.facet]
