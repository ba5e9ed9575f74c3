"""A hanging piece of surface, seen from below: its facets, the edges that hold it, the edges that are free."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely

from hewel_engine.geometry.mesh import Array, Mesh, components
from hewel_engine.geometry.rays import RayScene
from hewel_engine.tolerances import CONTACT_BAND

LEVEL = 1e-3
"""An edge's neighbour that climbs or falls by less than this share of its width lies level."""
LOOKS = 400
"""Spots of a surface at which its distances and the material above it are measured, about."""


@dataclass(frozen=True, eq=False)
class Underside:
    """Facets ``rows`` of a standing ``mesh`` (z up, the plate at 0) that face down."""

    mesh: Mesh
    rows: np.ndarray

    @cached_property
    def faces(self) -> np.ndarray:
        return self.mesh.faces[self.rows]

    @cached_property
    def _border(self) -> tuple[Array, np.ndarray, Array, np.ndarray]:
        """Segments (k, 2, 3) of its outline; +1 where the surface goes on upward beside it (a free edge), −1 where it
        goes on downward or onto the plate (a held one), 0 where it goes on level; the way out of it (k, 2); and
        whether what is beside it faces down as well (k,).
        """
        mesh, inside = self.mesh, np.zeros(len(self.mesh.faces), bool)
        inside[self.rows] = True
        pair = mesh.edges.pairs[mesh.edges.ids[self.rows]]
        other = np.where(pair[..., 0] == self.rows[:, None], pair[..., 1], pair[..., 0])
        row, side = np.nonzero(~inside[other])
        face, beside = self.faces[row], mesh.faces[other[row, side]]
        start, end = face[np.arange(len(row)), side], face[np.arange(len(row)), (side + 1) % 3]
        tip = beside[np.arange(len(row)), np.argmax((beside != start[:, None]) & (beside != end[:, None]), axis=1)]
        p, q, t = mesh.vertices[start], mesh.vertices[end], mesh.vertices[tip]
        along = (q - p) / np.maximum(np.linalg.norm(q - p, axis=1, keepdims=True), 1e-12)
        off = (t - p) - along * ((t - p) * along).sum(axis=1, keepdims=True)
        climb = off[:, 2] / np.maximum(np.linalg.norm(off, axis=1), 1e-12)
        kind = np.where(climb > LEVEL, 1, np.where(climb < -LEVEL, -1, 0))
        kind[(kind == 0) & (np.maximum(p[:, 2], q[:, 2]) <= CONTACT_BAND)] = -1
        # seen from below a facet that faces down runs clockwise in plan: what is outside lies on the left
        out = np.c_[-along[:, 1], along[:, 0]]
        out /= np.maximum(np.linalg.norm(out, axis=1, keepdims=True), 1e-12)
        return np.stack([p, q], axis=1), kind, out, mesh.normals[other[row, side], 2] < -LEVEL

    @property
    def held(self) -> Array:
        """(k, 2, 3) segments where the wall below holds it."""
        curve, kind, _, _ = self._border
        return curve[kind < 0]

    @property
    def free(self) -> Array:
        curve, kind, _, _ = self._border
        return curve[kind > 0]

    @property
    def blends(self) -> Array:
        """(k, 2, 3) segments where it flows on upward into a surface that hangs less."""
        curve, kind, _, hangs = self._border
        return curve[(kind > 0) & hangs]

    def way_out(self, of_held: bool) -> Array:
        """(k, 2) unit vectors in plan, away from it, of the held or the free segments."""
        _, kind, out, _ = self._border
        return out[kind < 0] if of_held else out[kind > 0]

    @cached_property
    def low(self) -> float:
        return float(self.mesh.vertices[self.faces][:, :, 2].min())

    @cached_property
    def high(self) -> float:
        return float(self.mesh.vertices[self.faces][:, :, 2].max())

    @cached_property
    def plan(self) -> shapely.Geometry:
        """Its outline from above."""
        corners = self.mesh.vertices[self.faces][:, :, :2]
        facets = shapely.polygons(corners)
        try:
            return shapely.coverage_union_all(facets)  # neighbours share their corners to the last bit
        except shapely.GEOSException:  # unless some overlap in plan
            return shapely.union_all(facets)

    @cached_property
    def spots(self) -> Array:
        """(n, 3) points spread over it, edges and corners among them."""
        t = self.mesh.triangles[self.rows]
        area = self.mesh.areas[self.rows]
        share = np.clip(np.sqrt(LOOKS * area / max(area.sum(), 1e-12)), 1, 40).astype(int)
        out = [t.reshape(-1, 3)]
        for k in np.unique(share):
            i, j = np.meshgrid(np.arange(k + 1), np.arange(k + 1), indexing="ij")
            keep = i + j <= k
            a = np.c_[i[keep], j[keep], k - i[keep] - j[keep]] / k
            out.append(np.einsum("sw,rwx->rsx", a, t[share == k]).reshape(-1, 3))
        return np.concatenate(out)

    def nearest(self, curve: Array) -> tuple[Array, Array]:
        """(n,) mm in plan from each spot to the nearest point of ``curve`` (k, 2, 3), and that point's height."""
        if len(curve) == 0:
            return np.full(len(self.spots), np.inf), np.zeros(len(self.spots))
        p, way = curve[:, 0], curve[:, 1] - curve[:, 0]
        size = np.maximum((way[:, :2] ** 2).sum(axis=1), 1e-18)
        to = self.spots[:, None, :2] - p[None, :, :2]
        at = np.clip((to * way[None, :, :2]).sum(axis=2) / size, 0, 1)
        away = np.linalg.norm(to - at[..., None] * way[None, :, :2], axis=2)
        best = away.argmin(axis=1)
        rows = np.arange(len(self.spots))
        return away[rows, best], p[best, 2] + at[rows, best] * way[best, 2]

    @property
    def inner_spots(self) -> Array:
        """(n, 3) the same, drawn in a hair from the outline."""
        middle = self.mesh.centroids[self.rows].mean(axis=0)
        return self.spots + 1e-3 * (middle - self.spots) / max(self.mesh.diagonal, 1.0)

    def stock(self, rays: RayScene) -> Array:
        """(n,) mm of material straight above each spot; inf where none is hit."""
        up = np.array([0, 0, 1.0])
        return rays.distances(self.inner_spots + rays.step * up, up) + rays.step


def joined_undersides(mesh: Mesh, rows: np.ndarray) -> list[Underside]:
    """One for each connected piece of the facets ``rows``."""
    number = np.full(len(mesh.faces), -1)
    number[rows] = np.arange(len(rows))
    links = number[mesh.edges.shared]
    count, label = components(len(rows), links[(links >= 0).all(axis=1)])
    return [Underside(mesh, rows[label == i]) for i in range(count)]
