"""The only file of this app that calls the engine. ``work_out`` runs in a process of its own; the rest reads what it
left and answers at once.
"""

from collections.abc import Iterator
from dataclasses import asdict

import numpy as np

from hewel.watching import with_progress
from hewel_engine import ENGINE_VERSION
from hewel_engine.errors import InputError
from hewel_engine.geometry.frames import unit
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.patches import find_faces
from hewel_engine.geometry.rays import RayScene
from hewel_engine.hardware import catalogue
from hewel_engine.hardware.clamped import Field, Setting, preload_alone
from hewel_engine.hardware.holding import Holding, Unneeded, Wanted, what_holds
from hewel_engine.hardware.listing import shopping
from hewel_engine.hardware.placing import Placed, Seated, seated, triangles, what_of
from hewel_engine.hardware.reading import Asked, Reading, bolts_of
from hewel_engine.hardware.solving import Solved, solved
from hewel_engine.hardware.sums import by_hand
from hewel_engine.io.packing import bores_of, pack_view, unpack_faces, unpack_solid
from hewel_engine.io.threemf import write_3mf
from hewel_engine.loads.cases import read_loads
from hewel_engine.loads.regions import loads_again
from hewel_engine.processes import Process
from hewel_engine.reckoning.sizes import sizes
from hewel_engine.strength.allowables import ROOM, Circumstances, Factor, knock_downs, product
from hewel_engine.strength.reserves import band_of
from hewel_engine.strength.stressing import bare
from remedies.bridge import bounds_of, exactly_too

__all__ = ["ENGINE_VERSION", "ROOM", "InputError", "shopping"]

ITEMS = {"bolt": "socket_head_screw", "rod": "threaded_rod", "insert": "heat_set_insert", "key": "parallel_key",
         "boss": "socket_head_screw"}  # fmt: skip
PADS = ("6", "8", "10", "12", "16", "20")
"""mm of metal pads that are offered; any other can be typed."""


def offered(own: list[dict]) -> dict[str, list[str]]:
    """The sizes of every kind that the table has, in its order; the workshop's ``own`` before them."""
    known = {kind: [s.size for s in sizes() if s.item == item] for kind, item in ITEMS.items()}
    usual = [s for s in known["bolt"] if s in catalogue.SIZES]
    mine = {kind: [row["size"] for row in own if row["item"] == item] for kind, item in ITEMS.items()}
    return {
        kind: list(dict.fromkeys([*mine.get(kind, []), *rows]))
        for kind, rows in (known | {"bolt": usual, "boss": usual, "pad": list(PADS)}).items()
    }


def own_of(row: dict, own: list[dict]) -> list[dict]:
    """Of the workshop's own sizes those that a row of a job is made of."""
    names, used = {row["size"], row.get("steel")}, catalogue.items_of(row)
    return [size for size in own if size["item"] in used and size["size"] in names]


def work_out(
    solid: bytes, view: bytes, bores: list | None, up: list, process: dict, rows: list, protected: list, free: dict,
    loads: dict | None, title: str, voxel_count: int, exact: bytes | None = None,
) -> Iterator[tuple]:  # fmt: skip
    """Events of hardware cut into a part: results ``view``, ``steel`` and ``file`` (bytes), ``exact`` (bytes) where it
    has an exact solid, ``result`` (dict) and, where there are loads and bolts, ``points`` (bytes).
    """
    yield ("doing", 0, 100, "preparing the part")
    mesh, settings, way = unpack_solid(solid), Process(**process), unit(up)
    known = bores_of(mesh, RayScene(mesh), solid, view, bores)
    faces = unpack_faces(view, mesh)
    bounds = bounds_of(mesh, faces, known, free)
    rows = [row | {"cut": row["cut"] and row["cut"]["where"]} for row in rows]

    def cut(watch) -> Seated:
        tell = lambda what, done, total: watch(what, done / max(total, 1))
        return seated(mesh, way, settings, known, rows, np.array(protected, int), bounds, tell)

    made = yield from with_progress(cut, 2, 30)
    changed = made.mesh
    shapes = find_faces(changed)
    yield ("result", "view", pack_view(changed, shapes, made.came.marks.astype(np.int16)))
    steel = [triangles(p) for p in made.rows]
    if any(len(t) for t in steel):
        corners = np.concatenate(steel).reshape(-1, 3)
        of = np.repeat(np.arange(1, len(steel) + 1), [len(t) for t in steel]).astype(np.int16)
        yield ("result", "steel", pack_view(Mesh(corners, np.arange(len(corners)).reshape(-1, 3)), None, of))
    result = _told(mesh, made)
    if made.came.applied:
        yield ("result", "file", write_3mf(changed, title))
        if exact:
            yield ("doing", 32, 100, "changing the exact solid")
            result |= yield from exactly_too(exact, title, made.came.made)
    yield ("result", "result", result)
    if loads is None:
        return
    there = loads_again(loads, mesh, faces, changed, shapes)
    if there is None:
        words = "A held or loaded face is not found on the part with its places cut: look at where the steel stands."
        yield ("result", "result", result | {"unsolved": words})
        return
    given = bare(read_loads(there, len(changed.faces)))

    def solve(watch) -> Solved:
        return solved(made, shapes, given, settings, way, voxel_count, watch)

    try:
        found = yield from with_progress(solve, 35, 60)
    except InputError as no:
        yield ("result", "result", result | {"unsolved": f"{no.message} {no.hint}"})
        return
    yield ("doing", 96, 100, "reading the bolts")
    if found.points is not None:
        yield ("result", "points", found.points.packed())
    yield ("result", "result", result | {"solved": found.as_dict()})


