"""STEP: read by a library in a process of its own, which may fail without harm; its surfaces are kept.

The library answers with a binary glTF: triangles in metres, and for every triangle the face it belongs to, with the
face's kind and measures in an extension.
"""

import json
import struct
import subprocess
import tempfile
from pathlib import Path

import numpy as np

from hewel_engine.errors import InputError
from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.surfaces import Surface, Surfaces
from hewel_engine.io.apart import OUT_OF_MEMORY, run_apart
from hewel_engine.tolerances import MAX_TRIANGLES

MM = 1000.0
SECONDS = 120
MEMORY_BASE, MEMORY_PER_BYTE = 700 * 2**20, 12
"""What the reading process may hold: a small file that lies stays under 1 GB, a large one gets in proportion."""
CHORD_MM, TURN_RAD = 0.01, 0.15
"""How far triangles may leave the true surface, and how far two of them may turn against each other."""

_COMPONENT = {5121: "<u1", 5123: "<u2", 5125: "<u4", 5126: "<f4"}
_WIDTH = {"SCALAR": 1, "VEC3": 3}
SOLID_WORDS = (b"_FACE", b"_SHELL", b"_BREP", b"TESSELLATED")
"""One of these is in every file that holds a surface; the others need not be given to the library."""
EXTENSION = "TM_brep_faces"


def looks_like_step(data: bytes) -> bool:
    return data[:400].lstrip().lower().startswith(b"iso-10303-21")


def read_step(data: bytes) -> tuple[Array, Surfaces]:
    """Triangles (m, 3, 3) in mm and the surfaces they lie on. Raises InputError when nothing solid is in the file."""
    if b"END-ISO-10303-21" not in data[-4096:].upper():
        raise InputError("truncated", "The STEP file breaks off before its end.", "Copy or export it again.")
    if not any(word in data for word in SOLID_WORDS):
        raise _no_solid()
    return _from_glb(_read_apart(data))


def _read_apart(data: bytes) -> bytes:
    """The library's answer, from a process that is ended when it takes too long or too much."""
    with tempfile.TemporaryDirectory(prefix="hewel-step-") as folder:
        source, answer = Path(folder) / "in.step", Path(folder) / "out.glb"
        source.write_bytes(data)
        memory = MEMORY_BASE + MEMORY_PER_BYTE * len(data)
        words = (source, answer, str(CHORD_MM), str(TURN_RAD))
        try:
            ended = run_apart("step_apart.py", *words, seconds=SECONDS, memory=memory)
        except subprocess.TimeoutExpired:
            raise InputError(
                "too_large", f"Reading the STEP file took more than {SECONDS} s.", "Export one part of it, or a mesh."
            ) from None
        if ended == 0 and answer.exists() and answer.stat().st_size > 0:
            return answer.read_bytes()
    if ended == OUT_OF_MEMORY:
        raise InputError(
            "too_large", "The STEP file needs more memory than reading may use.", "Export one part of it, or a mesh."
        )
    raise _no_solid()


def _no_solid() -> InputError:
    return InputError(
        "no_triangles",
        "The STEP file holds no solid that can be read.",
        "Export the part as a solid body (AP203, AP214 or AP242), not as curves or a drawing.",
    )


def _from_glb(glb: bytes) -> tuple[Array, Surfaces]:
    length = struct.unpack_from("<I", glb, 12)[0]
    scene, blob = json.loads(glb[20 : 20 + length]), memoryview(glb)[28 + length :]
    triangles: list[Array] = []
    surfaces: list[Surface] = []
    labels: list[np.ndarray] = []
    count = 0
    for mesh, place in _placed(scene):
        for part in scene["meshes"][mesh]["primitives"]:
            if part.get("mode", 4) != 4:
                continue
            points = _column(scene, blob, part["attributes"]["POSITION"]).reshape(-1, 3).astype(float)
            corners = _column(scene, blob, part["indices"]).reshape(-1, 3).astype(np.int64)
            count += len(corners)
            if count > MAX_TRIANGLES:
                raise InputError(
                    "too_large",
                    f"The part becomes more than {MAX_TRIANGLES:,} triangles, the most that is read.",
                    "Export fewer bodies, or a mesh with a coarser tolerance.",
                )
            world = (points @ place[:3, :3].T + place[:3, 3]) * MM
            triangles.append(world[corners])
            extension = part.get("extensions", {}).get(EXTENSION)
            label = np.full(len(corners), -1, np.int64)
            if extension:
                label = _column(scene, blob, extension["faceIndices"]).astype(np.int64)
                # Some entries may be empty.
                known = [
                    f for f in extension.get("faces") or [] if f and "face_index" in f
                ]  # some entries may be empty
                order = {f["face_index"]: len(surfaces) + i for i, f in enumerate(known)}
                surfaces += [_surface(f, place) for f in known]
                label = np.array([order.get(int(i), -1) for i in range(label.max(initial=-1) + 1)] + [-1])[label]
            labels.append(label)
    if not triangles:
        raise InputError("no_triangles", "The STEP file holds no solid.", "Export the part as a solid body.")
    return np.concatenate(triangles), Surfaces(surfaces, np.concatenate(labels).astype(np.int32))


def _placed(scene: dict) -> list[tuple[int, Array]]:
    """Every use of a mesh with its 4 × 4 place in the file's frame, metres."""
    out: list[tuple[int, Array]] = []
    stack = [(node, np.eye(4)) for node in scene["scenes"][scene.get("scene", 0)]["nodes"]]
    while stack:
        number, above = stack.pop()
        node = scene["nodes"][number]
        here = above @ _matrix(node)
        if "mesh" in node:
            out.append((node["mesh"], here))
        stack += [(child, here) for child in node.get("children", [])]
    return out


def _matrix(node: dict) -> Array:
    if "matrix" in node:
        return np.array(node["matrix"], float).reshape(4, 4).T
    m = np.eye(4)
    x, y, z, w = node.get("rotation", (0, 0, 0, 1))
    m[:3, :3] = [
        [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
        [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
        [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
    ]
    m[:3, :3] *= node.get("scale", (1, 1, 1))
    m[:3, 3] = node.get("translation", (0, 0, 0))
    return m


def _column(scene: dict, blob: memoryview, accessor: int) -> np.ndarray:
    a = scene["accessors"][accessor]
    view = scene["bufferViews"][a["bufferView"]]
    kind, width = np.dtype(_COMPONENT[a["componentType"]]), _WIDTH[a["type"]]
    start = view.get("byteOffset", 0) + a.get("byteOffset", 0)
    return np.frombuffer(blob, kind, a["count"] * width, start)


def _surface(face: dict, place: Array) -> Surface:
    """A face of the library's answer, in mm and in the file's frame."""
    kind = face.get("type")
    along = face.get({"plane": "normal", "cylinder": "axis"}.get(kind, ""))
    if along is None or face.get("origin") is None or not np.any(along):
        return Surface("other")
    turn = place[:3, :3]
    axis = turn @ np.array(along, float)
    scale = float(np.cbrt(abs(np.linalg.det(turn))))
    origin = (turn @ np.array(face["origin"], float) + place[:3, 3]) * MM
    axis /= np.linalg.norm(axis)
    return Surface(kind, tuple(origin), tuple(axis), face.get("radius", 0.0) * scale * MM)
