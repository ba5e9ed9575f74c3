"""The stages of a part and how far each is, for the list beside every page: all in one answer."""

from importlib import import_module
from uuid import UUID

from django.conf import settings
from django.http import HttpRequest
from ninja import Router, Schema

from desk.schemas import StageOut
from hardware import queries as hardware
from hewel.refusal import Problem, Refused
from needs import queries as needs
from parts.queries import parts_of, unit_asked
from stages.stage import State
from studies.view import DirectedJob, view_of
from trials import queries as trials

router = Router(tags=["stages"])


def _part(view: DirectedJob) -> State:
    if unit_asked(view.part):
        return {"state": "open", "line": "say its unit", "busy": False}
    mended = len(view.part.warnings)
    line = f"{mended} mended or guessed" if mended else "came in sound"
    return {"state": "settled", "line": line, "busy": view.part.facts["bores"] is None}


def rail(view: DirectedJob) -> list[dict]:
    """Every stage with its state, in the order of the work."""
    apps = {app: import_module(f"{app}.queries") for app in settings.STAGES}
    rows = [("facts", _part(view)), ("requirements", needs.state(view))]
    rows += [(KEYS.get(app, app), queries.state(view)) for app, queries in apps.items() if hasattr(queries, "state")]
    rows.append(("trials", trials.state(view)))
    return [{"key": key, **_with_hardware(view, key, state)} for key, state in rows]


def _with_hardware(view: DirectedJob, key: str, state: State) -> State:
    """A part that fails by itself and holds with its hardware has no failing strength."""
    if key != "strength" or state["state"] != "fails":
        return state
    held = hardware.reserve_with(view)
    if held is None or held[0] < 1:
        return state
    reserve, low = held
    without = state["line"].removeprefix("fails, ").removeprefix("reserve ")
    words = f"{reserve:.2f} with hardware; without: {without}"
    if low < 1:
        return {**state, "state": "open", "line": f"may fail, {words}"}
    return {**state, "state": "settled", "line": words}


KEYS = {"studies": "direction"}
"""What a stage is called in the page's addresses, where its app has another name."""


class StandingOut(Schema):
    part: UUID
    stages: list[StageOut]


MOST = 100
"""Parts whose stages are told in one answer: as many as a list shows at once."""


@router.get("", response={200: list[StandingOut], 422: Problem}, operation_id="list_stages")
def list_stages(request: HttpRequest, parts: str = ""):
    """How far the stages are of the parts named by their ids, with commas; of the newest where none is named."""
    rows = parts_of(request.user)
    if parts:
        rows = rows.filter(id__in=_ids(parts))
    return [{"part": view.part.id, "stages": rail(view)} for view in DirectedJob.of(rows[:MOST])]


def _ids(words: str) -> list[UUID]:
    try:
        return [UUID(word) for word in words.split(",")][:MOST]
    except ValueError:
        raise Refused("bad_options", "That is no list of parts.", "Reload the page.", 422) from None


@router.get("/{part_id}", response={200: list[StageOut], 404: Problem}, operation_id="get_stages")
def get_stages(request: HttpRequest, part_id: UUID):
    return rail(view_of(request.user, part_id))
