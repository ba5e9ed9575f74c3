"""The only file of this app that calls the engine. ``check``, ``analysis``, ``explore`` and ``viewer_field`` run in a
process of their own; the rest reads what they left and answers at once.
"""

import json
import tempfile
from collections.abc import Iterator
from dataclasses import replace
from functools import lru_cache
from pathlib import Path

import numpy as np

from hewel.rounding import significant
from hewel.watching import with_progress
from hewel_engine import ENGINE_VERSION
from hewel_engine.errors import InputError
from hewel_engine.geometry.frames import direction_words, same_direction, same_directions, unit
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.patches import Faces
from hewel_engine.geometry.rays import RayScene
from hewel_engine.io.fields import write_vtu
from hewel_engine.io.packing import bores_of, pack_field, unpack_faces, unpack_solid
from hewel_engine.loads.cases import LoadSet, read_loads
from hewel_engine.materials import MATERIALS, Material
from hewel_engine.orientation.candidates import swept_directions
from hewel_engine.processes import Process
from hewel_engine.strength.allowables import REQUIRED, Circumstances, Factor, knock_downs
from hewel_engine.strength.batches import reserves_by_weld, within_band
from hewel_engine.strength.criterion import indices, on_layers, tensors, von_mises
from hewel_engine.strength.explorer import INFILLS, PERIMETERS, explored
from hewel_engine.strength.fixes import fixes
from hewel_engine.strength.guess import compared
from hewel_engine.strength.reserves import (
    CriticalPoints,
    LayerWelds,
    Reserve,
    SectionedPart,
    allowed,
    band_of,
    kept_back,
    reserve_of,
    reserves,
    sectioned,
    worst_in_layers,
)
from hewel_engine.strength.serialization import Movement, all_directions, field_of, packed, serialized, unpacked
from hewel_engine.strength.stock import Service, beside
from hewel_engine.strength.stressing import COARSE, Stressed, in_service, stressed
from hewel_engine.strength.submodels import ROOM, looked_closely
from hewel_engine.strength.volume import volume_of

__all__ = ["ENGINE_VERSION", "REQUIRED", "InputError", "direction_words", "same_direction", "unit"]

VIEWED = 60_000
"""Voxels of the field for other viewers: a file of some ten megabytes."""


class _Given:
    """What a task is given, in the engine's terms."""

    def __init__(self, solid: bytes, view: bytes, loads: dict, process: dict, bond: float | None, movements: list):
        self.mesh: Mesh = unpack_solid(solid)
        self.faces: Faces = unpack_faces(view, self.mesh)
        self.loads: LoadSet = read_loads(loads, len(self.mesh.faces))
        self.process = Process(**process)
        self.around = Circumstances(bond=bond)
        self.stands: dict[tuple, SectionedPart] = {}
        self.movements = [Movement(tuple(m["point"]), tuple(m["direction"])) for m in movements]

    def solve(self, watch, voxel_count: int, up: np.ndarray | None = None) -> Stressed:
        return stressed(self.mesh, self.faces, self.loads, self.process, self.around, voxel_count, up, watch=watch)

    def closer(self, watch, found: Stressed, ups: list, bores: list) -> Stressed:
        room = min(ROOM, max(COARSE, len(found.model.lattice)))  # a closer look costs no more than the first
        return looked_closely(found, self.mesh, self.faces, self.loads, self.process, ups, bores, False, watch, room)

    def standing(self, up: np.ndarray) -> SectionedPart:
        if tuple(up) not in self.stands:
            self.stands[tuple(up)] = sectioned(self.mesh, up, self.process)
        return self.stands[tuple(up)]

    def result(self, found: Stressed, up: np.ndarray) -> dict:
        return serialized(found, self.process, self.standing(up), list(self.loads.holds), self.movements)


