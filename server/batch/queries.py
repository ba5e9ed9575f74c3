"""What is known of a part's batches: the plate, the curves, what was chosen."""

from collections.abc import Iterable
from typing import Any

import numpy as np

from batch import bridge
from batch.models import BatchAnalysis, BatchChoice, PreparedFile
from batch.stage import BATCH, machine_of
from hardware import queries as hardware
from hewel.refusal import Refused
from stages.stage import State
from store import actions as store
from strength import queries as strength
from strength.job import service_of
from studies.view import DirectedJob

INSET_S = 120.0
"""s that it takes to put in what a recipe puts in at a pause."""


def pauses_of(view: DirectedJob) -> list[dict]:
    """Every stop of a plate: those of the part's own recipe and of its hardware, then those that somebody wrote."""
    own = [
        {"height_mm": p["height_mm"], "wait_s": INSET_S, "cold": True, "words": "a piece is put in"}
        for p in (view.part.recipe or {}).get("pauses", [])
    ]
    own += [
        {
            "height_mm": cut["where"]["pause_mm"],
            "wait_s": INSET_S,
            "cold": True,
            "words": f"the nut of {name} is put in",
        }
        for name, cut in ((row["name"], row["cut"]) for row in view.job["hardware"]["rows"])
        if cut and "pause_mm" in cut["where"] and bridge.same_direction(cut["up"], view.up or cut["up"])
    ]
    typed = view.job["plate"]["pauses"]
    return own + [
        {"height_mm": p["height"]["n"], "wait_s": 60 * p["minutes"], "cold": p["cold"], "words": "written here"}
        for p in typed
    ]


def laid_of(analysis: BatchAnalysis) -> Any:
    """What its batches are read from. Raises Refused while it is not known."""
    if analysis.layers_id is None or analysis.result is None:
        raise Refused("not_filled", "The plate is still being filled.", "Ask again in a moment.", 404)
    return bridge.read(str(analysis.layers_id), lambda: store.get(analysis.layers), analysis.result)


def first_price(view: DirectedJob) -> dict | None:
    """What one copy by itself costs in the direction that the part stands in, before any plate is filled; None while
    its lines are not known.
    """
    same = (c for c in view.study.candidates if view.up and bridge.same_direction(c["up"], view.up))
    found = next(same, None)
    if found is None or found.get("grams") is None:
        return None
    machine = machine_of(view)
    prices = bridge.prices_of(view.process, machine, view.job["plate"]["hardware"])
    cost = bridge.alone(prices, machine, found["grams"], found["time_s"])
    return {"seconds": found["time_s"], "grams": found["grams"], "cost": cost["total"], "lines": cost}


def with_hardware(
    row: dict | None, steel: tuple[float, float] | None, weld: float, weld_low: float
) -> tuple[float | None, float | None]:
    """The reserve of a batch and the lower edge of its band, with the hardware of the part where that makes it better:
    the reserve with it times the least weld of the plate. What a bolt presses does not go down with the weld, so the
    part bears at least that.
    """
    if row is None:
        return None, None
    if steel is None:
        return row["reserve"], row["low"]
    return max(row["reserve"], steel[0] * weld), max(row["low"], steel[1] * weld_low)


