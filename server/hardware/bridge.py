"""The only file of this app that calls the engine. ``work_out`` runs in a process of its own; the rest reads what it
left and answers at once.
"""

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from hewel.watching import with_progress
from hewel_engine import ENGINE_VERSION
from hewel_engine.errors import InputError
from hewel_engine.geometry.frames import unit
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.patches import find_faces
from hewel_engine.geometry.rays import RayScene
from hewel_engine.hardware import catalogue
from hewel_engine.hardware.clamped import Field, Joint, Setting, least_torque, preload_alone, tightened, verdicts
from hewel_engine.hardware.listing import shopping
from hewel_engine.hardware.placing import Placed, Seated, bolt_for, seated, triangles, what_of
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


def offered() -> dict[str, list[str]]:
    """The sizes of every kind that the table has, in its order."""
    known = {kind: list(dict.fromkeys(s.size for s in sizes() if s.item == item)) for kind, item in ITEMS.items()}
    usual = [s for s in known["bolt"] if s in catalogue.SIZES]
    return known | {"bolt": usual, "boss": usual, "pad": list(PADS)}


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
    """A result as it is read now: bolts tightened as the rows say, under today's knock-downs and factor."""

    def __init__(self, rows: list[Placed], points: bytes, result: dict, process: dict, section: dict, warm: float):
        self.process, self.result = Process(**process), result
        self.field = Field.unpacked(points)
        self.bolts = [p for p in rows if isinstance(p.what, catalogue.Bolt)]
        self.joint = Joint.of(self.bolts, float(self.process.stock.e_z))
        cold = section["cold"]["n"] if section["cold"] else ROOM
        self.setting = Setting(
            tuple(p.row.get("torque") or 0.0 for p in self.bolts), section["nut_factor"], section["scatter"],
            section["relaxation"], section["settles_um"] / 1000, cold, warm,
        )  # fmt: skip
        self.torque = self._usual(self.setting, self.joint)
        self.tight = self._with(self.torque)
        self.tightened = tightened(self.field, self.joint, self.tight, self.process.stock)

    def _usual(self, setting: Setting, joint: Joint) -> tuple[float, ...]:
        """N·mm as typed; else what the seats of all bolts of one size bear, in two figures, as one sets a wrench."""
        bears = tightened(self.field, joint, self._with((0.0,) * len(joint.bolts)), self.process.stock)
        of = lambda size: min(b.most_torque for b, bolt in zip(bears, joint.bolts, strict=True) if bolt.size == size)
        return tuple(t or two_figures(of(b.size)) for t, b in zip(setting.torque, joint.bolts, strict=True))

    def _with(self, torque: tuple[float, ...]) -> Setting:
        return replace(self.setting, torque=torque)

    def told(self, names: list[str], lines: list[list[dict]], factor: float) -> dict:
        """Every bolt, every case, and the preload alone."""
        factors = [[Factor(**row) for row in own] for own in lines]
        stock = self.process.stock
        cases = verdicts(self.field, self.joint, self.tightened, names, factors, stock, factor)
        less, more = band_of(self.result["solved"]["cubes"], None)
        return {
            "bolts": [
                b.as_dict() | {"id": p.row["id"], "typed": bool(p.row.get("torque"))}
                for b, p in zip(self.tightened, self.bolts, strict=True)
            ],
            "cases": [
                c.as_dict()
                | {"low": c.clamped and c.clamped * less, "high": c.clamped and c.clamped * more}
                | {"alone": _divided(alone, factor)}
                for c, alone in zip(cases, self.result["solved"]["alone"], strict=True)
            ],
            "preload": preload_alone(self.field, self.tightened, stock),
        }

    def least_torque(self, lines: list[list[dict]], factor: float) -> list[float] | None:
        """N·mm of each bolt at which every case just holds; None where what the seats bear does not do."""
        factors = [[Factor(**row) for row in own] for own in lines]
        share = least_torque(self.field, self.joint, self.tight, factors, self.process.stock, factor)
        return None if share is None else [share * t for t in self.torque]

    def by_size(self, names: list[str], lines: list[list[dict]], factor: float) -> list[dict]:
        """Each size in place of the one that is drawn, with the same head, washer and nut, tightened as far as its
        seats bear: the places of this solution stand for its own.
        """
        factors = [[Factor(**row) for row in own] for own in lines]
        out, stock = [], self.process.stock
        for size in catalogue.SIZES:
            try:
                bolts = tuple(bolt_for(p.row | {"size": size}, self.field.up) for p in self.bolts)
            except InputError:
                continue
            areas = []
            for bolt, grip in zip(bolts, self.joint.grips, strict=True):
                head, nut = bolt.seats(grip, float(stock.e_z))
                ring = lambda wide, hole: np.pi / 4 * max(wide**2 - hole**2, 1e-6)
                areas.append((ring(head, bolt.bore), ring(nut, bolt.bore)))
            joint = Joint(bolts, self.joint.names, self.joint.grips, tuple(areas), self.joint.axes)
            most = self._with(self._usual(self._with((0.0,) * len(bolts)), joint))
            rows = tightened(self.field, joint, most, stock)
            cases = verdicts(self.field, joint, rows, names, factors, stock, factor)
            reserve = min((c.clamped for c in cases if c.clamped is not None), default=None)
            least = min(rows, key=lambda b: b.torque)
            out.append({"size": size, "torque_nmm": least.torque, "left_n": least.left, "reserve": reserve})
        return out


def two_figures(value: float) -> float:
    """Rounded down to two significant figures; 0 stays 0."""
    if value <= 0:
        return 0.0
    step = 10.0 ** (np.floor(np.log10(value)) - 1)
    return float(np.floor(value / step + 1e-9) * step)


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
