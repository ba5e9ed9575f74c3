"""Pieces as a stage: a part worked out as several, the way a person asks for."""

from hewel.refusal import Refused
from parts.queries import stored_exact
from pieces.models import Division, PieceFile
from stages.stage import Stage
from store import actions as store
from studies.view import DirectedJob, require_direction

STANDING = ("embed", "in_place")
"""Ways that depend on how the part stands: a plate is put in, and what hangs droops, as it stands; a cut is a cut."""


def _rests_on(view: DirectedJob, request: dict) -> dict:
    return {
        "request": request,
        "clearance": clearance_for(view, request),
        "up": view.up if request["way"] in STANDING else None,
    }


def clearance_for(view: DirectedJob, request: dict) -> float:
    """mm per side: as typed, else by the farm's fit of that name."""
    if request["clearance"] is not None:
        return request["clearance"]
    return view.farm.fits(view.job["process"])[request["fit"]]["value"]


def _ready(view: DirectedJob, request: dict) -> None:
    if request["way"] in ("split", "separate") and (request["point"] is None or not any(request["normal"] or [])):
        raise Refused("bad_options", "No cut is named.", "Name a point of the cut and the way it looks.", 422)
    if request["way"] == "in_place" and not (request["pick"] and any(request["normal"] or []) and request["travel"]):
        result = "Point at the body that moves, name the way it goes and how far."
        raise Refused("bad_options", "No travel is named.", result, 422)
    if request["way"] in STANDING:
        require_direction(view)


def _keep(division: Division, name: str, value) -> bool:
    if name != "piece":
        return False
    number, data = value
    files = {what: store.put(content) for what, content in data.items()}
    PieceFile.objects.update_or_create(division=division, number=number, defaults=files)
    return True


PIECES = Stage(
    key="pieces",
    model=Division,
    kind="divide",
    function="pieces.bridge.divide",
    inputs=_rests_on,
    audit="pieces worked out",
    priority=7,
    open_part=", so there is no solid to cut.",
    ready=_ready,
    arguments=lambda division, work: {"exact": stored_exact(division.part), "title": division.part.name},
    keep=_keep,
    asked="request",
)
COMPUTATIONS = (PIECES.computation,)
