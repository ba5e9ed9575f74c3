"""Meshes as bytes: for the store (double precision) and for the page (single precision). Little endian.

Both begin with four letters, the number of vertices and the number of facets (uint32). ``HWS1``: vertices (n, 3)
float64, facets (m, 3) int32, and, where the file named exact surfaces, the surface of each facet (m,) int32 and
their list as JSON. ``HWV1``: vertices (n, 3) float32, facets (m, 3) uint32, features (m,) int16.
"""

import json
from dataclasses import asdict

import numpy as np

from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.surfaces import Surface, Surfaces


def _head(mark: bytes, mesh: Mesh) -> bytes:
    return mark + np.array([len(mesh.vertices), len(mesh.faces)], "<u4").tobytes()


def pack_solid(mesh: Mesh, surfaces: Surfaces | None = None) -> bytes:
    solid = _head(b"HWS1", mesh) + mesh.vertices.astype("<f8").tobytes() + mesh.faces.astype("<i4").tobytes()
    if surfaces is None:
        return solid
    told = json.dumps([asdict(s) for s in surfaces.list]).encode()
    return solid + surfaces.of_facet.astype("<i4").tobytes() + told


def unpack_solid(data: bytes) -> Mesh:
    if data[:4] != b"HWS1":
        raise ValueError("not a stored solid")
    n, m = np.frombuffer(data, "<u4", 2, 4)
    vertices = np.frombuffer(data, "<f8", 3 * n, 12).reshape(n, 3)
    faces = np.frombuffer(data, "<i4", 3 * m, 12 + 24 * n).reshape(m, 3)
    return Mesh(vertices.astype(float), faces.astype(np.int32))


def unpack_surfaces(data: bytes) -> Surfaces | None:
    """The exact surfaces of a stored solid; None where its file named none."""
    n, m = np.frombuffer(data, "<u4", 2, 4)
    start = 12 + 24 * int(n) + 12 * int(m)
    if len(data) == start:
        return None
    told = json.loads(data[start + 4 * int(m) :])
    rows = [Surface(t["kind"], tuple(t["origin"]), tuple(t["axis"]), t["radius"]) for t in told]
    return Surfaces(rows, np.frombuffer(data, "<i4", int(m), start).astype(np.int32))


def pack_view(mesh: Mesh, features: np.ndarray | None = None) -> bytes:
    marks = np.zeros(len(mesh.faces), "<i2") if features is None else features.astype("<i2")
    return (
        _head(b"HWV1", mesh)
        + mesh.vertices.astype("<f4").tobytes()
        + mesh.faces.astype("<u4").tobytes()
        + marks.tobytes()
    )
