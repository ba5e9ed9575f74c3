"""Meshes as bytes: for the store (double precision) and for the page (single precision). Little endian.

Both begin with four letters, the number of vertices and the number of facets (uint32). ``HWS1``: vertices (n, 3)
float64, facets (m, 3) int32. ``HWV1``: vertices (n, 3) float32, facets (m, 3) uint32, features (m,) int16.
"""

import numpy as np

from hewel_engine.geometry.mesh import Mesh


def _head(mark: bytes, mesh: Mesh) -> bytes:
    return mark + np.array([len(mesh.vertices), len(mesh.faces)], "<u4").tobytes()


def pack_solid(mesh: Mesh) -> bytes:
    return _head(b"HWS1", mesh) + mesh.vertices.astype("<f8").tobytes() + mesh.faces.astype("<i4").tobytes()


def unpack_solid(data: bytes) -> Mesh:
    if data[:4] != b"HWS1":
        raise ValueError("not a stored solid")
    n, m = np.frombuffer(data, "<u4", 2, 4)
    vertices = np.frombuffer(data, "<f8", 3 * n, 12).reshape(n, 3)
    faces = np.frombuffer(data, "<i4", 3 * m, 12 + 24 * n).reshape(m, 3)
    return Mesh(vertices.astype(float), faces.astype(np.int32))


def pack_view(mesh: Mesh, features: np.ndarray | None = None) -> bytes:
    marks = np.zeros(len(mesh.faces), "<i2") if features is None else features.astype("<i2")
    return (
        _head(b"HWV1", mesh)
        + mesh.vertices.astype("<f4").tobytes()
        + mesh.faces.astype("<u4").tobytes()
        + marks.tobytes()
    )
