"""The only file of this app that calls the engine. ``propose`` runs in a process of its own."""

from collections.abc import Iterator

import numpy as np

from hewel.watching import told_on_the_way
from hewel_engine import ENGINE_VERSION
from hewel_engine.advice.adapting import Adapted, adapted, reworked
from hewel_engine.advice.costs import least_reserve, printed
from hewel_engine.advice.proposals import KEYS
from hewel_engine.errors import InputError
from hewel_engine.geometry.frames import direction_words, unit
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.patches import find_faces
from hewel_engine.geometry.rays import RayScene
from hewel_engine.io.packing import bores_of, pack_view, unpack_faces, unpack_solid
from hewel_engine.io.threemf import write_3mf
from hewel_engine.loads.regions import found_again
from hewel_engine.processes import Process

__all__ = ["ENGINE_VERSION", "KEYS", "InputError", "direction_words", "unit"]


def propose(
    solid: bytes, view: bytes, bores: list | None, up: list, process: dict, steps: list | None, protected: list,
    loads: dict | None, title: str, supports: bool = True,
) -> Iterator[tuple]:  # fmt: skip
    """Events of working remedies out: ``told`` (dict), ``view`` and ``file`` (bytes) of the changed part, then ``told``
    once more with the least reserve before and after, where there are loads. ``protected``: facets to be left alone;
    without ``supports`` neither posts nor pillars.
    """
    yield ("doing", 0, 100, "preparing the part")
    mesh, process, up = unpack_solid(solid), Process(**process), unit(up)
    known = bores_of(mesh, RayScene(mesh), solid, view, bores)
    keep = np.array(protected, int)

    def work(watch) -> Adapted:
        told = lambda what, done, total: watch(what, done / max(total, 1))
        if steps is None:
            return adapted(mesh, up, process, known, protected=keep, supports=supports, watch=told)
        return reworked(mesh, up, process, known, [s for s in steps if s["on"]], protected=keep, watch=told)

    found = yield from told_on_the_way(work, 2, 60 if loads else 90)
    yield ("doing", 65 if loads else 94, 100, "reckoning its time")
    told = _told(found, process)
    faces = find_faces(found.mesh)
    yield ("result", "view", pack_view(found.mesh, faces, found.marks.astype(np.int16)))
    yield ("result", "file", write_3mf(found.mesh, title))
    yield ("result", "told", told)
    if loads:
        old_faces = unpack_faces(view, mesh)
        carried = _carried(loads, mesh, old_faces, found.mesh, faces)
        for number, (name, part, its_faces, its_loads) in enumerate(
            (("before", mesh, old_faces, loads), ("after", found.mesh, faces, carried))
        ):
            yield ("doing", 70 + 15 * number, 100, f"reckoning the least reserve {name}")
            try:
                told[name]["reserve"] = its_loads and least_reserve(part, its_faces, its_loads, process, up)
            except InputError as error:  # loads that find no rest are said where loads are checked
                told["unreckoned"] = f"Reserve {name} not reckoned: {error.message}"
        yield ("result", "told", told)


def _told(found: Adapted, process: Process) -> dict:
    stands = lambda part, cost: {
        "overhang_area_mm2": part.truth.overhang_area,
        "support_volume_mm3": part.truth.support_volume,
        "wanting": sum(r.needs_support for r in part.truth.regions),
        "first_layer_mm2": part.truth.first_layer,
        "volume_mm3": part.mesh.volume,
        "reserve": None,
        "seconds": float(cost.seconds.sum()),
        "grams": cost.grams,
    }
    layers, cost = found.after.stack, printed(found.after)
    short = lambda column: [float(f"{v:.5g}") for v in column]
    grams = lambda row: (row["volume_added_mm3"] - row["volume_removed_mm3"]) * 1e-3 * process.stock.density
    return {
        "applied": [row | {"grams": grams(row)} for row in (a.as_dict() for a in found.applied)],
        "left": [row.as_dict() for row in found.left],
        "unfit": [{"key": s["key"], "kind": s["kind"], "why": why} for s, why in found.unfit],
        "before": stands(found.before, printed(found.before)),
        "after": stands(found.after, cost),
        "unreckoned": None,
        "log": {
            "first_mm": layers.first,
            "layer_mm": layers.pitch,
            "area_mm2": short(layers.integrals[:, 0]),
            "seconds": short(cost.seconds),
            "hangs": [
                {
                    "kind": r.kind,
                    "z_mm": r.low,
                    "top_mm": r.high,
                    "mm": r.reach if r.span is None else r.span,
                    "needs_support": r.needs_support,
                }
                for r in found.after.truth.regions
            ],
        },
    }


def _carried(loads: dict, old: Mesh, old_faces, new: Mesh, new_faces) -> dict | None:
    """The loads file on the changed part; None where a face it names is found no more."""

    def again(row: dict) -> dict:
        if not row.get("on"):
            return row
        shape = {k: v for k, v in row["on"].items() if k != "name"}
        there = found_again(old, old_faces, new, new_faces, shape)
        if there is None:
            raise LookupError
        return row | {"on": there | {k: v for k, v in row["on"].items() if k == "name"}}

    try:
        return loads | {
            "fixed": [again(r) for r in loads["fixed"]],
            "cases": [c | {"loads": [again(r) for r in c["loads"]]} for c in loads["cases"]],
        }
    except LookupError:
        return None


def facets_of(patches: list) -> list[int]:
    """Facets that pieces of a surface lie on."""
    return sorted({int(f) for p in patches for f in p.facets})
