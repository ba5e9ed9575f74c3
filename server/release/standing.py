"""How far every stage before the release is: one list, for the rail beside every page and for the gate."""

from importlib import import_module

from django.conf import settings

from hardware import queries as hardware
from needs import queries as needs
from parts.queries import unit_asked
from stages.stage import State
from studies.view import DirectedJob
from trials import queries as trials

KEYS = {"studies": "direction"}
"""What a stage is called in the page's addresses, where its app has another name."""


def _part(view: DirectedJob) -> State:
    if unit_asked(view.part):
        return {"state": "open", "line": "say its unit", "busy": False}
    mended = len(view.part.warnings)
    line = f"{mended} mended or guessed" if mended else "came in sound"
    return {"state": "settled", "line": line, "busy": view.part.facts["bores"] is None}


def stages_of(view: DirectedJob) -> list[dict]:
    """Every stage but the release with its state, in the order of the work."""
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
