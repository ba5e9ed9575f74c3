"""Hardware as a stage: the job's rows cut into the part as it stands, its bolts in the stress solution."""

from django.conf import settings

from hardware import bridge
from hardware.models import HardwareAnalysis
from hewel.refusal import Refused
from parts.queries import stored_exact
from remedies.stage import free_of, protected_of, with_bodies
from stages.stage import Stage
from strength.job import loads_of
from studies.view import DirectedJob, require_direction

READ_LATER = ("torque", "pull", "turn", "radius", "count", "name")
"""What of a row changes no place and no stress: it is read with the result."""


def rows_of(view: DirectedJob) -> list[dict]:
    """The rows as the engine takes them: lengths in mm, with the workshop's own numbers of their sizes."""
    out, own = [], view.farm.sizes()
    for row in view.job["hardware"]["rows"]:
        given = {k: v for k, v in row.items() if k not in READ_LATER}
        given |= {k: given[k] and given[k]["n"] for k in ("sunk", "cover", "deep", "rise")}
        if mine := bridge.own_of(row, own):
            given["own"] = mine
        out.append(given)
    return out


def _rests_on(view: DirectedJob, _: None) -> dict:
    job = view.job
    given, _cases = loads_of(job)
    return {
        "up": view.up,
        "rows": rows_of(view),
        "protected": protected_of(view.part),
        "free": free_of(view.part),
        "loads": given if given["cases"] and given["fixed"] else None,
    }


def _ready(view: DirectedJob, _: None) -> None:
    require_direction(view)
    if not view.job["hardware"]["rows"]:
        raise Refused("no_hardware", "No hardware is written down.", "Add a bolt, rod, insert or key first.", 422)


def _given(analysis: HardwareAnalysis, work) -> dict:
    part = analysis.part
    names = {r["id"]: r["name"] for r in part.job["hardware"]["rows"]}
    return {
        "rows": [row | {"name": names.get(row["id"], "")} for row in analysis.inputs["rows"]],
        "exact": stored_exact(part),
        "title": part.name,
        "free": with_bodies(analysis.inputs["free"]),
        "voxel_count": settings.STRENGTH_CUBES,
    }


HARDWARE = Stage(
    key="hardware",
    model=HardwareAnalysis,
    kind="hardware",
    function="hardware.bridge.work_out",
    inputs=_rests_on,
    audit="hardware worked out",
    priority=7,
    open_part=", so there is no solid to put steel in.",
    ready=_ready,
    arguments=_given,
)
COMPUTATIONS = (HARDWARE.computation,)
