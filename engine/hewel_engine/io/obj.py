"""OBJ: vertices and faces of any number of corners; everything else in the file is passed over."""

import io
from array import array
from collections.abc import Iterator

import numpy as np

from hewel_engine.errors import InputError
from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.polygons import triangulated
from hewel_engine.tolerances import MAX_TRIANGLES, MAX_VERTICES

MOST_CORNERS = 2000  # of one face: cutting ears costs the square of it


def looks_like_obj(data: bytes) -> bool:
    """Whether the first lines that are no comment are words of the format."""
    known = {b"v", b"vn", b"vt", b"f", b"o", b"g", b"s", b"mtllib", b"usemtl", b"l", b"p"}
    rows = [w for w in (line.split() for line in data[:20000].splitlines()[:200]) if w and not w[0].startswith(b"#")]
    return bool(rows) and rows[0][0] in known and any(w[0] == b"v" and len(w) >= 4 for w in rows)


def _lines(data: bytes) -> Iterator[bytes]:
    """Line after line, a backslash joining two; the whole is never copied."""
    held = b""
    for line in io.BytesIO(data):
        bare = line.rstrip(b"\r\n")
        if bare.endswith(b"\\"):
            held += bare[:-1] + b" "
            continue
        yield held + bare
        held = b""
    if held:
        yield held


def read_obj(data: bytes) -> Array:
    """Triangles (m, 3, 3) in the file's own numbers. Nothing that the file names outside itself is opened."""
    vertices = array("d")
    loops: list[list[int]] = []
    count = 0
    for number, line in enumerate(_lines(data), start=1):
        words = line.split()
        if not words:
            continue
        try:
            if words[0] == b"v":
                vertices.extend((float(words[1]), float(words[2]), float(words[3])))
                if len(vertices) > 3 * MAX_VERTICES:
                    raise InputError(
                        "too_large",
                        f"The file holds more than {MAX_VERTICES:,} vertices, more than its triangles could use.",
                        "Export it with a coarser tolerance.",
                    )
            elif words[0] == b"f":
                loop = [int(w.partition(b"/")[0]) for w in words[1:]]
                # A negative number counts back from the newest vertex.
                loops.append([i - 1 if i > 0 else len(vertices) // 3 + i for i in loop])
                count += max(0, len(loop) - 2)
                if count > MAX_TRIANGLES or len(loop) > MOST_CORNERS:
                    raise InputError(
                        "too_large",
                        f"The part has over {MAX_TRIANGLES:,} triangles, or a face of over {MOST_CORNERS:,} corners.",
                        "Export it with a coarser tolerance, as triangles.",
                    )
        except (ValueError, IndexError):
            raise InputError("truncated", f"Line {number} cannot be read.", "Copy or export the file again.") from None
    if not loops:
        raise InputError("no_triangles", "The file holds no faces.", "Export the part as a solid body.")
    points = np.frombuffer(vertices).reshape(-1, 3)
    low, high = min(map(min, filter(None, loops)), default=0), max(map(max, filter(None, loops)), default=-1)
    if low < 0 or high >= len(points):
        raise InputError(
            "bad_reference", "A face names a vertex that the file does not hold.", "Copy or export the file again."
        )
    if not np.isfinite(points).all():
        raise InputError("non_finite", "Some coordinates are not numbers.", "Export the part again.")
    return points[triangulated(points, loops)]