class Batches:
    """The batches of a job as they are read now: its plate, machine, prices and strength."""

    def __init__(self, view: DirectedJob, analysis: BatchAnalysis):
        self.view, self.analysis, self.laid = view, analysis, laid_of(analysis)
        self.machine, self.pauses = machine_of(view), pauses_of(view)
        self.prices = bridge.prices_of(analysis.process, self.machine, view.job["plate"]["hardware"])
        self.solved = analysis.up and strength.answering(view, analysis.up)
        self.steel = hardware.reserve_with(view) if self.solved else None

    def options(self, mode: str, copies: list[int] | None = None) -> list[dict]:
        """Of every number of copies its figures; ``at`` what decides them."""
        found = bridge.curve(self.laid, self.analysis.process, mode, self.pauses, copies)
        gives = bridge.gives(found, self.analysis.result["grams"], self.machine, self.prices)
        none: list[dict | None] = [None] * len(gives)
        holds = strength.reserves_by_weld(self.view, self.solved, found.weld, found.weld_low) if self.solved else none
        weakest = found.weld.argmin(axis=1)
        out = []
        for i, (n, gain, row) in enumerate(zip(found.copies, gives, holds, strict=True)):
            k = int(weakest[i])
            reserve, low = with_hardware(row, self.steel, float(found.weld[i, k]), float(found.weld_low[i].min()))
            out.append(
                {
                    "mode": mode,
                    "copies": int(n),
                    "print_s": float(found.print_s[i]),
                    "layer_s": float(np.median(found.layer_s[i])),
                    "longest_s": float(found.layer_s[i].max()),
                    "weld": float(found.weld[i, k]),
                    "weld_low": float(found.weld_low[i].min()),
                    "reserve": reserve,
                    "low": low,
                    "per_day": gain["per_day"],
                    "cost": gain["cost"]["total"],
                    "at_hand": gain["at_hand"],
                    "at": {
                        "lines": gain["cost"],
                        "layer": k,
                        "wait_s": float(found.layer_s[i, k]),
                        "case": row and row["case"],
                        "fails_at": row and row["layer"],
                        "welds": (found.weld[i], found.weld_low[i]),
                    },
                }
            )
        return out

    def printed(self, mode: str, copies: int) -> tuple[float, list[list]]:
        """s of the machine for a plate of so many without its stops, heating and cooling in it; and the stops: s after
        its beginning, s of hands, what for, mm over the plate.
        """
        found = bridge.curve(self.laid, self.analysis.process, mode, [], [copies])
        layer_s, print_s = found.layer_s[0], float(found.print_s[0])
        turns = copies if mode == "sequential" else 1
        pitch, ready = self.analysis.result["layer_mm"], self.machine["ready_s"]
        stops = []
        for pause in self.pauses:
            reached = float(layer_s[: round(pause["height_mm"] / pitch)].sum())
            for turn in range(turns):
                at = ready + turn * print_s / turns + min(reached, print_s / turns)
                height = pause["height_mm"]
                stops.append([at, pause["wait_s"], f"{pause['words']} at {height:.1f} mm", height])
        return ready + print_s + self.machine["change_s"], sorted(stops)

    def mixed(self) -> dict | None:
        """The figures of this part on the plate with others; None where there are none."""
        plate = self.analysis.result.get("mixed")
        if plate is None:
            return None
        count = len(self.laid.copy.extruding)
        value, low = bridge.welds_after(self.laid, plate["layer_s"][:count])
        (row,) = strength.reserves_by_weld(self.view, self.solved, value[None], low[None]) if self.solved else [None]
        reserve, least = with_hardware(row, self.steel, float(value.min()), float(low.min()))
        names = [self.view.part.name, *(r["name"] for r in self.analysis.inputs["others"]["rows"])]
        return {
            **plate,
            "names": names,
            "weld": float(value.min()),
            "weld_low": float(low.min()),
            "reserve": reserve,
            "low": least,
            "welds": (value, low),
        }

    def judged(self, more: Iterable[dict] = ()) -> tuple[list[dict], int | None, list[str]]:
        """All options, and ``more``; which is proposed, and the sentence of each."""
        rows = [*(o for mode in bridge.MODES for o in self.options(mode)), *more]
        plain = ("mode", "copies", "reserve", "low", "per_day", "cost")
        quantity = self.view.job["need"]["quantity"]
        taken, words = bridge.best([{n: row[n] for n in plain} for row in rows], quantity, self.prices.scrap)
        return rows, taken, words


COLUMNS = ("copies", "print_s", "layer_s", "weld", "weld_low", "reserve", "low", "per_day", "cost", "at_hand")


def _columns(rows: list[dict]) -> dict:
    short = lambda v: float(f"{v:.4g}") if isinstance(v, float) else v
    return {name: [short(row[name]) for row in rows] for name in COLUMNS}


