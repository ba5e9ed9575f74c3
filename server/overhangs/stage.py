"""Overhangs as a stage: the layers of the job's direction, walked under its process."""

from hewel.refusal import Refused
from overhangs.models import Walk
from stages.stage import Stage
from studies.view import DirectedJob
from work.models import Work


def _rests_on(view: DirectedJob, _: None) -> dict:
    return {"up": view.up}


def _stands(view: DirectedJob, _: None) -> None:
    if view.direction is None:
        raise Refused(
            "no_direction",
            "No direction is known yet.",
            "Wait for the first candidate, or choose a direction; then walk the layers.",
        )


def _given(walk: Walk, work: Work) -> dict:
    """Heights (mm) in a part at which a piece is put in at a pause and carries what would hang."""
    return {"carried": [p["height_mm"] for p in (walk.part.recipe or {}).get("pauses", [])]}


OVERHANGS = Stage(
    key="overhangs",
    model=Walk,
    kind="walk",
    function="overhangs.bridge.walk",
    inputs=_rests_on,
    audit="layers walked",
    priority=7,
    open_part=", so its layers have no inside.",
    ready=_stands,
    arguments=_given,
)
COMPUTATIONS = (OVERHANGS.computation,)
