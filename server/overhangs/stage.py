"""Overhangs as a stage: the layers of the job's direction, checked under its process."""

from overhangs import bridge
from overhangs.models import OverhangAnalysis
from stages.stage import Stage
from studies.view import DirectedJob, require_direction
from work.computations import always
from work.models import Work


def _rests_on(view: DirectedJob, _: None) -> dict:
    return {"up": view.up}


def _given(analysis: OverhangAnalysis, work: Work) -> dict:
    """What is put in at a pause and carries what would hang: a piece wherever it lies, a nut over its pocket."""
    part = analysis.part
    pieces = [{"height_mm": p["height_mm"]} for p in (part.recipe or {}).get("pauses", [])]
    cuts = [(row, row["cut"]) for row in part.job["hardware"]["rows"] if row["cut"]]
    nuts = [
        {"height_mm": cut["where"]["pause_mm"], "at": row["at"], "axis": row["axis"],
         "within_mm": 2 * cut["where"]["hole_mm"]}
        for row, cut in cuts
        if "pause_mm" in cut["where"] and bridge.same_direction(cut["up"], analysis.up)
    ]  # fmt: skip
    return {"carried": [*pieces, *nuts]}


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
