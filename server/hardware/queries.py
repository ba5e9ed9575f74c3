"""What is known of a part's hardware: where it sits, what it makes of the reserve, what is to be bought."""

from contextlib import suppress
from functools import cached_property
from typing import Any

from django.db import OperationalError, transaction

from farm.tables import csv_of
from hardware import bridge
from hardware.models import HardwareAnalysis
from hardware.stage import HARDWARE, rows_of
from hewel.digest import digest
from hewel.refusal import Refused
from hewel.single_flight import SingleFlightCache
from parts import queries as parts
from stages.stage import State
from store import actions as store
from strength import queries as strength
from strength.job import around, loads_of, service_of
from studies.view import DirectedJob

HAND_MINUTES = {"bolt": 1.5, "rod": 5.0, "insert": 1.0, "key": 1.0, "boss": 0.5, "pad": 0.5}
"""To put one in and tighten it: usual times at a bench, for comparing."""


def typed(view: DirectedJob) -> list[dict]:
    """The rows with what is read later, in the engine's units."""
    number = lambda row, key: row[key] and row[key]["n"]
    out = []
    for row, given in zip(view.job["hardware"]["rows"], rows_of(view), strict=True):
        later = {"name": row["name"], "count": row["count"]}
        later |= {k: number(row, k) for k in ("torque", "radius")}
        out.append(given | later | {"carries_n": number(row, "pull"), "carries_nmm": number(row, "turn")})
    return out


class Worked:
    """A result that answers for the job, read with today's torques, knock-downs and factor."""

    def __init__(self, view: DirectedJob, analysis: HardwareAnalysis):
        self.view, self.analysis = view, analysis
        job, process, up = view.job, analysis.process, analysis.up
        self.rows = bridge.placed_again(typed(view), analysis.result, up, process)
        self.service = service_of(job)
        cases = loads_of(job)[1]
        self.lines, self.kept = strength.sums_of(job, process, [c["id"] for c in cases], self.service)
        self.names, self.factor = [c["name"] for c in cases], self.service["factor"]

    @cached_property
    def read(self) -> bridge.Read | None:
        """Its bolts in the solution; None where there are no bolts, or no loads."""
        analysis, warm = self.analysis, self.service["temperature_c"]
        if not analysis.points_id or not analysis.result["solved"]:
            return None
        points, section = store.get(analysis.points), self.view.job["hardware"]
        warm = bridge.ROOM if warm is None else warm
        held_against = (self.names, self.lines, self.factor)
        return bridge.Read(self.rows, points, analysis.result, analysis.process, section, warm, *held_against)

    @property
    def name(self) -> str:
        """Of all that the reading rests on; its rows are there before its loads are solved."""
        job, analysis = self.view.job, self.analysis
        known = str(analysis.id), analysis.points_id, bool(analysis.result["solved"])
        return digest(known, job["hardware"], self.lines, self.factor, self.names)

    @property
    def told(self) -> dict | None:
        return self.read and self.read.told()

    @property
    def torques(self) -> dict[str, float]:
        if self.read is None:
            return {p.row["id"]: p.row["torque"] for p in self.rows if p.row.get("torque")}
        return self.read.torques

    @property
    def shopping(self) -> list[dict]:
        return bridge.shopping(self.rows, self.torques)

    @property
    def cards(self) -> dict[str, dict]:
        lines = bridge.lines_of(self.analysis.process, around(self.service))
        return bridge.cards(self.rows, self.analysis.up, self.analysis.process, lines, self.factor)

    @property
    def with_rods(self) -> list[dict] | None:
        """Of every case its reserve with the rods glued in, knock-downs and factor counted in."""
        solved = self.analysis.result["solved"]
        if not solved or not solved["with_rods"]:
            return None
        times = lambda value, k: value and value * k
        return [
            row | {"name": name, "plain": times(row["plain"], k), "reserve": times(row["reserve"], k),
                   "elements": times(row["elements"], k),
                   "bearing_reserve": times(row["bearing_reserve"], 1 / self.factor)}
            for row, name, k in zip(solved["with_rods"], self.names, self.kept, strict=True)
        ]  # fmt: skip

    @property
    def other_rods(self) -> list[dict]:
        """Each size of rod in place of those that are drawn: the least reserve."""
        solved = self.analysis.result["solved"] or {}
        out = []
        for row in solved.get("other_rods", []):
            held = [r * k for r, k in zip(row["reserves"], self.kept, strict=True) if r is not None]
            out.append({"size": row["size"], "reserve": min(held, default=None)})
        return out


def worked(view: DirectedJob) -> Worked | None:
    """What answers for the job; None where nothing does, or rests on what has changed."""
    analysis = view.result(HARDWARE)
    if analysis is None or analysis.result is None or view.changed(HARDWARE, analysis):
        return None
    return Worked(view, analysis)


