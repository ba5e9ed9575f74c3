"""3MF, in and out: units, components, transforms, several build items.

Read with the standard library's event parser, entity declarations refused, so that memory stays bounded by the
limits below whatever the archive claims.
"""

import io
import zipfile
from array import array
from dataclasses import dataclass, field
from xml.parsers import expat
from xml.sax.saxutils import escape, quoteattr

import numpy as np

from hewel_engine.errors import InputError
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.io.single import apart
from hewel_engine.tolerances import MAX_TRIANGLES

UNITS_MM = {"micron": 1e-3, "millimeter": 1.0, "centimeter": 10.0, "inch": 25.4, "foot": 304.8, "meter": 1000.0}
CORE = "http://schemas.microsoft.com/3dmanufacturing/core/2015/02"
MODEL = "3D/part.model"
RELATION = "http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"
MOST_UNPACKED = 1 << 30
MOST_FILES = 2000
MOST_DEPTH = 32
MOST_PLACED = 20_000


@dataclass
class _Object:
    vertices: array = field(default_factory=lambda: array("d"))
    faces: array = field(default_factory=lambda: array("l"))
    components: list = field(default_factory=list)


@dataclass
class _Model:
    unit: str = "millimeter"
    objects: dict = field(default_factory=dict)
    items: list = field(default_factory=list)


def _bad(message: str, hint: str = "Export the part again as 3MF or STL.") -> InputError:
    return InputError("bad_reference", message, hint)


def _unsafe(message: str) -> InputError:
    return InputError("unsafe_archive", message, "Export the part again; the archive is not a plain 3MF file.")


def read_3mf(data: bytes) -> tuple[Array, float]:
    """Triangles (m, 3, 3) in the file's own unit, all build items placed; and that unit in mm."""
    try:
        archive = zipfile.ZipFile(io.BytesIO(data))
    except (zipfile.BadZipFile, NotImplementedError, ValueError, OSError):
        raise InputError("truncated", "The 3MF archive is damaged or cut short.", "Copy or export it again.") from None
    with archive:
        names = _checked_names(archive)
        root = _root_model(archive, names)
        models = {root: _parse(archive, root)}
        triangles = _place_all(archive, names, models, root)
    if len(triangles) == 0:
        raise InputError("no_triangles", "The file holds no triangles.", "Export the part as a solid body.")
    return triangles, UNITS_MM[models[root].unit]


def _checked_names(archive: zipfile.ZipFile) -> set[str]:
    infos = archive.infolist()
    if len(infos) > MOST_FILES:
        raise _unsafe(f"The archive holds {len(infos):,} files.")
    if sum(i.file_size for i in infos) > MOST_UNPACKED:
        raise InputError("too_large", "The archive unpacks to more than 1 GiB.", "Export it with a coarser tolerance.")
    for i in infos:
        parts = i.filename.replace("\\", "/").split("/")
        if ".." in parts or i.filename.startswith(("/", "\\")) or ":" in parts[0]:
            raise _unsafe("The archive holds a file whose name leads outside it.")
        if i.flag_bits & 1:
            raise _unsafe("The archive is encrypted.")
        if i.compress_size and i.file_size / i.compress_size > 400 and i.file_size > 1 << 24:
            raise _unsafe("The archive holds a file that unpacks to hundreds of times its size.")
    return {i.filename for i in infos}


def _read(archive: zipfile.ZipFile, name: str):
    """Pieces of one file, never more than its declared size."""
    try:
        with archive.open(name) as stream:
            left = archive.getinfo(name).file_size
            while piece := stream.read(1 << 20):
                left -= len(piece)
                if left < 0:
                    raise _unsafe("A file in the archive is larger than the archive says.")
                yield piece
    except (zipfile.BadZipFile, EOFError, NotImplementedError, OSError, ValueError) as error:
        if isinstance(error, InputError):
            raise
        raise InputError("truncated", "The 3MF archive is damaged or cut short.", "Copy or export it again.") from None
    except Exception as error:  # zlib.error has no public base but Exception
        if type(error).__name__ != "error":
            raise
        raise InputError("truncated", "The 3MF archive is damaged.", "Copy or export it again.") from None


