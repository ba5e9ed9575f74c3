"""The only file of this app that calls the engine. Its generators run in a process of their own."""

import json
from collections.abc import Iterator

import numpy as np

from hewel_engine import ENGINE_VERSION
from hewel_engine.errors import InputError
from hewel_engine.geometry.frames import direction_words, same_direction, unit
from hewel_engine.geometry.rays import RayScene
from hewel_engine.io.exports import AS_DRAWN, export
from hewel_engine.io.packing import bores_of, unpack_solid
from hewel_engine.orientation.candidates import MOST, Candidate, swept_directions, typed
from hewel_engine.orientation.ranking import ENOUGH, RELATIVE, rank, weighted_order, weighted_scores
from hewel_engine.orientation.study import examined
from hewel_engine.orientation.sweep import sweep
from hewel_engine.processes import Process
from parts.bridge import columns

__all__ = [
    "AS_DRAWN",
    "ENGINE_VERSION",
    "InputError",
    "direction",
    "direction_words",
    "directions",
    "oriented",
    "ranked",
    "same_direction",
    "unit",
    "unpacked",
    "weighted",
]


def directions(
    solid: bytes, view: bytes, bores: list | None, flat_normals: list, process: dict, first: list | None = None,
    most: int = MOST,
) -> Iterator[tuple]:  # fmt: skip
    """Events of a study: result ``sweep`` (bytes), then ``candidates`` (ranked list) after every few candidates, those
    that ``first`` names among them from the beginning; never ``most`` of them but for those.
    """
    yield ("doing", 0, 1, "preparing the part")
    mesh, process = unpack_solid(solid), Process(**process)
    rays = RayScene(mesh)
    ups, sources = swept_directions(mesh, np.array(flat_normals, float).reshape(-1, 3))
    yield ("doing", 0, 1, f"sweeping {len(ups):,} directions")
    swept = sweep(mesh, ups, process, rays)
    yield ("result", "sweep", columns(swept))
    known = bores_of(mesh, rays, solid, view, bores)
    given = [typed(mesh, rays, up, process, known) for up in first or []]
    same = lambda c: any(same_direction(c.up, g.up) for g in given)
    for total, found in examined(mesh, rays, swept, sources, process, known, most):
        done = len(found)
        if done and (done % 4 == 1 or done == total):
            yield ("result", "candidates", [c.as_dict() for c in rank([*given, *(c for c in found if not same(c))])])
        if done < total:
            yield ("doing", done, total, f"slicing candidate {done + 1} of {total}")


def direction(
    solid: bytes, view: bytes, bores: list | None, up: list, process: dict, known: list[dict]
) -> Iterator[tuple]:
    """One more direction beside those known: result ``candidates``, ranked anew."""
    yield ("doing", 0, 1, "slicing this direction")
    mesh = unpack_solid(solid)
    rays = RayScene(mesh)
    fresh = typed(mesh, rays, up, Process(**process), bores_of(mesh, rays, solid, view, bores))
    others = [k for k in known if not same_direction(k["up"], fresh.up)]
    yield ("result", "candidates", ranked([*others, fresh.as_dict()]))


def ranked(candidates: list[dict]) -> list[dict]:
    """The same candidates, ranked anew by all that is known of each."""
    rows = [
        Candidate(np.array(c["up"]), c["source"], {n: v for n, v in c.items() if n not in ("up", "source")})
        for c in candidates
    ]
    return [c.as_dict() for c in rank(rows)]


def merged(there: list[dict], value: list[dict]) -> list[dict]:
    """What has just been worked out, and of what is there the directions that it does not hold: somebody asked for them
    while it was under way. Ranked together.
    """
    fresh = lambda c: not any(same_direction(c["up"], v["up"]) for v in value)
    return numbered(ranked([*value, *(c for c in there if fresh(c))]), there)


def numbered(candidates: list[dict], before: list[dict]) -> list[dict]:
    """The candidates with their numbers: one keeps that which it was first seen under, whatever its rank becomes."""
    last = max((c.get("number", 0) for c in before), default=0)
    out = []
    for c in candidates:
        known = next((b.get("number") for b in before if same_direction(b["up"], c["up"])), None)
        last += not known
        out.append(c | {"number": known or last})
    return out


def weighted(candidates: list[dict], fields: dict | None, weights: dict[str, float]) -> dict:
    """Ranks of the candidates under ``weights``, their costs, and the cost of every swept direction."""
    names = [*RELATIVE.values(), *ENOUGH, "reserve"]
    figure = lambda v: float("nan") if v is None else v
    known = {n: np.array([figure(c.get(n)) for c in candidates], float) for n in names}
    order, cost = weighted_order(known, weights)
    ranks = np.empty(len(order), int)
    ranks[order] = np.arange(1, len(order) + 1)
    field = None
    if fields is not None:
        columns = {n: np.asarray(v, float) for n, v in fields.items()}
        columns["needing_area_mm2"] = columns["overhang_area_mm2"]  # layers are not known of every direction
        field = np.round(weighted_scores(columns, weights), 4).tolist()
    return {"ranks": ranks.tolist(), "costs": np.round(cost, 4).tolist(), "field": field}


def unpacked(sweep: bytes) -> dict:
    """A kept sweep as arrays, thousands of directions: ``ups`` (d, 3) and ``fields`` {name: (d,)}."""
    known = json.loads(sweep)
    fields = {name: np.array(values, float) for name, values in known["fields"].items()}
    return {"ups": np.array(known["ups"], float), "fields": fields}


def oriented(solid: bytes, up: list, kind: str, title: str, scale: tuple[float, float]) -> bytes:
    return export(unpack_solid(solid), up, kind, title, scale)
