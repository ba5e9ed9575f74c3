"""Shooting rays at a part, through the ray library's own array call."""

import numpy as np
from embreex import rtcore_scene
from embreex.mesh_construction import TriangleMesh

from hewel_engine.geometry.mesh import Array, Mesh


class RayScene:
    """The part prepared for rays. Single precision inside, so coordinates are taken from the box centre."""

    def __init__(self, mesh: Mesh):
        self.centre = mesh.box.mean(axis=0)
        self.step = max(1e-5 * mesh.diagonal, 1e-4)
        self._scene = rtcore_scene.EmbreeScene()
        self._keep = TriangleMesh(self._scene, (mesh.triangles - self.centre).astype(np.float32))

    def distances(self, origins: Array, directions: Array) -> Array:
        """(n,) mm from each origin (n, 3) to the first facet along its unit direction; inf where none."""
        if len(origins) == 0:
            return np.zeros(0)
        o = np.ascontiguousarray(origins - self.centre, np.float32)
        d = np.ascontiguousarray(np.broadcast_to(directions, origins.shape), np.float32)
        far = self._scene.run(o, d, query="DISTANCE").astype(float)
        return np.where(far > 1e30, np.inf, far)

    def facets(self, origins: Array, directions: Array) -> np.ndarray:
        """(n,) number of the first facet along each ray; −1 where none."""
        if len(origins) == 0:
            return np.zeros(0, np.int64)
        o = np.ascontiguousarray(origins - self.centre, np.float32)
        d = np.ascontiguousarray(np.broadcast_to(directions, origins.shape), np.float32)
        return self._scene.run(o, d, query="INTERSECT").astype(np.int64)