def _walk(archive, name, start, end) -> None:
    parser = expat.ParserCreate(namespace_separator=" ")

    def refuse(*_):
        raise _unsafe("The file declares XML entities, which a part never needs.")

    parser.StartDoctypeDeclHandler = parser.EntityDeclHandler = refuse
    parser.StartElementHandler, parser.EndElementHandler = start, end
    try:
        for piece in _read(archive, name):
            parser.Parse(piece, False)
        parser.Parse(b"", True)
    except expat.ExpatError as error:
        raise InputError(
            "truncated", f"The model inside the 3MF breaks off or is not XML (line {error.lineno}).", "Export it again."
        ) from None


def _root_model(archive, names) -> str:
    if "_rels/.rels" in names:
        found = []

        def start(tag, attributes):
            if tag.endswith(" Relationship") and attributes.get("Type") == RELATION:
                found.append(attributes.get("Target", ""))

        _walk(archive, "_rels/.rels", start, lambda tag: None)
        if found:
            name = found[0].lstrip("/")
            if name not in names:
                raise _bad("The 3MF names a model that is not in the archive.")
            return name
    models = sorted(n for n in names if n.lower().endswith(".model"))
    if not models:
        raise InputError("unknown_format", "This archive is not a 3MF file: it holds no model.", "Give an STL or 3MF.")
    return models[0]


def _transform(text: str | None) -> Array:
    """(4, 3): rows of the row-vector convention, ``x' = [x, 1] @ t``."""
    if not text:
        return np.vstack([np.eye(3), np.zeros(3)])
    try:
        t = np.array(text.split(), float).reshape(4, 3)
    except ValueError:
        raise _bad("A transform in the file is not twelve numbers.") from None
    if not np.isfinite(t).all():
        raise InputError("non_finite", "A transform in the file is not finite.", "Export it again.")
    return t


def _parse(archive, name: str) -> _Model:
    model, here = _Model(), None

    def start(tag, a):
        nonlocal here
        space, _, word = tag.rpartition(" ")
        if space != CORE:
            return
        if word == "vertex" and here is not None:
            here.vertices.extend((float(a["x"]), float(a["y"]), float(a["z"])))
        elif word == "triangle" and here is not None:
            here.faces.extend((int(a["v1"]), int(a["v2"]), int(a["v3"])))
            if len(here.faces) > 3 * MAX_TRIANGLES:
                raise _too_many()
        elif word == "model":
            model.unit = a.get("unit", "millimeter")
            if model.unit not in UNITS_MM:
                raise _bad(f"The file's unit is {model.unit[:20]!r}, which 3MF does not know.")
        elif word == "object":
            here = model.objects.setdefault(a["id"], _Object())
        elif word in ("component", "item"):
            path = next((v for k, v in a.items() if k.endswith(" path")), None)
            (here.components if word == "component" else model.items).append(
                (a["objectid"], path and path.lstrip("/"), _transform(a.get("transform")))
            )

    def end(tag):
        nonlocal here
        if tag == CORE + " object":
            here = None

    try:
        _walk(archive, name, start, end)
    except KeyError as missing:
        raise _bad(f"The model lacks the attribute {missing}.") from None
    except (ValueError, OverflowError, AttributeError):
        raise _bad("The model holds something that is not a number, or an element out of place.") from None
    return model


def _too_many() -> InputError:
    return InputError(
        "too_large",
        f"The part has more than {MAX_TRIANGLES:,} triangles.",
        "Export it with a coarser tolerance.",
    )


def _place_all(archive, names, models: dict, root: str) -> Array:
    out, placed, total = [], 0, 0

    def place(model_name, key, matrix, above):
        nonlocal placed, total
        spot = (model_name, key)
        if spot in above or len(above) > MOST_DEPTH:
            raise _bad("The file's components contain themselves.")
        if model_name not in models:
            if model_name not in names:
                raise _bad("The 3MF names a model that is not in the archive.")
            models[model_name] = _parse(archive, model_name)
        thing = models[model_name].objects.get(key)
        if thing is None:
            raise _bad(f"The file places object {key[:20]!r}, which it does not hold.")
        placed += 1
        if placed > MOST_PLACED:
            raise _unsafe("The file multiplies its components beyond any real part.")
        if thing.faces:
            vertices = np.array(thing.vertices).reshape(-1, 3)
            faces = np.array(thing.faces).reshape(-1, 3)
            if len(vertices) == 0 or faces.min() < 0 or faces.max() >= len(vertices):
                raise _bad("A triangle names a corner that the file does not hold.")
            total += len(faces)
            if total > MAX_TRIANGLES:
                raise _too_many()
            moved = vertices @ matrix[:3] + matrix[3]
            if np.linalg.det(matrix[:3]) < 0:  # a mirror turns the facets; turn them back
                faces = faces[:, ::-1]
            out.append(moved[faces])
        for child, path, t in thing.components:
            linear = t[:3] @ matrix[:3]
            place(path or model_name, child, np.vstack([linear, t[3] @ matrix[:3] + matrix[3]]), (*above, spot))

    items = models[root].items or [(k, None, _transform(None)) for k in models[root].objects]
    for key, path, t in items:
        place(path or root, key, t, ())
    return np.concatenate(out) if out else np.zeros((0, 3, 3))


