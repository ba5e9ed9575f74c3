"""What is known of a part's walls."""

from hewel.refusal import Refused
from stages.stage import State
from store import actions as store
from strength import job as strength
from studies.view import DirectedJob
from walls import bridge
from walls.models import WallAnalysis
from walls.stage import WALLS

NOTHING_YET = {
    "min_thickness_mm": None, "min_at_mm": None, "histogram": None, "zones": [], "untold": 0, "lump_area_mm2": None,
    "comb": None, "places": [],
}  # fmt: skip


def lines_of(analysis: WallAnalysis, number: int) -> dict:
    """What the nozzle draws of one layer. Raises Refused where there is no such layer."""
    count = len(analysis.layers["slit_mm2"]) if analysis.layers else 0
    if not 0 <= number < count:
        raise Refused("not_found", "There is no such layer here.", "Reload the page.", 404)
    solid = analysis.part.solid
    return bridge.lines(solid.digest, lambda: store.get(solid), analysis.up, analysis.process, number)


def sized(view: DirectedJob, asked: dict) -> dict:
    """A piece of the part sized by calculation. Raises Refused."""
    try:
        service = strength.around(strength.service_of(view.job))
        return bridge.sized(asked, view.up or [0, 0, 1], view.process, service)
    except bridge.InputError as error:
        raise Refused(error.code, error.message, error.hint, 422) from None


FILLED = ("sound", "heavy")
"""Kinds of walls that lines and infill fill."""


def headline(result: dict) -> list[dict]:
    """What the list of walls comes to, one phrase for each part of it; empty where nothing is to be done."""
    zones, places = result["zones"], len(result["places"])
    wrong = [z for z in zones if z["kind"] not in FILLED]
    thinner = sum(z["kind"] == "heavy" and any(b["advised"] for b in z["better"]) for z in zones)
    weak = sum(z["because"] == "weak" for z in zones)
    poor = any(z["kind"] != "gap" for z in wrong)
    rows = [
        (weak, f"{weak} too weak", True),
        (len(wrong), f"{len(wrong)} not in whole lines", poor),
        (thinner, f"{thinner} could be thinner", False),
        (places, f"{places} other findings", False),
    ]
    return [{"words": words, "grave": grave} for count, words, grave in rows if count]


def measured(view: DirectedJob) -> dict | None:
    """What the walls of the job as it is came to; None while they are not measured."""
    analysis = view.result(WALLS)
    return analysis.result if analysis and analysis.result and not view.changed(WALLS, analysis) else None


def thinnest_of(view: DirectedJob) -> float | None:
    """mm of the thinnest wall; None where there is none, or it is not known."""
    result = measured(view)
    return result and result.get("min_thickness_mm")


def walls_out(view: DirectedJob) -> dict:
    """The gauging that answers for the job as it is; where there is none, the newest, which then is stale."""
    analysis = view.result(WALLS)
    if analysis is None:
        return {"analysis": None}
    result = NOTHING_YET | (analysis.result or {})
    return {
        "analysis": {
            "id": analysis.id,
            "work": analysis.work,
            "stale_because": view.changed(WALLS, analysis),
            "done": analysis.result is not None,
            "view": analysis.view_id,
            "process": analysis.process,
            "up": analysis.up,
            "layers": analysis.layers,
            "headline": headline(result),
            **result,
        }
    }


def state(view: DirectedJob) -> State:
    analysis = view.result(WALLS)
    if analysis is None:
        return {"state": "empty", "line": "not measured", "busy": False}
    result, busy = NOTHING_YET | (analysis.result or {}), analysis.work.open
    if analysis.result is None:
        line = "being measured" if busy else "not measured"
    else:
        line = next((row["words"] for row in headline(result)), "nothing to change")
    if view.changed(WALLS, analysis):
        return {"state": "stale", "line": line, "busy": busy}
    asks = any(z["kind"] not in FILLED or z["because"] == "weak" for z in result["zones"])
    asks = asks or any(p["kind"] == "boss" for p in result["places"])
    settled = analysis.result is not None and not asks
    return {"state": "settled" if settled else "open", "line": line, "busy": busy}
