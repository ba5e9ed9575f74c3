"""The batch as a stage: a part's plate filled either way, on the job's machine and in its direction."""

from typing import Any

from batch.models import BatchAnalysis
from hewel.refusal import Refused
from stages.stage import Stage
from studies.view import DirectedJob
from work.computations import Computation, always

BED = (
    "bed_x", "bed_y", "bed_z", "margin", "front_free", "head_radius", "nozzle_clearance", "gantry", "rail", "release",
    "push_limit", "push_height",
)  # fmt: skip
WELDING = {"machine": ("chamber_c", "film"), "capability": ("coupon_layer_s", "weld_exponent", "adhesion_cold")}


def machine_of(view: DirectedJob) -> dict[str, Any]:
    """Every number of the job's machine record."""
    return view.farm.numbers("machine", view.job["process"])


def _rests_on(view: DirectedJob, _: None) -> dict:
    machine, capability = machine_of(view), view.farm.numbers("capability", view.job["process"])
    plate = view.job["plate"]
    read = {"machine": machine, "capability": capability}
    return {
        "up": view.up,
        "bed": {name: machine[name] for name in BED} | {"spacing": plate["spacing"], "brim": plate["brim"]},
        "welding": {name: read[kind][name] for kind, names in WELDING.items() for name in names}
        | {"known": view.farm.from_coupons("capability", view.job["process"], ("weld_exponent",))},
    }


def _stands(view: DirectedJob, _: None) -> None:
    if view.direction is None:
        raise Refused(
            "no_direction", "No direction is known yet.", "Wait for the first candidate, or choose a direction.", 409
        )


BATCH = Stage(
    key="batch",
    model=BatchAnalysis,
    kind="plate",
    function="batch.bridge.fill",
    inputs=_rests_on,
    audit="plate filled",
    priority=6,
    open_part=", so its layers have no inside.",
    quick=always,
    ready=_stands,
)
COMPUTATIONS: tuple[Computation, ...] = (BATCH.computation,)