TOLD = SingleFlightCache[dict](32)
"""Results as they were read, by all that they rest on."""
FITS = SingleFlightCache[dict](32)


def told_of(found: Worked) -> dict:
    return TOLD.get(found.name, lambda: {"told": found.told, "shopping": found.shopping, "cards": found.cards,
                                         "with_rods": found.with_rods, "other_rods": found.other_rods})  # fmt: skip


def reserve_of(found: Worked) -> dict | None:
    """The least reserve with all hardware, and its case; None without loads or without anything that carries. It is
    kept beside the result for as long as it is read from the same, so that a list of many parts reads nothing.
    """
    kept = found.analysis.least
    if kept is None or kept["for"] != found.name:
        kept = {"for": found.name, "is": _least(told_of(found))}
        # A question sees one state: where another has kept it since, that is as good.
        with suppress(OperationalError), transaction.atomic():
            HardwareAnalysis.objects.filter(id=found.analysis.id).update(least=kept)
    return kept["is"]


def reserve_with(view: DirectedJob) -> tuple[float, float] | None:
    """The least reserve of the part with all of its hardware as it is written, and the lower edge of its band; None
    where that is not known, or not all of it fits.
    """
    found = worked(view)
    if found is None or any(row["where"] is None for row in found.analysis.result["rows"]):
        return None
    least = reserve_of(found)
    lows = [c["low"] for c in (told_of(found)["told"] or {}).get("cases") or [] if c["low"] is not None]
    return least and (least["reserve"], min([least["reserve"], *lows]))


def _least(told: dict) -> dict | None:
    bolts = (told["told"] or {}).get("cases") or []
    rods = told["with_rods"] or []
    rows = [(c["clamped"], c["name"]) for c in bolts if c["clamped"] is not None]
    if not rows:
        rows = [(min(c["reserve"], c["elements"] or c["reserve"]), c["name"]) for c in rods if c["reserve"] is not None]
    least = min(rows, default=None)
    if least is None:
        return None
    preload = (told["told"] or {}).get("preload") or {}
    if preload.get("reserve") is not None and preload["reserve"] < min(1.0, least[0]):
        return {"reserve": preload["reserve"], "case": "the preload alone"}
    return {"reserve": least[0], "case": least[1]}


def offered(view: DirectedJob) -> dict[str, list[str]]:
    """The sizes of every kind, the workshop's own first."""
    return bridge.offered(view.farm.sizes())


def hardware_out(view: DirectedJob) -> dict:
    """The result that answers for the job; where there is none, the newest, which then is stale."""
    analysis = view.result(HARDWARE)
    out: dict[str, Any] = {"offered": offered(view), "analysis": None, "taken": None}
    if analysis is None:
        return out
    taken = next((p for p in parts.family(view.part) if (p.recipe or {}).get("of_hardware") == str(analysis.id)), None)
    found = worked(view)
    told = told_of(found) if found else {"told": None, "shopping": [], "cards": {}, "with_rods": None, "other_rods": []}
    result = analysis.result or {}
    return out | {
        "taken": taken and taken.id,
        "analysis": {
            "id": analysis.id,
            "up": analysis.up,
            "work": analysis.work,
            "stale_because": view.changed(HARDWARE, analysis),
            "done": analysis.result is not None,
            "view": analysis.view_id,
            "steel": analysis.steel_id,
            "rows": result.get("rows", []),
            "gained_mm3": result["volume_mm3"] - result["was_mm3"] if result else None,
            "inexact": result.get("inexact"),
            "uncarried": result.get("uncarried"),
            "unsolved": result.get("unsolved"),
            "solved": bool(result.get("solved")),
            "notes": (result.get("solved") or {}).get("notes", []),
            "cuts": len(result.get("steps", [])),
            **told,
        },
    }


def fits_out(view: DirectedJob) -> dict | None:
    """What holds of the bolts that are drawn, and what else would do; None while they are not in the solution."""
    found = worked(view)
    if found is None or found.read is None:
        return None
    return FITS.get(found.name, found.read.fits)


def list_csv(view: DirectedJob) -> str:
    """What is to be bought. Raises Refused while it is not known."""
    found = worked(view)
    if found is None:
        raise Refused("not_ready", "The hardware is not worked out yet.", "Calculate it first.", 409)
    rows = [["count", "item", "size", "length_mm", "torque_nm", "note"]]
    for line in told_of(found)["shopping"]:
        torque = line["torque_nmm"]
        rows.append(
            [line["count"], line["item"], line["size"], line["length_mm"] or "",
             f"{torque / 1000:.2f}" if torque else "", line["note"]]
        )  # fmt: skip
    return csv_of(rows)


