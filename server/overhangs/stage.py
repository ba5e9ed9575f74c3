"""Overhangs as a stage: the layers of the job's direction, checked under its process."""

from overhangs.models import OverhangAnalysis
from stages.stage import Stage
from studies.view import DirectedJob, require_direction
from work.computations import always
from work.models import Work


def _rests_on(view: DirectedJob, _: None) -> dict:
    return {"up": view.up}


def _given(analysis: OverhangAnalysis, work: Work) -> dict:
    """Heights (mm) in a part at which a piece is put in at a pause and carries what would hang."""
    return {"carried": [p["height_mm"] for p in (analysis.part.recipe or {}).get("pauses", [])]}


OVERHANGS = Stage(
    key="overhangs",
    model=OverhangAnalysis,
    kind="walk",
    function="overhangs.bridge.check_layers",
    inputs=_rests_on,
    audit="layers checked",
    priority=7,
    open_part=", so its layers have no inside.",
    quick=always,
    ready=require_direction,
    arguments=_given,
)
COMPUTATIONS = (OVERHANGS.computation,)
