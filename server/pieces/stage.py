"""Pieces as a stage: a part worked out as several, the way a person asks for."""

from hewel.refusal import Refused
from parts.queries import stored_exact
from pieces.models import Division, PieceFile
from stages.stage import Stage
from store import actions as store
from studies.view import DirectedJob

STANDING = ("embed", "in_place")
"""Ways that depend on how the part stands: a plate is put in, and what hangs droops, as it stands; a cut is a cut."""


def _rests_on(view: DirectedJob, said: dict) -> dict:
    return {
        "said": said,
        "clearance": clearance_for(view, said),
        "up": view.up if said["way"] in STANDING else None,
    }


def clearance_for(view: DirectedJob, said: dict) -> float:
    """mm per side: as typed, else by the farm's fit of that name."""
    if said["clearance"] is not None:
        return said["clearance"]
    return view.farm.fits(view.job["process"])[said["fit"]]["value"]


def _ready(view: DirectedJob, said: dict) -> None:
    if said["way"] in ("split", "separate") and (said["point"] is None or not any(said["normal"] or [])):
        raise Refused("bad_options", "No cut is named.", "Name a point of the cut and the way it looks.", 422)
    if said["way"] == "in_place" and not (said["pick"] and any(said["normal"] or []) and said["travel"]):
        told = "Point at the body that moves, name the way it goes and how far."
        raise Refused("bad_options", "No travel is named.", told, 422)
    if said["way"] in STANDING and view.direction is None:
        raise Refused(
            "no_direction", "No direction is known yet.", "Wait for the first candidate, or choose a direction.", 409
        )


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
    asked="said",
)
COMPUTATIONS = (PIECES.computation,)
