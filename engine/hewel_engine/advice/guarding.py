"""What must not be lost of a part while it is changed: the way of a pin through every bore, and protected faces."""

import numpy as np
from manifold3d import Manifold, OpType

from hewel_engine.advice.proposals import Standing
from hewel_engine.edits.solids import mesh_of
from hewel_engine.edits.tools import Tool
from hewel_engine.geometry.features import Bore
from hewel_engine.geometry.frames import upright
from hewel_engine.geometry.mending import winding_numbers
from hewel_engine.geometry.mesh import Array, Mesh

PIN = 0.98
"""Share of a bore's diameter, between its sides, that a pin which must still enter has."""
TOUCHED = 0.02
"""mm off a protected face at which it counts as touched."""


def pins_of(here: Standing) -> Manifold:
    """What every bore keeps free: its own round, and the way of a pin into each open end."""
    size = here.mesh.diagonal
    pins = []
    for bore in here.bores:
        reach = [size, size] if bore.through else [_open_to(here, bore, w, size) for w in (-bore.axis, bore.axis)]
        rod = Manifold.cylinder(bore.depth + sum(reach), PIN * bore.diameter / 2, circular_segments=48)
        start = bore.centre - bore.axis * (bore.depth / 2 + reach[0])
        pins.append(rod.transform(np.c_[upright(bore.axis).T, start]))
    return Manifold.batch_boolean(pins, OpType.Add) if pins else Manifold()


def _open_to(here: Standing, bore: Bore, way: Array, size: float) -> float:
    """How far a pin comes from outside to this end of a blind bore: 0 at its floor."""
    far = here.rays.distances(bore.centre[None], way[None])[0]
    return size if far > bore.depth / 2 + 0.1 else 0.0


def guarded(mesh: Mesh, protected: np.ndarray | None) -> tuple[Array, Array]:
    """(n, 3) points just outside and just inside the ``protected`` facets."""
    rows = np.zeros(0, int) if protected is None else np.asarray(protected, int)
    spots, middle, off = mesh.triangles[rows], mesh.centroids[rows], TOUCHED * mesh.normals[rows]
    places = [middle, *(0.8 * spots[:, i] + 0.2 * middle for i in range(3))]
    return np.concatenate([p + off for p in places]), np.concatenate([p - off for p in places])


def touches(tool: Tool, guarded: tuple[Array, Array]) -> bool:
    """Whether a tool adds material on a protected face, or takes some from under it."""
    for body, points in zip((tool.add, tool.remove), guarded, strict=True):
        if len(points) == 0 or body.is_empty():
            continue
        mesh = mesh_of(body)
        low, high = mesh.box
        near = points[((points >= low) & (points <= high)).all(axis=1)]
        if (winding_numbers(near, mesh.triangles) > 0.5).any():
            return True
    return False
