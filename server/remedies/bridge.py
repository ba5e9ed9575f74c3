"""The only file of this app that calls the engine. ``propose`` runs in a process of its own."""

from base64 import b64encode
from collections.abc import Callable, Generator, Iterator
from threading import Lock

import numpy as np

from hewel.rounding import significant
from hewel.single_flight import SingleFlightCache
from hewel.watching import with_progress
from hewel_engine import ENGINE_VERSION
from hewel_engine.advice.adapting import Adapted, Bench, adapted, reworked
from hewel_engine.advice.afterwards import MOST, RemediedDirection, explained, ranked_after
from hewel_engine.advice.bounds import Bounds
from hewel_engine.advice.costs import Holds, Solve, printed
from hewel_engine.advice.outs import other_direction
from hewel_engine.advice.proposals import ASKED_FOR, FULL, GENTLE
from hewel_engine.edits.exact import Made
from hewel_engine.edits.remedies import AT_THE_PLATE, BY_KEY, KEYS, REMEDIES, SIZED, WITH_STAGES, checked
from hewel_engine.edits.tools import Impossible
from hewel_engine.errors import InputError
from hewel_engine.geometry.features import Bore
from hewel_engine.geometry.frames import direction_words, same_direction, unit
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.patches import Faces, find_faces
from hewel_engine.geometry.rays import RayScene
from hewel_engine.geometry.voxels import Grid
from hewel_engine.io.exact import carried_over
from hewel_engine.io.packing import bores_of, pack_view, unpack_faces, unpack_solid
from hewel_engine.io.threemf import write_3mf
from hewel_engine.loads.cases import read_loads
from hewel_engine.loads.regions import loads_again
from hewel_engine.orientation.candidates import Candidate
from hewel_engine.processes import Process
from hewel_engine.spaces.free import space_of
from hewel_engine.spaces.likely import likely_spaces
from hewel_engine.strength.allowables import Circumstances
from hewel_engine.strength.stressing import CLOSER, COARSE, Stressed, stressed
from needs.bridge import with_body

__all__ = ["ENGINE_VERSION", "KEYS", "MOST", "InputError", "direction_words", "unit"]

BENCHES = 2
"""Parts kept ready for single remedies to be looked at."""
MOST_FACETS = 200_000
"""Of a part that is checked within a request."""
_benches: SingleFlightCache[Bench] = SingleFlightCache(BENCHES)
_at_work = Lock()
"""One remedy is made at a time: what is worked out of a bench on the way is kept on it."""


def choices(supports: bool) -> dict[str, list[str]]:
    """What may be tried for each kind of region."""
    wanted = lambda key: supports or not BY_KEY[key].support
    regions = {}
    for kind, names in GENTLE.items():
        keys = dict.fromkeys(k for k in (*names, *FULL[kind], *ASKED_FOR.get(kind, ())) if k in KEYS)
        regions[kind] = [k for k in keys if wanted(k)]
    sizes: dict[str, list[str]] = {}
    for key, kind in SIZED.items():
        if key not in WITH_STAGES:
            sizes.setdefault(kind, []).append(key)
    return regions | {"plate": list(AT_THE_PLATE)} | sizes


def catalogue() -> list[dict]:
    """Every remedy: what it is called, what it asks of a hand."""
    return [remedy.as_dict() for remedy in REMEDIES]


def check_numbers(key: str, given: dict, process: dict) -> None:
    """Raises InputError for a number that a remedy cannot have."""
    checked(key, given, Process(**process))


def parameters(key: str, used: dict, process: Process) -> list[dict]:
    """The numbers of a remedy that may be set, with the values they have."""
    return [p.as_dict(used[p.name], process) for p in BY_KEY[key].parameters if p.name in used]


def bounds_of(mesh: Mesh, faces: Faces, bores: list[Bore], free: dict, holds: Holds | None = None) -> Bounds:
    """How far advice may go with a job. ``free``: its ``spaces`` with the ``bodies`` (bytes) that they name,
    ``most_change`` of the volume, and ``fits``, shapes of the bores that must stay round.
    """
    spaces = [space_of(with_body(row, free["bodies"]), mesh, faces) for row in free["spaces"]]
    fitted = [b for b in bores if any(_same_bore(b, shape) for shape in free["fits"])]
    every = (*spaces, *likely_spaces(mesh, bores))
    return Bounds(free["most_change"], every, holds, tuple(fitted))


def _same_bore(bore: Bore, shape: dict) -> bool:
    body = shape.get("cylinder")
    if not body or abs(body["radius"] - bore.diameter / 2) > 0.05 + body.get("tol", 0.1):
        return False
    axis, off = np.array(body["axis"]), bore.centre - np.array(body["point"])
    return bool(abs(axis @ bore.axis) > 0.999 and np.linalg.norm(off - (off @ axis) * axis) < 0.5)


