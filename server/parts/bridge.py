"""The only file of this app that calls the engine. Its generators run in a process of their own."""

import base64
import io
import json
from collections.abc import Iterator

import numpy as np
from PIL import Image

from hewel.rounding import significant
from hewel_engine.edits.solids import differing, mesh_of
from hewel_engine.errors import InputError
from hewel_engine.geometry.frames import same_direction
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.patches import Faces, find_faces
from hewel_engine.geometry.pictures import picture
from hewel_engine.geometry.rays import RayScene
from hewel_engine.geometry.simplify import thinned
from hewel_engine.io.packing import pack_solid, pack_view, unpack_faces, unpack_solid
from hewel_engine.io.reading import UNITS_MM, take_in
from hewel_engine.io.threemf import write_3mf
from hewel_engine.loads.regions import found_again
from hewel_engine.orientation.study import coarse_sweep, sweep_of_part
from hewel_engine.orientation.sweep import Sweep
from hewel_engine.parts.facts import facts_of, first_facts
from hewel_engine.processes import Process
from hewel_engine.warm import load

__all__ = ["UNITS_MM", "same_direction"]


def columns(swept: Sweep) -> bytes:
    """The sweep as JSON columns, figures rounded to what a screen can show."""
    table = {name: significant(getattr(swept, name), 5).tolist() for name in Sweep.FIELDS}
    return json.dumps({"ups": np.round(swept.ups, 6).tolist(), "fields": table}, separators=(",", ":")).encode()


def load_compiled() -> None:
    """Loads what is compiled, so that no task waits for it."""
    load()


def _found_again(before: dict, mesh: Mesh, faces: Faces) -> list[dict]:
    old = unpack_solid(before["solid"])
    old_faces = unpack_faces(before["view"], old)
    shapes = [(row, found_again(old, old_faces, mesh, faces, row["shape"])) for row in before["regions"]]
    return [row | {"shape": shape} for row, shape in shapes if shape]


def png(seen: np.ndarray) -> bytes:
    """A picture, (height, width, 4) uint8, as a file."""
    room = io.BytesIO()
    Image.fromarray(seen, "RGBA").save(room, "PNG")
    return room.getvalue()


def drawn(solid: bytes, up: list | None, layer: float, width: int, height: int) -> bytes:
    """The part as a picture, PNG; standing with ``up`` vertical, or as it came in."""
    mesh = unpack_solid(solid)
    seen = picture(mesh, np.array(up or [0, 0, 1], float), layer, width, height)
    return png(seen)


def differs(before: bytes, after: bytes) -> dict:
    """What a part has more than another one and what it lacks: mm³, and triangles for drawing (float32 in base64)."""
    try:
        more, less = differing(unpack_solid(before), unpack_solid(after))
    except InputError as no:
        return {"why": no.message, "more_mm3": None, "less_mm3": None, "more": "", "less": ""}
    corners = lambda solid: base64.b64encode(mesh_of(solid).triangles.astype("<f4").tobytes()).decode()
    return {
        "why": None, "more_mm3": more.volume(), "less_mm3": less.volume(), "more": corners(more), "less": corners(less)
    }  # fmt: skip


def scaled(solid: bytes, factor: float, title: str) -> bytes:
    """The part ``factor`` times as large, as a file that can come in."""
    mesh = unpack_solid(solid)
    return write_3mf(Mesh(mesh.vertices * factor, mesh.faces), title)


def intake(data: bytes, units: str, process: dict, before: dict | None = None) -> Iterator[tuple]:
    """Events of taking a file in, the coarse and quick first. ``before`` is the part that this one revises: its solid,
    its view and its regions, of which result ``regions`` (rows) tells those found again.

    Results ``solid``, ``view``, ``ghost`` (bytes) and ``facts`` (dict, bores not yet looked for) make a part;
    ``sweep`` (bytes, twice: coarse, then full) answers its first question; ``features`` (dict) completes facts and
    view with the bores.
    """
    yield ("doing", 0, 3, "reading and mending")
    taken, process = take_in(data, units), Process(**process)
    faces = find_faces(taken.mesh)
    if before:
        yield ("result", "regions", _found_again(before, taken.mesh, faces))
    yield ("result", "solid", pack_solid(taken.mesh, taken.surfaces))
    yield ("result", "view", pack_view(taken.mesh, faces))
    yield ("result", "ghost", pack_view(thinned(taken.mesh)))
    first = first_facts(taken.mesh, taken.surfaces)
    result = {"warnings": taken.warnings, "file_format": taken.file_format, "scale_mm": taken.scale_mm}
    yield ("result", "facts", result | {"facts": first.as_dict()})
    yield ("doing", 1, 3, "sweeping the directions")
    rays = RayScene(taken.mesh)
    yield ("result", "sweep", columns(coarse_sweep(taken.mesh, process, rays)))
    swept, _ = sweep_of_part(taken.mesh, first.flats, process, rays)
    yield ("result", "sweep", columns(swept))
    yield ("doing", 2, 3, "finding the bores")
    facts = facts_of(taken.mesh, rays, taken.surfaces, first)
    view = pack_view(taken.mesh, faces, facts.feature_of_facet())
    yield ("result", "features", {"facts": facts.as_dict(), "notes": facts.notes, "view": view})
