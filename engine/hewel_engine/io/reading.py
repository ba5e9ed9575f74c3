"""From the bytes of a file to a mended part in millimetres."""

from dataclasses import dataclass

import numpy as np

from hewel_engine.errors import InputError, Note
from hewel_engine.geometry.mending import mended, united
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.surfaces import Surfaces
from hewel_engine.io.obj import looks_like_obj, read_obj
from hewel_engine.io.ply import read_ply
from hewel_engine.io.step import looks_like_step, read_step
from hewel_engine.io.stl import read_stl
from hewel_engine.io.threemf import read_3mf
from hewel_engine.tolerances import MAX_BYTES

UNITS_MM = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4}
FORMATS = "STL, 3MF, STEP, OBJ or PLY"
USUAL_MM = (5.0, 2000.0)
"""Longest side of a part that can be printed and held: outside it a file without a unit is not in millimetres."""


@dataclass(frozen=True)
class Intake:
    mesh: Mesh
    file_format: str
    scale_mm: float
    warnings: list[Note]
    surfaces: Surfaces | None = None
    """What the file says of the facets' exact surfaces; only STEP does."""
    exact: bytes | None = None
    """The file itself, where it holds an exact solid."""


def sniff(data: bytes) -> str:
    if data[:2] == b"PK":
        return "3mf"
    if looks_like_step(data):
        return "step"
    head = data[:400].lstrip().lower()
    for mark, name in ((b"%pdf", "PDF"), (b"\x89png", "PNG")):
        if head.startswith(mark):
            raise InputError("unknown_format", f"This is a {name} file.", f"Give an {FORMATS} file of the part.")
    if head.startswith((b"ply\n", b"ply\r")):
        return "ply"
    return "obj" if looks_like_obj(data) else "stl"


def take_in(data: bytes, units: str = "auto") -> Intake:
    """Reads, scales to mm and mends. Raises InputError with a stable code when the file cannot be used."""
    if units != "auto" and units not in UNITS_MM:
        raise InputError("bad_options", f"There is no unit {units!r}.", "Use auto, mm, cm, m or in.")
    if len(data) == 0:
        raise InputError("empty_file", "The file is empty.", "Export the part again.")
    if len(data) > MAX_BYTES:
        raise InputError(
            "too_large",
            f"The file has {len(data) / 2**20:.0f} MiB; {MAX_BYTES // 2**20} MiB is the most that is read.",
            "Export it with a coarser tolerance.",
        )
    kind = sniff(data)
    own_unit, surfaces, result = None, None, []
    if kind == "3mf":
        triangles, own_unit = read_3mf(data)
    elif kind == "step":
        triangles, surfaces = read_step(data)
        own_unit = 1.0
        if units != "auto":
            result = [Note("unit_ignored", "A STEP file names its own unit; the one given was not used.")]
            units = "auto"
    elif len(data) < 15:
        raise InputError("truncated", "The file is too short to hold a part.", "Copy or export it again.")
    else:
        triangles = {"stl": read_stl, "obj": read_obj, "ply": read_ply}[kind](data)
    if len(triangles) == 0:
        raise InputError("no_triangles", "The file holds no triangles.", "Export the part as a solid body.")
    if not np.isfinite(triangles).all() or np.abs(triangles).max() > 1e9:
        raise InputError(
            "non_finite",
            "Some coordinates are not numbers, infinite, or beyond any size.",
            "Export the part again from the program that made it.",
        )
    scale, notes = _scale(triangles, units, own_unit)
    mesh, mended_notes = mended(triangles * scale)
    mesh, united_notes = united(mesh)
    if surfaces is not None:
        surfaces = surfaces.carried_over(triangles, mesh)
    return Intake(
        mesh, kind, scale, result + notes + mended_notes + united_notes, surfaces, data if kind == "step" else None
    )


def _scale(triangles, units: str, own_unit: float | None) -> tuple[float, list[Note]]:
    if units != "auto":
        return UNITS_MM[units], []
    if own_unit is not None:
        return own_unit, []
    longest = float(np.ptp(triangles.reshape(-1, 3), axis=0).max())
    low, high = USUAL_MM
    if low <= longest <= high or longest == 0:
        return 1.0, []
    if longest < low:
        word, scale = ("metres", 1000.0) if longest < 0.5 else ("inches", 25.4)
    else:
        word, scale = "micrometres", 1e-3
    return scale, [
        Note(
            "unit_guessed",
            f"The file names no unit and its longest side is {longest:.4g}: read as {word} "
            f"({longest * scale:.4g} mm). Give the unit if that is wrong.",
        )
    ]