def _strength(view: DirectedJob, analysis: BatchAnalysis) -> dict:
    """Whether the reserves of the batches are known; what to do where they are not."""
    factor = service_of(view.job)["factor"]
    solved = strength.answering(view, analysis.up)
    if solved:
        worst = strength.worst_of(strength.cases_out(view, solved))
        doubts = ["Finer voxels may still change these reserves."] if worst and worst["doubtful"] else []
        if hardware.reserve_with(view):
            doubts.append(
                "With the part's hardware: its reserve with it times the least weld of the plate, or without it."
            )
        doubt = " ".join(doubts)
        return {"known": True, "words": "", "doubt": doubt, "factor": factor}
    found = strength.state(view)
    if found["state"] == "empty" and found["line"] == "no loads yet":
        words = "No load is written, so no reserve is known: write the loads first."
    elif found["busy"]:
        words = "The strength is being checked."
    else:
        words = f"The strength of this direction is not known ({found['line']}): check it first."
    return {"known": False, "words": words, "doubt": "", "factor": factor}


def batch_out(view: DirectedJob) -> dict:
    """The plate that answers for the job as it is; where there is none, the newest, which then is stale."""
    analysis, machine = view.result(BATCH), machine_of(view)
    plate = {
        "machine": view.farm_process["names"]["machine"],
        "hands_h": machine["hands_h"],
        "ready_s": machine["ready_s"],
        "change_s": machine["change_s"],
        "hand_cost": machine["hand_cost"],
        "pauses": pauses_of(view),
        "prepared": analysis and analysis.prepared.values_list("id", flat=True).first(),
        "chosen": _chosen(view, analysis),
    }
    if analysis is None:
        return {"analysis": None, **plate}
    filled = analysis.result is not None and analysis.layers_id is not None
    result = {
        "id": analysis.id,
        "work": analysis.work,
        "stale_because": view.changed(BATCH, analysis),
        "done": filled,
        "up": analysis.up,
        "bed": analysis.inputs["bed"],
        "plate": analysis.result,
        "curves": None,
        "proposed": None,
        "mixed": None,
        "strength": _strength(view, analysis),
    }
    if filled:
        known = Batches(view, analysis)
        rows, taken, words = known.judged()
        result["curves"] = {mode: _columns([r for r in rows if r["mode"] == mode]) for mode in bridge.MODES}
        mixed = known.mixed()
        result["mixed"] = mixed and {name: value for name, value in mixed.items() if name not in ("welds", "layer_s")}
        if taken is not None:
            result["proposed"] = {n: rows[taken][n] for n in ("mode", "copies")} | {"words": words[taken]}
    return {"analysis": result, **plate}


def point_out(view: DirectedJob, analysis: BatchAnalysis, mode: str, copies: int) -> dict:
    """One number of copies with all that is to be known of it. Raises Refused where so many do not stand."""
    known = Batches(view, analysis)
    asked = known.options(mode, [copies])
    if not asked:
        most = len(analysis.result["items"][mode])
        raise Refused("too_many", f"{copies} do not stand on this plate.", f"At most {most} do.", 422)
    point = asked[0]
    _, _, words = known.judged(asked)
    at, quantity = point["at"], view.job["need"]["quantity"]
    pitch = analysis.result["layer_mm"]
    height = lambda k: None if k is None or k < 0 else k * pitch
    return {
        **{name: value for name, value in point.items() if name != "at"},
        "words": words[-1],
        "lines": at["lines"],
        "case": at["case"],
        "fails_at_mm": height(at["fails_at"]),
        "weakest_at_mm": height(at["layer"]),
        "wait_s": at["wait_s"],
        "weld_words": bridge.weld_words(
            analysis.process, analysis.inputs["welding"], known.laid, at["wait_s"], at["layer"]
        ),
        "order": quantity and bridge.plates_for(quantity, copies, known.prices.scrap),
        "quantity": quantity,
        "ways": bridge.ways(point["cost"], view.job["plate"]["ways"], quantity),
        "items": bridge.placed(known.laid, analysis.inputs["bed"], mode, copies),
    }


