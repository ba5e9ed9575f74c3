"""Meshes as bytes: for the store (double precision) and for the page (single precision). Little endian.

Both begin with four letters, the number of vertices and the number of facets (uint32). ``HWS1``: vertices (n, 3)
float64, facets (m, 3) int32, and, where the file named exact surfaces, the surface of each facet (m,) int32 and
their list as JSON. ``HWV2``: vertices (n, 3) float32, facets (m, 3) uint32, the face of each facet and the wide face
(m,) int32 each, features (m,) int16. ``HWL1``, the outlines of a standing part: three counts instead (layers, loops,
points), where each layer's loops start (layers + 1,) and where each loop starts (loops + 1,) uint32, points (p, 2)
float32, mm from the part's middle. ``HWF1``, a field over the part: cells along x, y, z and cases (uint32), the least
corner and a cell's side (4,) float32 mm, the greatest value of each case (cases,) float32, then each case's cells
(z, y, x) uint8, 255 for that value.
"""

import io
import json
from dataclasses import asdict

import numpy as np
import shapely

from hewel_engine.geometry.features import Bore, find_bores
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.patches import Faces, find_faces
from hewel_engine.geometry.rays import RayScene
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.geometry.surfaces import Surface, Surfaces
from hewel_engine.geometry.voxels import Grid
from hewel_engine.plates.batch import Copy, Mode
from hewel_engine.plates.curve import Laid
from hewel_engine.plates.nesting import Item
from hewel_engine.printing.weld import BondTable, Layers

SHOWN = 0.02
"""mm: outlines for the page stray no further than this."""


def _head(mark: bytes, mesh: Mesh) -> bytes:
    return mark + np.array([len(mesh.vertices), len(mesh.faces)], "<u4").tobytes()


def pack_solid(mesh: Mesh, surfaces: Surfaces | None = None) -> bytes:
    solid = _head(b"HWS1", mesh) + mesh.vertices.astype("<f8").tobytes() + mesh.faces.astype("<i4").tobytes()
    if surfaces is None:
        return solid
    result = json.dumps([asdict(s) for s in surfaces.list]).encode()
    return solid + surfaces.of_facet.astype("<i4").tobytes() + result


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
    result = json.loads(data[start + 4 * int(m) :])
    rows = [Surface(t["kind"], tuple(t["origin"]), tuple(t["axis"]), t["radius"]) for t in result]
    return Surfaces(rows, np.frombuffer(data, "<i4", int(m), start).astype(np.int32))


def pack_view(mesh: Mesh, faces: Faces | None = None, features: np.ndarray | None = None) -> bytes:
    """For drawing; without ``faces`` (a ghost that nobody points at) every facet is of face 0."""
    none = np.zeros(len(mesh.faces), "<i4")
    face, wide = (none, none) if faces is None else (faces.face, faces.wide)
    marks = none if features is None else features
    return (
        _head(b"HWV2", mesh)
        + mesh.vertices.astype("<f4").tobytes()
        + mesh.faces.astype("<u4").tobytes()
        + face.astype("<i4").tobytes()
        + wide.astype("<i4").tobytes()
        + marks.astype("<i2").tobytes()
    )


def pack_outlines(stack: LayerStack) -> bytes:
    """Every layer's outline, as exactly as a page can show it."""
    layers, loops, points = [0], [0], []
    for k in range(stack.count):
        for loop in stack.plan(k).simplify(SHOWN).to_polygons():
            points.append(loop)
            loops.append(loops[-1] + len(loop))
        layers.append(len(loops) - 1)
    xy = np.concatenate(points) if points else np.zeros((0, 2))
    head = np.array([stack.count, len(loops) - 1, len(xy), *layers, *loops], "<u4")
    return b"HWL1" + head.tobytes() + xy.astype("<f4").tobytes()


def unpack_bores(view: bytes, result: list[dict]) -> list[Bore]:
    """The bores of a part, from what its facts tell of them and the features of a packed view."""
    n, m = (int(x) for x in np.frombuffer(view, "<u4", 2, 4))
    kept_faces = 8 * m if view[:4] == b"HWV2" else 0
    feature = np.frombuffer(view, "<i2", m, 12 + 12 * n + 12 * m + kept_faces)
    return [
        Bore(
            np.array(b["centre_mm"]),
            np.array(b["axis"]),
            b["diameter_mm"],
            b["depth_mm"],
            b["through"],
            np.flatnonzero(feature == i),
        )
        for i, b in enumerate(result, start=1)
    ]


def bores_of(mesh: Mesh, rays: RayScene, solid: bytes, view: bytes, result: list[dict] | None) -> list[Bore]:
    """The bores of a stored part: as its facts tell them, or looked for where nobody has yet (``result`` None)."""
    return find_bores(mesh, rays, unpack_surfaces(solid)) if result is None else unpack_bores(view, result)


def unpack_faces(view: bytes, mesh: Mesh) -> Faces:
    """The faces of a packed view, without looking for them again unless it was packed before faces were kept."""
    if view[:4] != b"HWV2":
        return find_faces(mesh)
    n, m = (int(x) for x in np.frombuffer(view, "<u4", 2, 4))
    start = 12 + 12 * n + 12 * m
    face, wide = (np.frombuffer(view, "<i4", m, start + 4 * m * i).astype(np.int32) for i in (0, 1))
    return Faces(face, wide)


def pack_field(grid: Grid, values: np.ndarray) -> bytes:
    """``values`` (cases, z, y, x), none below 0."""
    most = np.maximum(values.reshape(len(values), -1).max(axis=1, initial=0.0), 1e-9)
    cells = np.ceil(254.5 * values / most[:, None, None, None]).clip(0, 255).astype(np.uint8)
    counts = np.array([*grid.shape[::-1], len(values)], "<u4")
    where = np.array([*grid.origin, grid.size], "<f4")
    return b"HWF1" + counts.tobytes() + where.tobytes() + most.astype("<f4").tobytes() + cells.tobytes()


_LAID = ("extruding", "extruded", "area", "perimeter", "filled", "waits", "value", "low", "together", "sequential")


def pack_batches(made: Laid) -> bytes:
    """What the batches of a part are read from, beside its outline and where copies lie; single precision."""
    layers, bonds = made.copy.layers, made.bonds
    columns = (
        made.copy.extruding, made.copy.extruded, layers.area, layers.perimeter, layers.filled,
        bonds.waits, bonds.value, bonds.low,
        made.travel["together"], made.travel["sequential"],
    )  # fmt: skip
    out = io.BytesIO()
    named = {name: np.asarray(column, np.float32) for name, column in zip(_LAID, columns, strict=True)}
    np.savez_compressed(out, pitch=np.array(layers.pitch), **named)
    return out.getvalue()


def unpack_batches(data: bytes, outline: shapely.Geometry, items: dict[Mode, list[Item]]) -> Laid:
    with np.load(io.BytesIO(data)) as packed:
        pitch = float(packed["pitch"])
        columns = {name: packed[name].astype(float) for name in _LAID}
    layers = Layers(columns["area"], columns["perimeter"], columns["filled"], pitch)
    copy = Copy(columns["extruding"], columns["extruded"], layers)
    bonds = BondTable(columns["waits"], columns["value"], columns["low"])
    travel: dict[Mode, np.ndarray] = {"together": columns["together"], "sequential": columns["sequential"]}
    return Laid(outline, copy, bonds, items, travel)
