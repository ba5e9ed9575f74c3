"""Walls as a stage: measured for the job's process, direction and loads."""

from stages.stage import Stage
from strength.job import divided_by, loads_in_service
from studies.view import DirectedJob
from walls.models import WallAnalysis
from work.computations import always


def _rests_on(view: DirectedJob, _: None) -> dict:
    return {
        "up": view.up,
        "loads": loads_in_service(view.job),
        "service": divided_by(view.job),
    }


WALLS = Stage(
    key="walls",
    model=WallAnalysis,
    kind="gauge",
    function="walls.bridge.gauge",
    inputs=_rests_on,
    audit="walls measured",
    priority=8,
    open_part=", so its walls have no other side.",
    quick=always,
)
COMPUTATIONS = (WALLS.computation,)
