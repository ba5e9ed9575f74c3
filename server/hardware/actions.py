"""Taking a part with its places cut as a revision."""

from django.db import transaction

from accounts.models import User
from accounts.roles import require
from audit.actions import record
from hardware.models import HardwareAnalysis
from hewel.refusal import Refused
from parts.actions import enqueue_adapted
from work.models import Work


@transaction.atomic
def take(user: User, analysis: HardwareAnalysis) -> Work:
    """Orders a revision with all places cut; its job knows which rows sit where, so that they are not cut again."""
    require(user, "edit")
    result = analysis.result
    if result is None or analysis.file is None:
        what = "is being worked out" if result is None else "cuts nothing that is not cut already"
        raise Refused("not_ready", f"The hardware {what}.", "Add a row, calculate, then take it.", 409)
    refused = [r for r in result["rows"] if r["where"] is None]
    if refused:
        raise Refused(
            "does_not_fit",
            f"{len(refused)} of {len(result['rows'])} rows do not fit the part.",
            "Move them or take them out, and calculate again: a revision has all of its hardware or none.",
            409,
        )
    part = analysis.part
    recipe = {
        "of_hardware": str(analysis.id),
        "of": str(part.id),
        "up": analysis.up,
        "steps": result["steps"],
        "hardware": {r["id"]: {"up": analysis.up, "where": r["where"]} for r in result["rows"]},
    }
    work = enqueue_adapted(user, part, analysis.file, recipe, exact=analysis.exact, uncarried=result["uncarried"])
    record(user, "hardware taken", analysis, after={"rows": len(result["rows"])})
    return work