def scaled_3mf(data: bytes, plan: float, along: float) -> bytes:
    """A file of ``write_3mf`` whose items stand as they are drawn, scaled by ``plan`` in x and y, ``along`` in z."""
    scale = " ".join(f"{v:.9g}" for v in (plan, 0, 0, 0, plan, 0, 0, 0, along, 0, 0, 0))
    buffer = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as source, zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as z:
        for entry in source.infolist():
            content = source.read(entry)
            if entry.filename == MODEL:
                content = content.replace(b"<item ", f'<item transform="{scale}" '.encode())
            z.writestr(zipfile.ZipInfo(entry.filename, entry.date_time), content, zipfile.ZIP_DEFLATED)
    return buffer.getvalue()


def write_3mf(
    part: Mesh | list[tuple[str, Mesh]],
    title: str,
    metadata: dict[str, str] | None = None,
    places: list[Array] | None = None,
) -> bytes:
    """One object, or one for each named piece, unit millimetre, with title and metadata. ``places``: (4, 3) each, row
    vectors times it are where a copy of the one object stands, in their order. The same input gives the same bytes.
    """
    pieces = [(title, part)] if isinstance(part, Mesh) else part
    result = {"Title": title, "Application": "Hewel", **(metadata or {})}
    # The core specification knows these names; any other needs a namespace of its own.
    known = {"Title", "Designer", "Description", "Copyright", "LicenseTerms", "Rating", "CreationDate", "Application"}
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<model unit="millimeter" xml:lang="en" xmlns="{CORE}" xmlns:hw="urn:hewel:metadata">',
        *(
            f"<metadata name={quoteattr(k if k in known else 'hw:' + k)}>{escape(v)}</metadata>"
            for k, v in result.items()
        ),
        "<resources>",
    ]
    for number, (name, mesh) in enumerate(pieces, start=1):
        snapped, moved = apart(mesh.vertices)  # a reader may hold them in single precision
        points = np.where(moved[:, None], snapped, mesh.vertices)
        lines += [
            f'<object id="{number}" type="model" name={quoteattr(name)}><mesh><vertices>',
            *(f'<vertex x="{x:.17g}" y="{y:.17g}" z="{z:.17g}"/>' for x, y, z in points.tolist()),
            "</vertices><triangles>",
            *(f'<triangle v1="{a}" v2="{b}" v3="{c}"/>' for a, b, c in mesh.faces.tolist()),
            "</triangles></mesh></object>",
        ]
    if places is None:
        items = "".join(f'<item objectid="{n}"/>' for n in range(1, len(pieces) + 1))
    else:
        told = (" ".join(f"{v:.9g}" for v in place.ravel() + 0.0) for place in places)
        items = "".join(f'<item objectid="1" transform="{t}" partnumber="{n}"/>' for n, t in enumerate(told, start=1))
    lines.append(f"</resources><build>{items}</build></model>")
    types = (
        '<?xml version="1.0" encoding="UTF-8"?>'
        '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">'
        '<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
        '<Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>'
    )
    relations = (
        '<?xml version="1.0" encoding="UTF-8"?>'
        '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
        f'<Relationship Target="/{MODEL}" Id="r0" Type="{RELATION}"/></Relationships>'
    )
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as z:
        for name, text in (
            ("[Content_Types].xml", types),
            ("_rels/.rels", relations),
            (MODEL, "\n".join(lines)),
        ):
            z.writestr(zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0)), text, zipfile.ZIP_DEFLATED)
    return buffer.getvalue()