def ways_out(view: DirectedJob) -> list[dict]:
    """What would make the part hold, side by side: as it is, turned, thicker, more perimeters, another material, and
    with its hardware; each with its reserve, plastic, time, hand minutes, and what it takes from the shelf.
    """
    up = view.up
    analysis = up and strength.answering(view, up)
    if not analysis:
        return []
    out = strength.direction_out(view, analysis)
    result, kilogram = out["result"], bridge.price(analysis.of.process)
    none = {"mass_g": 0.0, "seconds": 0.0, "minutes": 0.0, "shelf": "", "stage": None, "words": ""}
    rows = [none | {"key": "as_it_is", "words": "as it is", "reserve": out["reserve"]}]
    stages = {"turn": "direction", "perimeters": "direction", "neck": "walls", "radius": "walls"}
    for fix in result["fixes"] or []:
        rows.append(none | {k: fix[k] for k in ("key", "words", "reserve", "mass_g", "seconds")}
                    | {"stage": stages[fix["key"]]})  # fmt: skip
    better = [m for m in result["stock"] if not m["used"] and m["reserve"] is not None]
    if better:
        best = max(better, key=lambda m: m["reserve"])
        mass = best["mass_g"] - result["mass_g"]
        rows.append(none | {"key": "material", "words": f"change the material: {best['name']}", "mass_g": mass,
                            "reserve": best["reserve"], "stage": "direction"})  # fmt: skip
    found = worked(view)
    least = found and reserve_of(found)
    if found and least:
        kinds = sorted({p.row["kind"] for p in found.rows})
        count = len(found.rows)
        volume = found.analysis.result["volume_mm3"] - found.analysis.result["was_mm3"]
        gained = bridge.grams(volume, found.analysis.process)
        shelf = "; ".join(f"{r['count']} × {r['item']} {r['size']}" for r in told_of(found)["shopping"])
        minutes = sum(HAND_MINUTES[p.row["kind"]] for p in found.rows)
        words = f"hardware: {count} × {', '.join(kinds)}"
        rows.append(none | {"key": "hardware", "words": words, "reserve": least["reserve"], "mass_g": gained,
                            "seconds": None, "minutes": minutes, "shelf": shelf, "stage": "hardware"})  # fmt: skip
    machine = view.farm.numbers("machine", view.job["process"])
    steel = view.job["plate"]["hardware"]
    rows = [r | {"cost": _cost(r, machine, kilogram) + steel * (r["key"] == "hardware")} for r in rows]
    first, rest = rows[0], rows[1:]
    return [first, *sorted(rest, key=lambda r: -(r["reserve"] or 0.0))]


def _cost(way: dict, machine: dict, price: float) -> float:
    """What a way costs more for every part: plastic with its waste, machine hours, hands."""
    plastic = (way["mass_g"] or 0.0) / 1000 * price * (1 + machine["waste"])
    hours = (way["seconds"] or 0.0) / 3600 * machine["hourly_cost"]
    return plastic + hours + way["minutes"] / 60 * machine["hand_cost"]


def state(view: DirectedJob) -> State:
    """How far it is, for the list of stages."""
    rows, analysis = view.job["hardware"]["rows"], view.result(HARDWARE)
    if not rows:
        return {"state": "empty", "line": "none", "busy": False}
    busy = bool(analysis and analysis.work and analysis.work.open)
    if analysis is None or analysis.result is None:
        problem = analysis and analysis.work and analysis.work.problem
        line = "cannot be worked out" if problem and not busy else "being worked out" if busy else "not worked out"
        return {"state": "open", "line": line, "busy": busy}
    changed = view.changed(HARDWARE, analysis)
    if changed:
        return {"state": "stale", "line": f"{', '.join(changed[:2])} changed", "busy": busy}
    refused = sum(r["where"] is None for r in analysis.result["rows"])
    if refused:
        return {"state": "fails", "line": f"{refused} of {len(rows)} do not fit", "busy": busy}
    found = worked(view)
    least = found and reserve_of(found)
    words = f"{len(rows)} placed"
    if least and least["reserve"] < 1:
        return {"state": "fails", "line": f"fails, reserve {least['reserve']:.2f}", "busy": busy}
    if least:
        words += f", reserve {least['reserve']:.2f}"
    waits = bool(analysis.result["steps"])
    return {"state": "open" if waits else "settled", "line": words, "busy": busy}


def lines_for_machine(view: DirectedJob) -> list[str]:
    """What a technician fits and how tight, of a part whose places are cut; see the traveller of its plate."""
    if not any(r["cut"] for r in view.job["hardware"]["rows"]):
        return []
    found = worked(view)
    if found is None:
        return ["The hardware is not worked out for the part as it is: ask before anything is tightened."]
    out = []
    for line in told_of(found)["shopping"]:
        words = f"{line['count']} × {line['item']} {line['size']}"
        words += f" × {line['length_mm']:g} mm" if line["length_mm"] else ""
        words += f", tightened with {line['torque_nmm'] / 1000:.2f} N·m" if line["torque_nmm"] else ""
        out.append(words + (f", {line['note']}" if line["note"] else ""))
    return out