def look(name: str, facets: int, fetch: Callable[[], dict], up: list, process: dict, step: dict) -> dict:
    """One remedy as it would be, unproved: words, numbers, volumes, and what it adds and takes away as triangles
    (base64 of float32, mm, part frame); or why it cannot be, a number out of its range included. ``name`` tells the
    standing part from others; ``fetch`` gives solid and view (bytes), bores, and ``free`` (see ``bounds_of``), by name.
    Raises InputError.
    """
    settings = Process(**process)
    if facets > MOST_FACETS:
        raise InputError(
            "too_large",
            f"A part of {facets:,} facets is not checked while you wait.",
            "Work the remedies out with these numbers instead.",
        )

    def stood() -> Bench:
        given = fetch()
        mesh = unpack_solid(given["solid"])
        known = bores_of(mesh, RayScene(mesh), given["solid"], given["view"], given["bores"])
        bounds = bounds_of(mesh, unpack_faces(given["view"], mesh), known, given["free"])
        return Bench.of(mesh, unit(up), settings, known, bounds)

    bench = _benches.get(name, stood)
    with _at_work:
        try:
            tool, added, removed = bench.looked_at(step)
        except Impossible as no:
            return {"why": str(no)} | NOTHING_SEEN
        except InputError as no:
            return {"why": f"{no.message} {no.hint}"} | NOTHING_SEEN
    volume = lambda t: float(np.einsum("ij,ij->", t[:, 0], np.cross(t[:, 1], t[:, 2])) / 6)
    sent = lambda t: b64encode(t.astype("<f4").tobytes()).decode()
    return {
        "why": None,
        "words": tool.words,
        "parameters": parameters(tool.key, tool.used, settings),
        "volume_added_mm3": volume(added),
        "volume_removed_mm3": volume(removed),
        "adds": sent(added),
        "takes": sent(removed),
    }


NOTHING_SEEN = {
    "words": "",
    "parameters": [],
    "volume_added_mm3": 0.0,
    "volume_removed_mm3": 0.0,
    "adds": "",
    "takes": "",
}


def propose(
    solid: bytes, view: bytes, bores: list | None, up: list, process: dict, steps: list | None, protected: list,
    loads: dict | None, title: str, free: dict, service: dict, supports: bool = True, exact: bytes | None = None,
) -> Iterator[tuple]:  # fmt: skip
    """Events of working remedies out: ``result`` (dict), ``view`` and ``file`` (bytes) of the changed part, ``exact``
    (bytes) where the part has an exact solid, then ``result`` once more with what that does not hold, and with the
    least reserve before and after, where there are loads. ``protected``: facets to be left alone; without ``supports``
    neither posts nor pillars. ``free``: see ``bounds_of``; ``service``: what a reserve is divided by, see ``held_by``.
    """
    yield ("doing", 0, 100, "preparing the part")
    mesh, process, up = unpack_solid(solid), Process(**process), unit(up)
    known = bores_of(mesh, RayScene(mesh), solid, view, bores)
    keep, faces = np.array(protected, int), unpack_faces(view, mesh)
    holds = held_by(mesh, faces, loads, process, service)
    bounds = bounds_of(mesh, faces, known, free, holds)

    def work(watch) -> Adapted:
        result = lambda what, done, total: watch(what, done / max(total, 1))
        if steps is None:
            return adapted(mesh, up, process, known, protected=keep, supports=supports, watch=result, bounds=bounds)
        chosen = [s for s in steps if s["on"]]
        return reworked(
            mesh, up, process, known, chosen, protected=keep, supports=supports, watch=result, bounds=bounds
        )

    found = yield from with_progress(work, 2, 60 if loads else 90)
    yield ("doing", 65 if loads else 94, 100, "calculating its time")
    result = _solved(found, process)
    if steps is None and found.left:
        yield ("doing", 66, 100, "looking for a better direction")
        better = other_direction(mesh, up, process, known, found.before.truth.needing_area, holds)
        result["better"] = better and better.as_dict()
    yield ("result", "view", pack_view(found.mesh, find_faces(found.mesh), found.marks.astype(np.int16)))
    yield ("result", "file", write_3mf(found.mesh, title))
    yield ("result", "result", result)
    if exact and found.applied:
        yield ("doing", 66, 100, "changing the exact solid")
        result |= yield from exactly_too(exact, title, found.made)
        yield ("result", "result", result)
    if holds:
        yield ("doing", 75, 100, "calculating the least reserve before and after")
        result["before"]["reserve"], result["after"]["reserve"] = holds.compared(found.mesh, up)
        if result["before"]["reserve"] is None:
            result["uncalculated"] = "The reserve was not calculated: the loads find no rest. The requirements say why."
        yield ("result", "result", result)


