"""PLY: ASCII and both binary kinds; vertex positions and faces of any number of corners."""

import io
import itertools
from dataclasses import dataclass, field

import numpy as np

from hewel_engine.errors import InputError
from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.polygons import triangulated
from hewel_engine.tolerances import MAX_TRIANGLES, MAX_VERTICES

KINDS = {
    "char": "i1", "int8": "i1", "uchar": "u1", "uint8": "u1", "short": "i2", "int16": "i2", "ushort": "u2",
    "uint16": "u2", "int": "i4", "int32": "i4", "uint": "u4", "uint32": "u4", "float": "f4", "float32": "f4",
    "double": "f8", "float64": "f8",
}  # fmt: skip
HINT = "Copy or export the file again."


@dataclass
class _Property:
    name: str
    kind: str
    count_kind: str | None = None  # of a list


@dataclass
class _Element:
    name: str
    count: int
    properties: list[_Property] = field(default_factory=list)


def _broken(words: str) -> InputError:
    return InputError("truncated", words, HINT)


def read_ply(data: bytes) -> Array:
    """Triangles (m, 3, 3) in the file's own numbers."""
    kind, elements, body = _header(data)
    names = [e.name for e in elements]
    if "vertex" not in names or "face" not in names:
        raise InputError("no_triangles", "The file holds points but no faces.", "Export the part as a solid body.")
    faces = elements[names.index("face")]
    if faces.count > MAX_TRIANGLES:
        raise InputError(
            "too_large",
            f"The part has {faces.count:,} faces; {MAX_TRIANGLES:,} triangles is the most that is read.",
            "Export it with a coarser tolerance.",
        )
    if sum(e.count * max(1, len(e.properties)) for e in elements) > len(data):
        raise _broken("The header announces more than the file can hold.")
    if any(e.count > MAX_VERTICES for e in elements):
        raise InputError(
            "too_large",
            f"The file announces more than {MAX_VERTICES:,} vertices, more than its triangles could use.",
            "Export it with a coarser tolerance.",
        )
    reader = _text if kind == "ascii" else _binary
    tables = reader(data, body, elements, "<" if kind == "binary_little_endian" else ">")
    vertices, loops = tables
    if len(loops) == 0:
        raise InputError("no_triangles", "The file holds no faces.", "Export the part as a solid body.")
    if not np.isfinite(vertices).all():
        raise InputError("non_finite", "Some coordinates are not numbers.", "Export the part again.")
    cut = loops if isinstance(loops, np.ndarray) else None
    low = cut.min() if cut is not None else min(map(min, filter(len, loops)), default=0)
    high = cut.max() if cut is not None else max(map(max, filter(len, loops)), default=-1)
    if low < 0 or high >= len(vertices):
        raise InputError("bad_reference", "A face names a vertex that the file does not hold.", HINT)
    if cut is None:
        cut = triangulated(vertices, loops)
    if len(cut) > MAX_TRIANGLES:
        raise InputError("too_large", f"The part has {len(cut):,} triangles.", "Export it with a coarser tolerance.")
    return vertices[cut]


def _header(data: bytes) -> tuple[str, list[_Element], int]:
    end = data.find(b"end_header", 0, 100_000)
    stop = data.find(b"\n", end)
    if end < 0 or stop < 0:
        raise _broken("The header does not end.")
    kind, elements = "", []
    for line in data[:end].decode("ascii", "replace").splitlines()[1:]:
        words = line.split()
        try:
            if words[:1] == ["format"]:
                kind = words[1]
            elif words[:1] == ["element"]:
                elements.append(_Element(words[1], int(words[2])))
                if elements[-1].count < 0:
                    raise ValueError
            elif words[:2] == ["property", "list"]:
                elements[-1].properties.append(_Property(words[4], KINDS[words[3]], KINDS[words[2]]))
            elif words[:1] == ["property"]:
                elements[-1].properties.append(_Property(words[2], KINDS[words[1]]))
        except (IndexError, KeyError, ValueError):
            raise _broken(f"The header line {line[:40]!r} cannot be read.") from None
    if kind not in ("ascii", "binary_little_endian", "binary_big_endian"):
        raise _broken("The header names no known kind of PLY.")
    return kind, elements, stop + 1