def check(
    solid: bytes, view: bytes, bores: list | None, flat_normals: list, loads: dict, process: dict, bond: float | None,
    movements: list, voxel_count: int, ups: list, full: bool = True,
) -> Iterator[tuple]:  # fmt: skip
    """Events of a check: for the coarse grid, the fine one, and the fine one with its loaded bores read closely,
    results ``net`` (bytes), ``analysis`` (up, what is told of it) for each of ``ups``, and ``level``; where it is not
    ``full``, for the coarse one alone. Raises ``bad_loads``.
    """
    yield ("doing", 0, 100, "preparing the part")
    given = _Given(solid, view, loads, process, bond, movements)
    asked = [unit(up) for up in ups]
    swept, _ = swept_directions(given.mesh, np.array(flat_normals, float).reshape(-1, 3))

    def results(found: Stressed, level: str) -> Iterator[tuple]:
        rows = all_directions(found, given.process, swept)
        yield ("result", "net", _net(swept, rows, len(found.model.lattice)))
        for up in asked:
            yield ("result", "stand", {"up": up.tolist(), "result": given.result(found, up)})
        yield ("result", "level", level)

    coarse = yield from with_progress(lambda watch: given.solve(watch, min(COARSE, voxel_count)), 0, 8 if full else 90)
    yield from results(coarse, "coarse")
    if not full:
        return
    fine = coarse
    if voxel_count > COARSE:
        fine = yield from with_progress(lambda watch: given.solve(watch, voxel_count), 10, 45)
        yield from results(fine, "coarse")
    # Only bores: the worst places are looked at where each direction is solved with its own layers.
    known = bores_of(given.mesh, RayScene(given.mesh), solid, view, bores)
    fine = yield from with_progress(lambda watch: given.closer(watch, fine, [], known), 60, 35)
    yield ("doing", 96, 100, "reading every direction")
    yield from results(fine, "full")


def _net(ups: np.ndarray, rows: list, voxel_count: int) -> bytes:
    figures = lambda a: significant(a, 5).tolist()
    result = {
        "ups": np.round(ups, 6).tolist(),
        "cubes": voxel_count,
        "cases": [{"reserve": figures(reserve), "felt": packed(critical_points)} for reserve, critical_points in rows],
    }
    return json.dumps(result, separators=(",", ":")).encode()


def one_direction(
    solid: bytes, view: bytes, bores: list | None, flat_normals: list, loads: dict, process: dict, bond: float | None,
    movements: list, voxel_count: int, up: list, services: list, around: dict, factor: float,
) -> Iterator[tuple]:  # fmt: skip
    """Events of one direction with its own layers: results ``layered`` (what is told of it) and ``volume`` (bytes),
    first as the grid gives them, then with bores and worst places read closely; and ``fixes`` where its least reserve
    under ``services`` (nature and cycles of every case), ``around`` and ``factor`` is below 1.
    """
    yield ("doing", 0, 100, "preparing the part")
    given = _Given(solid, view, loads, process, bond, movements)
    up = unit(up)
    found = yield from with_progress(lambda watch: given.solve(watch, voxel_count, up), 2, 45)
    yield ("result", "layered", given.result(found, up))
    yield ("result", "volume", pack_field(*volume_of(found, given.process.stock, up)))
    known = bores_of(given.mesh, RayScene(given.mesh), solid, view, bores)
    found = yield from with_progress(lambda watch: given.closer(watch, found, [up], known), 50, 30)
    yield ("doing", 82, 100, "reading every layer")
    yield ("result", "layered", given.result(found, up))
    yield ("result", "volume", pack_field(*volume_of(found, given.process.stock, up)))
    served, service = _loads_in_service(given.loads, services), Circumstances(**around)
    found = in_service(found, served, given.process.stock, service)
    least = min((r.reserve or np.inf for r in reserves(found, given.process.stock, up, factor)), default=np.inf)
    rows = []
    if least < 1:
        swept, _ = swept_directions(given.mesh, np.array(flat_normals, float).reshape(-1, 3))
        rows = yield from with_progress(
            lambda watch: _fixed(watch, given, found, served, up, swept, service, factor), 86, 14
        )
    yield ("result", "fixes", rows)


def _fixed(watch, given: _Given, found, loads, up, swept, service, factor) -> list[dict]:
    watch("calculating what would mend it", 0.0)
    got = fixes(found, given.standing(up), given.faces, loads, given.process, swept, service, factor)
    return [f.as_dict() for f in got]


def _loads_in_service(loads: LoadSet, services: list) -> LoadSet:
    cases = [
        replace(case, nature=nature, cycles=cycles)
        for case, (nature, cycles) in zip(loads.cases, services, strict=False)
    ]
    return replace(loads, cases=tuple(cases))


