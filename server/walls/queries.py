"""What is known of a part's walls."""

from hewel.refusal import Refused
from stages.stage import State
from store import actions as store
from strength import job as strength
from studies.view import DirectedJob
from walls import bridge
from walls.models import Gauging
from walls.stage import WALLS

NOTHING_YET = {
    "min_thickness_mm": None, "min_at_mm": None, "histogram": None, "zones": [], "untold": 0, "lump_area_mm2": None,
    "comb": None, "places": [],
}  # fmt: skip


def lines_of(gauging: Gauging, number: int) -> dict:
    """What the nozzle draws of one layer. Raises Refused where there is no such layer."""
    count = len(gauging.layers["slit_mm2"]) if gauging.layers else 0
    if not 0 <= number < count:
        raise Refused("not_found", "There is no such layer here.", "Reload the page.", 404)
    solid = gauging.part.solid
    return bridge.lines(solid.digest, lambda: store.get(solid), gauging.up, gauging.process, number)


def reckoned(view: DirectedJob, asked: dict) -> dict:
    """A piece of the part sized by reckoning. Raises Refused."""
    try:
        service = strength.around(strength.service_of(view.job))
        return bridge.reckoned(asked, view.up or [0, 0, 1], view.process, service)
    except bridge.InputError as error:
        raise Refused(error.code, error.message, error.hint, 422) from None


FILLED = ("sound", "heavy")
"""Kinds of walls that lines and infill fill."""


def headline(told: dict) -> list[dict]:
    """What the list of walls comes to, one phrase for each part of it; empty where nothing is to be done."""
    zones, places = told["zones"], len(told["places"])
    wrong = [z for z in zones if z["kind"] not in FILLED]
    thinner = sum(z["kind"] == "heavy" and any(b["advised"] for b in z["better"]) for z in zones)
    weak = sum(z["because"] == "weak" for z in zones)
    poor = any(z["kind"] != "gap" for z in wrong)
    rows = [
        (weak, f"{weak} too weak", True),
        (len(wrong), f"{len(wrong)} not in whole lines", poor),
        (thinner, f"{thinner} could be thinner", False),
        (places, f"{places} beside the walls", False),
    ]
    return [{"words": words, "grave": grave} for count, words, grave in rows if count]


def walls_out(view: DirectedJob) -> dict:
    """The gauging that answers for the job as it is; where there is none, the newest, which then is stale."""
    gauging = view.result(WALLS)
    if gauging is None:
        return {"gauging": None}
    changed = view.changed(WALLS, gauging)
    told = NOTHING_YET | (gauging.told or {})
    return {
        "gauging": {
            "id": gauging.id,
            "work": gauging.work,
            "stale": bool(changed),
            "changed": changed,
            "done": gauging.told is not None,
            "view": gauging.view_id,
            "process": gauging.process,
            "up": gauging.up,
            "layers": gauging.layers,
            "headline": headline(told),
            **told,
        }
    }


def state(view: DirectedJob) -> State:
    gauging = view.result(WALLS)
    if gauging is None:
        return {"state": "empty", "line": "not measured", "busy": False}
    told, busy = NOTHING_YET | (gauging.told or {}), gauging.work.open
    if gauging.told is None:
        line = "being measured" if busy else "not measured"
    else:
        line = next((row["words"] for row in headline(told)), "nothing to change")
    if view.changed(WALLS, gauging):
        return {"state": "stale", "line": line, "busy": busy}
    asks = any(z["kind"] not in FILLED or z["because"] == "weak" for z in told["zones"])
    asks = asks or any(p["kind"] == "boss" for p in told["places"])
    settled = gauging.told is not None and not asks
    return {"state": "settled" if settled else "open", "line": line, "busy": busy}