def _choices(view: DirectedJob) -> dict[int, BatchChoice]:
    ids = [v.job["batch"]["id"] for v in view.together.views if v.job["batch"]]
    return {c.id: c for c in BatchChoice.objects.filter(id__in=ids).select_related("by")}


def chosen_of(view: DirectedJob) -> BatchChoice | None:
    given = view.job["batch"]
    return given and _chosen_ones(view).get(given["id"])


def _chosen_ones(view: DirectedJob) -> dict[int, BatchChoice]:
    return view.together.once("batches", lambda: _choices(view))


def _chosen(view: DirectedJob, analysis: BatchAnalysis | None) -> dict | None:
    choice = chosen_of(view)
    if choice is None:
        return None
    return {
        "mode": choice.mode,
        "copies": choice.copies,
        "items": choice.items,
        "measures": choice.measures,
        "prepared": choice.prepared,
        "reason": choice.reason,
        "by": choice.by.shown_name,
        "at": choice.at,
        "stale": outdated(view, choice),
    }


def outdated(view: DirectedJob, choice: BatchChoice) -> bool:
    """Whether the plate that it was chosen on is no longer the one that answers."""
    analysis = view.result(BATCH)
    return analysis is None or analysis.id != choice.analysis_id or bool(view.changed(BATCH, analysis))


MODE_WORDS = {"together": "together", "sequential": "one after another"}


def words_of(mode: str, copies: int) -> str:
    return "one at a time" if copies == 1 else f"{copies} {MODE_WORDS[mode]}"


def state(view: DirectedJob) -> State:
    analysis = view.result(BATCH)
    busy = analysis is not None and analysis.work.open
    choice = chosen_of(view)
    if choice is None:
        if analysis is None:
            return {"state": "empty", "line": "not planned", "busy": False}
        changed = view.changed(BATCH, analysis)
        if changed:
            return {"state": "stale", "line": f"{', '.join(changed[:2])} changed", "busy": busy}
        if analysis.result is None:
            return {"state": "open", "line": "being filled" if busy else "not planned", "busy": busy}
        most = len(analysis.result["items"]["together"])
        line = f"up to {most} on a plate" if most else "does not stand on the bed"
        return {"state": "open" if most else "fails", "line": line, "busy": busy}
    line = words_of(choice.mode, choice.copies)
    if outdated(view, choice):
        return {"state": "stale", "line": f"{line}, chosen on another plate", "busy": busy}
    solved = strength.answering(view, analysis.up)
    worst = solved and strength.worst_of(strength.cases_out(view, solved))
    least = worst and worst.get("with_least_weld", worst["reserve"])
    if least is not None and least < 1 and (steel := hardware.reserve_with(view)):
        least = max(least, steel[1] * choice.measures["weld_low"])
    if least is not None and least < 1:
        return {"state": "fails", "line": f"{line}: fails, {least:.2f}", "busy": busy}
    if not worst:
        return {"state": "open", "line": f"{line}, strength not known", "busy": busy}
    left = _differing(view).get(choice.id, 0)
    if left:
        words = f"{line}: {left} difference{'s' if left > 1 else ''} of its file"
        return {"state": "open", "line": words, "busy": busy}
    return {"state": "settled", "line": line, "busy": busy}


def _differing(view: DirectedJob) -> dict[int, int]:
    """Of every batch chosen how many differences of the newest file prepared for it nobody has settled."""
    return view.together.once("differences", lambda: _unsettled(_chosen_ones(view).values()))


def _unsettled(choices: Iterable[BatchChoice]) -> dict[int, int]:
    of = {(c.analysis_id, c.mode, c.copies): c.id for c in choices}
    rows = PreparedFile.objects.filter(analysis__in=[key[0] for key in of], result__isnull=False).order_by("at")
    found = {}
    for row in rows.values("analysis_id", "mode", "copies", "accepted", "result__differences"):
        choice = of.get((row["analysis_id"], row["mode"], row["copies"]))
        differences = enumerate(row["result__differences"])
        found[choice] = sum(d["state"] != "good" and str(i) not in row["accepted"] for i, d in differences)
    return found
