"""The only file of this app that calls the engine. ``draw`` runs in a process of its own; ``table`` answers at once."""

from collections.abc import Iterator

import numpy as np

from hewel.single_flight import SingleFlightCache
from hewel.watching import with_progress
from hewel_engine import ENGINE_VERSION
from hewel_engine.advice.adapting import Adapted, reworked, stray
from hewel_engine.errors import InputError
from hewel_engine.fits.estimates import Wish
from hewel_engine.fits.numbers import FitNumbers, numbers_of
from hewel_engine.fits.rows import FitRow, Measured, measured, region_after, row_of
from hewel_engine.geometry.frames import unit
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.patches import Faces, find_faces
from hewel_engine.geometry.rays import RayScene
from hewel_engine.io.packing import bores_of, pack_view, unpack_faces, unpack_solid
from hewel_engine.io.threemf import write_3mf
from hewel_engine.processes import Process
from hewel_engine.records import Reading
from needs.bridge import Held
from remedies.bridge import bounds_of, exactly_too

__all__ = ["ENGINE_VERSION", "InputError"]

KEPT = 400
"""Faces whose measure is kept, by part and shape."""
_measures: SingleFlightCache[Measured | InputError] = SingleFlightCache(KEPT)


def table(part: Held, solid: str, up: list, process: dict, touching: list, numbers: dict) -> list[dict]:
    """Every touching face: what it is, what comes out of it, what is to be drawn. ``solid`` names the part's solid."""
    of = _numbers(process, numbers)
    way = unit(up)
    plate = float((part.mesh.vertices @ way).min())

    def known(row: dict) -> Measured | InputError:
        name = f"{solid} {row['corner']} {row['shapes']!r}"
        return _measures.get(name, lambda: _measured(part.mesh, part.faces, part.rays, row))

    return [_told(row, _row(known(row), row, of, way, plate)) for row in touching]


def draw(
    solid: bytes, view: bytes, bores: list | None, up: list, process: dict, touching: list, numbers: dict,
    protected: list, free: dict, picked: list | None, title: str, exact: bytes | None = None,
) -> Iterator[tuple]:  # fmt: skip
    """Events of drawing touching faces for their fits: results ``result`` (dict), ``view`` and ``file`` (bytes) where
    anything was changed, ``exact`` (bytes) where the part has an exact solid.
    """
    yield ("doing", 0, 100, "measuring the faces")
    mesh, settings, way = unpack_solid(solid), Process(**process), unit(up)
    rays, faces = RayScene(mesh), unpack_faces(view, mesh)
    known = bores_of(mesh, rays, solid, view, bores)
    bounds = bounds_of(mesh, faces, known, free)
    of, plate = _numbers(process, numbers), float((mesh.vertices @ way).min())
    rows = [(row, _row(_measured(mesh, faces, rays, row), row, of, way, plate)) for row in touching]
    wanted = [(row, found) for row, found in rows if picked is None or row["id"] in picked]
    steps = [step for _, found in wanted for step in found.steps]
    if not steps:
        yield ("result", "result", _result([_told(*pair) for pair in rows], [], 0.0, {}, {}))
        return

    def change(watch) -> Adapted:
        tell = lambda what, done, total: watch(what, done / max(total, 1))
        return reworked(mesh, way, settings, known, steps, np.array(protected, int), bounds=bounds, watch=tell)

    came = yield from with_progress(change, 5, 80)
    why = {id(step): words for step, words in came.unfit}
    told, drawn, regions, done = [], {}, {}, []
    for row, found in rows:
        mine = [s for s in found.steps if (row, found) in wanted]
        said = _told(row, found)
        refused = list(dict.fromkeys(why[id(s)] for s in mine if id(s) in why))
        said["refused"] = refused[0] if refused else None
        said["applied"] = bool(mine) and not refused
        if said["applied"]:
            done += mine
            if found.estimate and found.estimate.kind != "corner":
                drawn[row["id"]] = found.estimate.drawn if row["nominal"] is None else row["nominal"]
            regions[row["id"]] = [region_after(shape, found) for shape in row["shapes"]]
        told.append(said)
    off = stray(mesh, came)
    yield ("result", "result", _result(told, done, off, drawn, regions))
    if not came.applied:
        return
    yield ("result", "view", pack_view(came.mesh, find_faces(came.mesh), came.marks.astype(np.int16)))
    yield ("result", "file", write_3mf(came.mesh, title))
    if exact:
        yield ("doing", 85, 100, "changing the exact solid")
        more = yield from exactly_too(exact, title, came.made)
        yield ("result", "result", _result(told, done, off, drawn, regions) | more)


def _result(rows: list[dict], steps: list[dict], off: float, drawn: dict, regions: dict) -> dict:
    return {
        "rows": rows, "steps": steps, "stray_mm3": off, "drawn": drawn, "regions": regions, "uncarried": None,
        "inexact": None,
    }  # fmt: skip


def _numbers(process: dict, given: dict) -> FitNumbers:
    known = {kind: {name: Reading(**r) for name, r in rows.items()} for kind, rows in given.items()}
    return numbers_of(Process(**process), known["capability"], known["profile"])


def _measured(mesh: Mesh, faces: Faces, rays: RayScene, row: dict) -> Measured | InputError:
    try:
        return measured(mesh, faces, rays, row["shapes"], row["corner"])
    except InputError as no:
        return no


def _row(found: Measured | InputError, row: dict, numbers: FitNumbers, up: Array, plate: float) -> FitRow:
    if isinstance(found, InputError):
        return FitRow(None, None, [], f"{found.message} {found.hint}")
    wish = Wish(row["fit"], row["mate"], row["plus"], row["minus"], row["gap"], row["nominal"])
    return row_of(found, wish, numbers, up, plate)


def _told(row: dict, found: FitRow) -> dict:
    out = {"id": row["id"], "why": found.why or None, "estimate": None, "applied": False, "refused": None,
           "changes": bool(found.steps)}  # fmt: skip
    told = found.estimate
    if told is None:
        return out
    corrections = [
        {"words": c.words, "mm": c.mm, "origin": c.known and c.known.origin, "record": c.known and c.known.record,
         "name": c.known and c.known.name, "compensated": bool(c.known and c.known.compensated)}
        for c in told.corrections
    ]  # fmt: skip
    places = found.measured.places if found.measured else np.zeros((0, 3))
    return out | {
        "estimate": {
            "kind": told.kind, "lies": told.lies, "count": len(places), "drawn_mm": told.drawn,
            "printed_mm": told.printed, "doubt_mm": told.doubt, "wanted_mm": told.wanted, "to_draw_mm": told.to_draw,
            "change_mm": told.change, "gap_mm": told.gap, "least_gap_mm": told.least_gap,
            "most_gap_mm": told.most_gap, "wanted_gap_mm": told.wanted_gap, "mate_mm": told.mate,
            "verdict": told.verdict, "corrections": corrections, "says": told.says,
            "centre_mm": places.mean(axis=0).tolist() if len(places) else None,
        }
    }  # fmt: skip