def explore(
    solid: bytes, view: bytes, bores: list | None, flat_normals: list, loads: dict, process: dict, bond: float | None,
    movements: list, voxel_count: int, up: list, services: list, around: dict, factor: float,
) -> Iterator[tuple]:  # fmt: skip
    """Perimeters against infill, pair by pair: result ``pair`` for each, knock-downs and factor counted in."""
    given = _Given(solid, view, loads, process, bond, movements)
    total = len(PERIMETERS) * len(INFILLS)
    yield ("doing", 0, total, "two perimeters, hollow")
    served = _loads_in_service(given.loads, services)
    pairs = explored(
        given.mesh, given.faces, served, given.process, unit(up), Circumstances(**around), factor, PERIMETERS, INFILLS,
    )  # fmt: skip
    for done, pair in enumerate(pairs, start=1):
        yield ("result", "pair", pair.as_dict())
        yield ("doing", done, total, f"{pair.perimeters} perimeters, {100 * pair.infill:.0f} % filled")


def viewer_field(
    solid: bytes, view: bytes, bores: list | None, flat_normals: list, loads: dict, process: dict, bond: float | None,
    movements: list, voxel_count: int, up: list, services: list, around: dict, factor: float,
) -> Iterator[tuple]:  # fmt: skip
    """Result ``field``: the stress of a middling grid with the layers of ``up``, as a VTK file."""
    given = _Given(solid, view, loads, process, bond, movements)
    up = unit(up)
    found = yield from with_progress(lambda watch: given.solve(watch, min(VIEWED, voxel_count), up), 0, 90)
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "field.vtu"
        write_vtu(file, found, given.process.stock, up)
        yield ("result", "field", file.read_bytes())


# ------------------------------------------------------------------ reading


def sum_of(process: dict, nature: str, cycles: float | None, around: dict, factor: float) -> tuple[list[dict], float]:
    """The knock-downs of a case, line by line, and what multiplies 1/index to its reserve."""
    lines = knock_downs(Process(**process).stock, nature, cycles, Circumstances(**around))
    return [line.as_dict() for line in lines], kept_back(lines, factor)


def strengths_of(process: dict) -> list[dict]:
    """The strengths that a check stands on: value, range and origin."""
    readings = Process(**process).stock.readings
    return [{"name": name, **readings[name].as_dict()} for name in ("x_t", "x_a", "z_t", "z_s", "x_c", "z_c")]


def _lines(rows: list[dict]) -> list[Factor]:
    return [Factor(**row) for row in rows]


def layer_welds(welds: dict) -> LayerWelds:
    """``value`` and ``low`` of every layer, ``pitch`` mm."""
    return LayerWelds(np.array(welds["value"]), np.array(welds["low"]), welds["pitch"])


def read(result: dict, process: dict, lines: list[list[dict]], factor: float, welds: dict | None = None) -> list[dict]:
    """Every case of what is told of a direction with its knock-downs and the required factor: reserve with its band,
    mode, place, sentence. The band holds the ranges of the strengths and what finer voxels may still change;
    ``doubtful`` where the latter alone may bring it below 1. With the ``welds`` of a batch each layer counts with its
    own, and the band holds theirs; ``weld`` is the share at the place, ``with_least_weld`` the reserve at the lower
    edge of the welds' band alone, on which a batch is judged.
    """
    out = _read(result, process, lines, factor)
    if welds is None:
        return out
    stock, up, plate = Process(**process).stock, np.array(result["up"]), result["plate_mm"]
    of_layers = layer_welds(welds)
    for case, own, row in zip(result["cases"], lines, out, strict=True):
        points, factors = unpacked(case["felt"]), _lines(own)
        kept, strength = kept_back(factors, factor), allowed(stock, factors)
        share = of_layers.at(points, up, plate)
        now, least = (
            reserve_of(points, up, plate, strength.times(1.0, s), kept)
            for s in (share, of_layers.at(points, up, plate, "low"))
        )
        if now.reserve is None or row["reserve"] is None or least.reserve is None:
            continue
        k = int(np.argmin(np.linalg.norm(points.places - now.at, axis=1)))
        low = row["low"] and within_band(
            now.reserve, now.reserve * row["low"] / row["reserve"], now.reserve, least.reserve
        )
        row |= now.as_dict() | {
            "sentence": now.sentence,
            "low": low,
            "high": row["high"] and row["high"] * now.reserve / row["reserve"],
            "doubtful": bool(now.reserve >= 1 and (row["doubtful"] or least.reserve < 1)),
            "weld": float(share[k]),
            "with_least_weld": least.reserve,
        }
    return out


