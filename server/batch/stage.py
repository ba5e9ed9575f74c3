"""The batch as a stage: a part's plate filled either way, on the job's machine and in its direction."""

from typing import Any

from batch.models import BatchAnalysis
from stages.stage import Stage
from store import actions as store
from studies.view import DirectedJob, require_direction
from work.computations import Computation, always
from work.models import Work

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
        "bed": {name: machine[name] for name in BED}
        | {
            "spacing": plate["spacing"],
            "brim": plate["brim"],
            "free": [[f["x"], f["y"], f["x"] + f["wide"], f["y"] + f["deep"]] for f in plate["free"]],
        },
        "others": {"own": plate["own"], "rows": _others(view)} if plate["others"] else None,
        "welding": {name: read[kind][name] for kind, names in WELDING.items() for name in names}
        | {"known": view.farm.from_coupons("capability", view.job["process"], ("weld_exponent",))},
    }


def _others(view: DirectedJob) -> list[dict]:
    """Of each other part on the plate the newest plate of its own, by name; those that have none are left aside."""
    wanted = {str(row["part"]): row["copies"] for row in view.job["plate"]["others"]}
    rows = BatchAnalysis.objects.filter(
        part__in=wanted, part__workshop=view.part.workshop_id, part__sheet__struck=None, result__isnull=False
    )
    known: dict[str, Any] = {}
    for analysis in rows.select_related("part__sheet").defer("part__facts").order_by("created"):
        known[str(analysis.part_id)] = analysis
    return [
        {"analysis": str(a.id), "name": a.part.name, "copies": wanted[part]}
        for part, a in known.items()
        if all(a.process[n] == view.process[n] for n in SAME) and part != str(view.part.id)
    ]


SAME = ("layer", "material", "nozzle", "acceleration")
"""Numbers of the process in which parts of one plate agree."""


def _given(result: BatchAnalysis, work: Work) -> dict:
    """What the function is given of the other parts on the plate."""
    others = result.inputs.get("others")
    if not others:
        return {}
    ids = [row["analysis"] for row in others["rows"]]
    known = {str(a.id): a for a in BatchAnalysis.objects.filter(id__in=ids).select_related("layers")}
    guests = [
        {"copies": row["copies"], "layers": store.get(a.layers), "result": a.result}
        for row in others["rows"]
        if (a := known.get(row["analysis"])) and a.layers_id
    ]
    return {"others": others | {"rows": guests}}


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
    ready=require_direction,
    arguments=_given,
)
COMPUTATIONS: tuple[Computation, ...] = (BATCH.computation,)
