"""A lighter mesh of the same outward look, for drawing only; no number is ever taken from it."""

import numpy as np

from hewel_engine.geometry.mesh import Mesh


def thinned(mesh: Mesh, most: int = 8000) -> Mesh:
    """``mesh`` itself when it has at most ``most`` facets, else its vertices merged on an ever coarser grid."""
    if len(mesh.faces) <= most:
        return mesh
    cells = 96
    while True:
        size = mesh.diagonal / cells
        key = np.floor((mesh.vertices - mesh.box[0]) / size).astype(np.int64)
        _, where = np.unique(key, axis=0, return_inverse=True)
        where = where.ravel()
        count = np.bincount(where)
        points = np.stack([np.bincount(where, mesh.vertices[:, i]) / count for i in range(3)], axis=1)
        faces = where[mesh.faces]
        a, b, c = faces.T
        faces = faces[(a != b) & (b != c) & (c != a)]
        _, first = np.unique(np.sort(faces, axis=1), axis=0, return_index=True)
        if len(first) <= most or cells <= 8:
            return Mesh(points, faces[first].astype(np.int32))
        cells = int(cells * 0.8)