def _told(before: Mesh, made: Seated) -> dict:
    return {
        "rows": [_row(p) for p in made.rows],
        "volume_mm3": made.mesh.volume,
        "was_mm3": before.volume,
        "uncarried": None,
        "inexact": None,
        "unsolved": None,
        "solved": None,
        "steps": [p.step for p in made.rows if p.where and p.step and not p.row.get("cut")],
    }


def _row(placed: Placed) -> dict:
    what = placed.what
    return {
        "id": placed.row["id"], "why": placed.why or None, "words": placed.words, "where": placed.where,
        "what": what.words if what else "", "doubts": list(what.doubts) if what else [],
        "bolt": isinstance(what, catalogue.Bolt),
    }  # fmt: skip


# ------------------------------------------------------------------ reading


def placed_again(rows: list[dict], result: dict, up: list, process: dict) -> list[Placed]:
    """The rows of a job where a result put them; one that it could not place has no ``where``."""
    found, settings, way = {r["id"]: r for r in result["rows"]}, Process(**process), unit(up)
    out = []
    for row in rows:
        known = found.get(row["id"])
        if known is None or known["where"] is None:
            continue
        what, step = what_of(row, way, settings)
        out.append(Placed(row, what, step, known["where"], "", known["words"]))
    return out


class Read:
    """A result as it is read now: bolts tightened as the rows say, held against what is ``asked`` of the part."""

    def __init__(
        self, rows: list[Placed], points: bytes, result: dict, process: dict, section: dict, warm: float,
        names: list[str], lines: list[list[dict]], factor: float,
    ):  # fmt: skip
        self.result, self.bolts = result, bolts_of(rows)
        cold = section["cold"]["n"] if section["cold"] else ROOM
        setting = Setting(
            tuple(p.row.get("torque") or 0.0 for p in self.bolts), section["nut_factor"], section["scatter"],
            section["relaxation"], section["settles_um"] / 1000, cold, warm,
        )  # fmt: skip
        self.asked = Asked(names, [[Factor(**row) for row in own] for own in lines], factor)
        self.reading = Reading(Field.unpacked(points), self.bolts, setting, Process(**process).stock)

    @property
    def torques(self) -> dict[str, float]:
        """N·mm by the id of the row."""
        return {p.row["id"]: b.torque for p, b in zip(self.bolts, self.reading.bolts, strict=True)}

    def told(self) -> dict:
        """Every bolt, every case, and the preload alone."""
        less, more = band_of(self.result["solved"]["cubes"], None)
        read = self.reading
        return {
            "bolts": [
                b.as_dict() | {"id": p.row["id"], "typed": bool(p.row.get("torque"))}
                for b, p in zip(read.bolts, self.bolts, strict=True)
            ],
            "cases": [
                c.as_dict()
                | {"low": c.clamped and c.clamped * less, "high": c.clamped and c.clamped * more}
                | {"alone": _divided(alone, self.asked.factor)}
                for c, alone in zip(read.cases(self.asked), self.result["solved"]["alone"], strict=True)
            ],
            "preload": preload_alone(read.field, read.bolts, read.material),
        }

    def fits(self) -> dict:
        """What holds of the bolts that are drawn, each size in place of theirs, fewer bolts, and the least torque that
        does.
        """
        found = what_holds(self.reading, self.asked)
        return {
            "holds": _holds(found) if isinstance(found, Holding) else None,
            "wanted": asdict(found) if isinstance(found, Wanted) else None,
            "without_steel": found.reserve if isinstance(found, Unneeded) else None,
            "sizes": [
                {"size": size, "torque_nmm": bolt.torque, "left_n": bolt.left, "reserve": reserve}
                for size, bolt, reserve in self.reading.by_size(self.asked)
            ],
            "counts": [asdict(row) for row in self.reading.by_count(self.asked)],
            "least_torque_nmm": self.reading.least_torque(self.asked),
        }


def _holds(found: Holding) -> dict:
    return {"ids": list(found.ids), "size": found.size, "torque_nmm": found.torque, "reserve": found.reserve}


def _divided(alone: dict, factor: float) -> dict:
    return alone | {"reserve": alone["reserve"] and alone["reserve"] / factor}


def cards(rows: list[Placed], up: list, process: dict, nature_lines: list[dict], factor: float) -> dict[str, dict]:
    """What every piece that is no bolt bears, by its row."""
    stock, way = Process(**process).stock, unit(up)
    kept = product([Factor(**row) for row in nature_lines], "all")
    pieces = [p for p in rows if not isinstance(p.what, catalogue.Bolt) and p.row["kind"] != "rod"]
    return {p.row["id"]: by_hand(p, way, stock, kept, factor) for p in pieces}


def lines_of(process: dict, around: dict) -> list[dict]:
    """The knock-downs of a load that stays as it is."""
    stock = Process(**process).stock
    return [line.as_dict() for line in knock_downs(stock, "static", None, Circumstances(**around))]


def grams(volume: float, process: dict) -> float:
    """Of so many mm³ of plastic."""
    return volume * 1e-3 * float(Process(**process).stock.density)


def price(process: dict) -> float:
    """Of a kilogram of plastic."""
    return float(Process(**process).stock.price)
