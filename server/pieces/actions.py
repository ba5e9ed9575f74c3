"""Making pieces of a part parts of their own."""

from django.db import transaction

from accounts.models import User
from accounts.roles import require
from audit.actions import record
from hewel.refusal import Refused
from parts.actions import enqueue_adapted
from parts.queries import family
from pieces.models import Division
from pieces.queries import taken_of
from work.models import Work


@transaction.atomic
def take(user: User, division: Division) -> list[Work]:
    """Makes every piece a part of its own, with the direction that suits it; nothing is made twice."""
    require(user, "edit")
    result = division.result
    if result is None or result["why"] or division.request["way"] == "in_place":
        raise Refused("not_ready", "There are no pieces to take.", "Work the pieces out first.", 409)
    if taken_of(division.id, family(division.part)):
        raise Refused("taken", "These pieces are parts already.", "Open them from the list of pieces.", 409)
    works = []
    for row, kept in zip(result["pieces"], division.files.select_related("file", "exact"), strict=True):
        recipe = {
            "division": str(division.id),
            "of": str(division.part_id),
            "up": row["up"],
            "steps": [],
            "piece": row["name"],
            "count": row["count"],
            "pauses": result["pauses"] if row["name"] == "body" else [],
        }
        name, missing = f"{division.part.name}, {row['name']}", row.get("uncarried")
        works.append(enqueue_adapted(user, division.part, kept.file, recipe, name, kept.exact, missing))
    record(user, "pieces taken", division, after={"pieces": len(works)})
    return works