def _columns(element: _Element) -> list[int]:
    names = [p.name for p in element.properties]
    try:
        return [names.index(axis) for axis in "xyz"]
    except ValueError:
        raise _broken("The vertices have no x, y and z.") from None


def _corner_list(element: _Element) -> int:
    for i, p in enumerate(element.properties):
        if p.count_kind and p.name in ("vertex_indices", "vertex_index"):
            return i
    raise _broken("The faces have no list of vertices.")


def _text(data: bytes, body: int, elements: list[_Element], _order: str):
    rows = io.BytesIO(data)
    rows.seek(body)
    vertices, loops = np.zeros((0, 3)), []
    for e in elements:
        mine = list(itertools.islice(rows, e.count))
        if len(mine) < e.count:
            raise _broken(f"The header announces {e.count:,} of {e.name!r} and the file holds {len(mine):,}.")
        try:
            if e.name == "vertex":
                wanted = _columns(e)
                found = (float(w[i]) for w in map(bytes.split, mine) for i in wanted)
                vertices = np.fromiter(found, float, 3 * e.count).reshape(-1, 3)
            elif e.name == "face":
                loops = [_listed(row.split(), e, _corner_list(e)) for row in mine]
        except (ValueError, IndexError):
            raise _broken(f"A row of {e.name!r} cannot be read.") from None
    return vertices, loops


def _listed(words: list[bytes], element: _Element, wanted: int) -> list[int]:
    at = 0
    for i, p in enumerate(element.properties):
        if p.count_kind is None:
            at += 1
            continue
        n = int(words[at])
        if n < 0 or at + 1 + n > len(words):
            raise ValueError
        if i == wanted:
            return [int(w) for w in words[at + 1 : at + 1 + n]]
        at += 1 + n
    raise ValueError


def _binary(data: bytes, body: int, elements: list[_Element], order: str):
    vertices, loops, at = np.zeros((0, 3)), [], body
    for e in elements:
        if not any(p.count_kind for p in e.properties):
            row = np.dtype([(f"p{i}", order + p.kind) for i, p in enumerate(e.properties)])
            if at + row.itemsize * e.count > len(data):
                raise _broken(f"The file breaks off within its {e.name!r}.")
            table = np.frombuffer(data, row, e.count, at)
            at += row.itemsize * e.count
            if e.name == "vertex":
                with np.errstate(invalid="ignore"):  # what is no number is refused above
                    vertices = np.stack([table[f"p{i}"].astype(float) for i in _columns(e)], axis=1)
            continue
        wanted = _corner_list(e) if e.name == "face" else -1
        quick = _all_triangles(data, at, e, order) if wanted == 0 and len(e.properties) == 1 else None
        if quick is not None:
            loops, at = quick
            continue
        found, at = _lists(data, at, e, order, wanted)
        if e.name == "face":
            loops = found
    return vertices, loops


def _all_triangles(data: bytes, at: int, e: _Element, order: str):
    """The usual case in one stroke: a face is nothing but a list of three."""
    p = e.properties[0]
    row = np.dtype([("n", order + p.count_kind), ("v", order + p.kind, 3)])
    if at + row.itemsize * e.count > len(data):
        return None
    table = np.frombuffer(data, row, e.count, at)
    if not (table["n"] == 3).all():
        return None
    return table["v"].astype(np.int64), at + row.itemsize * e.count


def _lists(data: bytes, at: int, e: _Element, order: str, wanted: int):
    kinds = [(np.dtype(order + p.kind), p.count_kind and np.dtype(order + p.count_kind)) for p in e.properties]
    found = []
    for _ in range(e.count):
        for i, (kind, count_kind) in enumerate(kinds):
            n = 1
            if count_kind:
                if at + count_kind.itemsize > len(data):
                    raise _broken(f"The file breaks off within its {e.name!r}.")
                n = int(np.frombuffer(data, count_kind, 1, at)[0])
                at += count_kind.itemsize
            if n < 0 or n > 2000 or at + n * kind.itemsize > len(data):
                raise _broken(f"The file breaks off within its {e.name!r}.")
            if i == wanted:
                found.append(np.frombuffer(data, kind, n, at).astype(np.int64).tolist())
            at += n * kind.itemsize
    return found, at