def _read(result: dict, process: dict, lines: list[list[dict]], factor: float) -> list[dict]:
    stock, up, plate = Process(**process).stock, np.array(result["up"]), result["plate_mm"]
    less, more = band_of(result.get("cubes", 0), result["change"])
    out = []
    for case, own in zip(result["cases"], lines, strict=True):
        critical_points, factors = unpacked(case["felt"]), _lines(own)
        kept = kept_back(factors, factor)
        value, low, high = (
            reserve_of(critical_points, up, plate, allowed(stock, factors, bound), kept)
            for bound in ("value", "low", "high")
        )
        out.append(
            value.as_dict()
            | {
                "sentence": value.sentence,
                "doubtful": bool(value.reserve and value.reserve * less < 1 <= value.reserve),
                "low": low.reserve and low.reserve * less,
                "high": high.reserve and high.reserve * more,
            }
        )
    return out


def by_hand(
    result: dict, process: dict, lines: list[list[dict]], factor: float, welds: dict | None = None
) -> list[dict]:
    """The steps of every case from the stress at its worst point to the reserve, so that each can be followed by hand;
    and what passes through the section there.
    """
    stock, up = Process(**process).stock, np.array(result["up"])
    out = []
    for case, own, row in zip(result["cases"], lines, read(result, process, lines, factor, welds), strict=True):
        critical_points, factors = unpacked(case["felt"]), _lines(own)
        k = int(np.argmin(np.linalg.norm(critical_points.places - row["at_mm"], axis=1)))
        stress, lie = critical_points.stress[k : k + 1], critical_points.lie.within(np.array([k]))
        strength = allowed(stock, factors).times(1.0, row.get("weld", 1.0))
        used, on = indices(stress, up, strength, lie), on_layers(stress, up)
        level = int(np.argmin(np.abs(np.array(case["sections"]["z_mm"]) - row["z_mm"]))) if case["sections"] else None
        out.append(
            {
                "stress": stress[0].tolist(),
                "traction": (tensors(stress)[0] @ up).tolist(),
                "across": float(on.across[0]),
                "between": float(on.between[0]),
                "greatest": float(on.greatest[0]),
                "least": float(on.least[0]),
                "von_mises": float(von_mises(stress)[0]),
                "lines": float(lie.across(stress, up)[0]),
                "crossed": bool(lie.crossed(up)[0]),
                "strength": {n: getattr(strength, n) for n in ("x_t", "x_a", "x_crossed", "z_t", "z_s", "x_c", "z_c")},
                "interlayer": float(used.interlayer[0]),
                "in_layer": float(used.in_layer[0]),
                "compression": float(used.compression[0]),
                "index": float(used.worst[0]),
                "section": None if level is None else {n: column[level] for n, column in case["sections"].items()},
            }
        )
    return out


def demand_in(result: dict, process: dict, lines: list[list[dict]], welds: dict) -> list[list[float]]:
    """Of every case the share of the strength that each layer uses with the ``welds`` of a batch; knock-downs on all
    strengths and the required factor are not in it.
    """
    stock, up, plate = Process(**process).stock, np.array(result["up"]), result["plate_mm"]
    of_layers, out = layer_welds(welds), []
    count = len(of_layers.value)
    for case, own in zip(result["cases"], lines, strict=True):
        points = unpacked(case["felt"])
        parting = indices(points.stress, up, allowed(stock, _lines(own)), points.lie).interlayer
        worst, _ = worst_in_layers(points, parting, up, plate, of_layers.pitch, count)
        out.append(np.maximum(case["demand"], worst / np.maximum(of_layers.value, 1e-9)).tolist())
    return out


def by_weld(
    result: dict, process: dict, lines: list[list[dict]], factor: float, weld: np.ndarray, low: np.ndarray
) -> list[dict | None]:
    """The least reserve of a direction for each of many batches, whose layers keep ``weld`` and at least ``low``
    (n, layers): ``reserve``, ``low`` at the lower edge of the welds' band, ``case`` and ``layer`` that decide; None
    where no load acts. The scatter of the strengths is one of the ``lines``, and counts once.
    """
    stock, up = Process(**process).stock, np.array(result["up"])
    cases = [unpacked(c["felt"]) for c in result["cases"]]
    found = reserves_by_weld(
        cases, stock, [_lines(own) for own in lines], factor, up, result["plate_mm"], result["layer_mm"], weld, low
    )
    return [
        {
            "reserve": float(value),
            "low": float(least),
            "case": int(k),
            "layer": int(layer),
        }
        if value < NO_LOAD
        else None
        for value, least, k, layer in zip(found.reserve, found.low, found.case, found.layer, strict=True)
    ]


