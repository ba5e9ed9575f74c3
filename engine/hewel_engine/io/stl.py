"""STL, both kinds, in and out."""

import re

import numpy as np

from hewel_engine.errors import InputError
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.io.single import apart
from hewel_engine.tolerances import MAX_TRIANGLES

RECORD = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("spare", "<u2")])
HEADER = 84


def looks_binary(data: bytes) -> bool:
    """The length that the count announces decides; failing that, whether the beginning is plain text."""
    if len(data) < HEADER:
        return False
    if len(data) == HEADER + 50 * int.from_bytes(data[80:84], "little"):
        return True
    # A text has no control bytes but white space, though its name may be in any script; every record of a binary file
    # ends in two of them.
    named = data[:512].lstrip().lower().startswith(b"solid")
    return any(byte < 9 or 13 < byte < 32 or (byte > 126 and not named) for byte in data[:4096])


def read_stl(data: bytes) -> Array:
    """Triangles (m, 3, 3) in the file's own numbers."""
    return _read_binary(data) if looks_binary(data) else _read_text(data)


def _read_binary(data: bytes) -> Array:
    announced = int.from_bytes(data[80:84], "little")
    held = (len(data) - HEADER) // RECORD.itemsize
    if announced > held:
        raise InputError(
            "truncated",
            f"The file announces {announced:,} triangles and holds {held:,}.",
            "It was cut short on its way here, or its header is wrong. Copy or export it again.",
        )
    if announced == 0:
        raise InputError("no_triangles", "The file holds no triangles.", "Export the part as a solid body.")
    _refuse_too_many(announced)
    with np.errstate(invalid="ignore"):  # what is no number is refused by whoever asked
        return np.frombuffer(data, RECORD, announced, HEADER)["corners"].astype(float)


FACET = re.compile(rb"\bfacet\s+normal", re.IGNORECASE)
VERTEX = re.compile(rb"vertex", re.IGNORECASE)
NUMBERS = re.compile(rb"vertex\s+(\S+)\s+(\S+)\s+(\S+)", re.IGNORECASE)
END = re.compile(rb"endsolid", re.IGNORECASE)


def _read_text(data: bytes) -> Array:
    facets = sum(1 for _ in FACET.finditer(data))
    _refuse_too_many(facets)
    vertices = sum(1 for _ in VERTEX.finditer(data))
    ends = END.search(data) is not None
    if facets == 0 and vertices == 0:
        if not data.lstrip()[:5].lower() == b"solid":
            raise InputError(
                "unknown_format", "This is not an STL file.", "Give an STL, 3MF, STEP, OBJ or PLY file of the part."
            )
        if ends:
            raise InputError("no_triangles", "The file holds no triangles.", "Export the part as a solid body.")
        raise InputError("truncated", "The file breaks off before its first triangle.", "Copy or export it again.")
    try:
        corners = np.fromiter((float(x) for found in NUMBERS.finditer(data) for x in found.groups()), float)
    except ValueError:
        raise InputError(
            "truncated", "Some coordinates in the file are not numbers.", "Copy or export it again."
        ) from None
    readable = len(corners) // 3
    if readable != vertices or vertices != 3 * facets or not ends:
        raise InputError(
            "truncated",
            f"The file breaks off or is damaged: {facets:,} facets with {readable:,} readable corners.",
            "Copy or export it again.",
        )
    return corners.reshape(-1, 3, 3)


def _refuse_too_many(count: int) -> None:
    if count > MAX_TRIANGLES:
        raise InputError(
            "too_large",
            f"The part has {count:,} triangles; {MAX_TRIANGLES:,} is the most that is read.",
            "Export it with a coarser tolerance.",
        )


def write_stl(mesh: Mesh, title: str = "part in millimetres") -> bytes:
    """Binary STL; coordinates are in mm. As closed as ``mesh`` is, also for whoever joins corners that read alike."""
    out = np.zeros(len(mesh.faces), RECORD)
    out["normal"], out["corners"] = mesh.normals, apart(mesh.vertices)[0][mesh.faces]
    head = title.encode("ascii", "replace")[:80].ljust(80)
    if head.lower().startswith(b"solid"):
        head = b"-" + head[:79]
    return head + len(out).to_bytes(4, "little") + out.tobytes()