def exactly_too(exact: bytes, title: str, made: Made) -> Generator[tuple, None, dict]:
    """Event ``exact`` (bytes); what is ``uncarried``, or why the exact solid could not be changed at all."""
    try:
        carried = carried_over(exact, title, {title: made})
    except InputError as error:
        return {"uncarried": None, "inexact": f"{error.message} {error.hint}"}
    yield ("result", "exact", carried.data)
    return {"uncarried": carried.left, "inexact": None}


def afterwards(
    solid: bytes, view: bytes, bores: list | None, process: dict, ups: list, protected: list, loads: dict | None,
    free: dict, service: dict, supports: bool = True,
) -> Iterator[tuple]:  # fmt: skip
    """Events of working remedies out in one direction after the other; result ``rows`` (list of dict) grows."""
    yield ("doing", 0, len(ups), "preparing the part")
    mesh, settings = unpack_solid(solid), Process(**process)
    known = bores_of(mesh, RayScene(mesh), solid, view, bores)
    faces = unpack_faces(view, mesh)
    holds = held_by(mesh, faces, loads, settings, service)
    bounds = bounds_of(mesh, faces, known, free, holds)
    rows: list[dict] = []
    for number, up in enumerate(ups):
        yield ("doing", number, len(ups), f"remedies, {direction_words(unit(up))}")
        found = adapted(
            mesh, unit(up), settings, known, protected=np.array(protected, int), supports=supports, bounds=bounds
        )
        rows.append(RemediedDirection.of(up, found, holds).as_dict())
        yield ("result", "rows", list(rows))


def held_by(mesh: Mesh, faces: Faces, loads: dict | None, process: Process, service: dict) -> Holds | None:
    """What the part holds under its loads, to compare changed parts with; None without loads. ``service``: the
    circumstances (``around``) and the required ``factor``, so that a reserve is the one that strength tells.
    """
    if not loads or not loads["cases"] or not loads["fixed"]:
        return None
    around = Circumstances(**service["around"])

    def on(voxel_count: int) -> Solve:
        def solve(part: Mesh, like: Grid | None) -> Stressed | None:
            its_faces = faces if part is mesh else find_faces(part)
            there = loads if part is mesh else loads_again(loads, mesh, faces, part, its_faces)
            try:
                given = there and read_loads(there, len(part.faces))
                return given and stressed(part, its_faces, given, process, around, voxel_count, like=like)
            except InputError:
                return None

        return solve

    return Holds(mesh, process, on(COARSE), on(CLOSER), service["factor"])


def placed(candidates: list[dict], rows: list[dict]) -> list[dict]:
    """The rows with their rank among all candidates once remedies are counted, and why, best first."""
    found = [RemediedDirection.read(row) for row in rows]
    known = [Candidate(np.array(c["up"]), c["source"], c) for c in candidates]
    out = []
    for candidate, place in zip(known, ranked_after(known, found), strict=True):
        own = next((f for f in found if same_direction(f.up, candidate.up)), None)
        if own:
            before = candidate.measures
            result = {"rank": before["rank"], "rank_after": place, "words": explained(before, own)}
            result["reserve"] = own.reserve(before)
            out.append(own.as_dict() | result | {"up_words": direction_words(candidate.up), "up": before["up"]})
    return sorted(out, key=lambda row: row["rank_after"])


def _solved(found: Adapted, process: Process) -> dict:
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
    short = lambda column: significant(column, 5).tolist()
    grams = lambda row: (row["volume_added_mm3"] - row["volume_removed_mm3"]) * 1e-3 * process.stock.density
    return {
        "applied": [
            row | {"grams": grams(row), "parameters": parameters(row["key"], row["used"], process)}
            for row in (a.as_dict() for a in found.applied)
        ],
        "left": [row.as_dict() for row in found.left],
        "questions": [q.as_dict() for q in found.questions],
        "changed": found.changed,
        "unfit": [
            {"key": s["key"], "kind": s["kind"], "why": why, "centre_mm": s.get("centre_mm")} for s, why in found.unfit
        ],
        "before": stands(found.before, printed(found.before)),
        "after": stands(found.after, cost),
        "uncalculated": None,
        "better": None,
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


def facets_of(patches: list) -> list[int]:
    """Facets that pieces of a surface lie on."""
    return sorted({int(f) for p in patches for f in p.facets})