NO_LOAD = 1e6
"""Reserve from which nothing acts."""


def expected(guess: dict, case: dict, diagonal: float) -> dict:
    """An expected break beside the case that was found."""
    found = Reserve(
        case["name"], tuple(case["up"]), case["reserve"], case["mode"], 0.0, tuple(case["at_mm"]), case["z_mm"], {}, 0.0
    )
    got = compared(guess["how"], guess["spot"], found, diagonal)
    return {"way": got.way, "place": got.place, "away_mm": got.away}


def stock(result: dict, process: dict, services: list, around: dict, factor: float, records: list[dict]) -> list[dict]:
    """The stocked materials side by side: ``records`` (name, grade, own readings), then the generic grades."""
    used, up = Process(**process).stock, np.array(result["up"])
    shelf = [(r["name"], MATERIALS[r["grade"]].with_own(r["own"])) for r in records]
    shelf += [(None, m) for m in MATERIALS.values()]
    if all(m.readings != used.readings for _, m in shelf):
        shelf.append((None, used))
    named = [Material(m.key, name or m.name, m.readings) for name, m in shelf]
    rows = beside(
        [unpacked(c["felt"]) for c in result["cases"]], [Service(*s) for s in services], used, result["mass_g"],
        named, up, result["plate_mm"], Circumstances(**around), factor,
    )  # fmt: skip
    same = {m.name for m in named if m.readings == used.readings}
    own = {r["name"] for r in records}
    return [row.as_dict() | {"used": row.name in same, "own": row.name in own} for row in rows]


def read_net(net: bytes, process: dict, up: list[float], plate: float) -> list[dict]:
    """Every case in one direction by the solution for all of them, without knock-downs and factor, as ``read`` tells
    it; ``plate``: height along ``up`` at which the part stands.
    """
    result, stock, way = json.loads(net), Process(**process).stock, unit(up)
    less, more = band_of(result.get("cubes", 0), None)
    out = []
    for case in result["cases"]:
        points = unpacked(case["felt"])
        value, low, high = (
            reserve_of(points, way, plate, allowed(stock, [], b), 1.0) for b in ("value", "low", "high")
        )
        out.append(value.as_dict() | {
            "low": low.reserve and low.reserve * less, "high": high.reserve and high.reserve * more,
        })  # fmt: skip
    return out


@lru_cache(maxsize=8)
def _points_of(net: bytes) -> tuple[list[CriticalPoints], tuple[float, float]]:
    """The points of every case in the solution for all directions, and the factors of its band."""
    result = json.loads(net)
    return [unpacked(c["felt"]) for c in result["cases"]], band_of(result.get("cubes", 0), None)


def reserves_in(
    net: bytes, process: dict, lines: list[list[dict]], ups: list, banded: bool
) -> tuple[dict[str, np.ndarray], float]:
    """(cases, d) reserve of every case for directions ``ups`` with those of its ``lines`` that do not act on all
    strengths alike, and without the factor: ``value``, and where it is to be ``banded`` ``low`` and ``high``, see
    ``read``; and the factor that finer voxels may still put on it.
    """
    less, more = _points_of(net)[1]
    bounds = {"value": 1.0} | ({"low": less, "high": more} if banded else {})
    asked = json.dumps(process), json.dumps(lines), np.array(ups, float).tobytes()
    return {bound: by * _field(net, *asked, bound) for bound, by in bounds.items()}, less


@lru_cache(maxsize=32)
def _field(net: bytes, process: str, lines: str, ups: bytes, bound: str) -> np.ndarray:
    """(cases, d); kept, for other weights of a ranking ask for the same."""
    weld = [_lines(own) for own in json.loads(lines)]
    stock = Process(**json.loads(process)).stock
    return field_of(_points_of(net)[0], stock, weld, np.frombuffer(ups).reshape(-1, 3), bound)


def places_of(up: list, ups: list) -> list[int]:
    """Which of directions ``ups`` are ``up``."""
    return np.flatnonzero(same_directions(up, ups)).tolist()
