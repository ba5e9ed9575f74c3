"""Taking a part that is drawn for its fits as a revision."""

from django.db import transaction

from accounts.models import User
from accounts.roles import require
from audit.actions import record
from fit.models import FitAnalysis
from hewel.refusal import Refused
from parts.actions import enqueue_adapted
from work.models import Work


@transaction.atomic
def take(user: User, analysis: FitAnalysis) -> Work:
    """Orders a revision with all that was drawn; its job knows the size that each face is meant to have, so that it is
    not drawn for it twice, and which features are made.
    """
    require(user, "edit")
    result = analysis.result
    if result is None:
        raise Refused("not_ready", "The fits are being drawn.", "Take them once they are.", 409)
    if analysis.file is None:
        raise Refused("nothing_changed", "Nothing is drawn otherwise than it was.", "Go on as it is.", 409)
    part = analysis.part
    on = {r["id"]: [r["on"], r["across"]] for r in part.job["touching"]["rows"]}
    moved = [pair for row, after in result["regions"].items() for pair in zip(on.get(row, ()), after, strict=False)]
    recipe = {
        "of_fit": str(analysis.id),
        "of": str(part.id),
        "up": analysis.up,
        "steps": result["steps"],
        "drawn": {row: {"nominal": size, "up": analysis.up} for row, size in result["drawn"].items()},
        "regions": dict(moved),
        "made": result.get("made", []),
    }
    work = enqueue_adapted(user, part, analysis.file, recipe, exact=analysis.exact, uncarried=result["uncarried"])
    record(user, "fits taken", analysis, after={"faces": len(result["regions"])})
    return work
