"""Ordering pieces of a part, and making them parts of their own."""

from audit.actions import record
from django.db import transaction
from farm.queries import process_of

from accounts.roles import require
from hewel.refusal import Refused
from parts.actions import order_adapted
from parts.queries import family, require_closed
from pieces import queries
from pieces.models import Division, PieceFile
from store import actions as store
from work.actions import order_work, still_ours
from work.models import Work


@transaction.atomic
def order_division(user, part, said: dict) -> Division:
    """Works a part out as several pieces. What was worked out for the same before keeps its answer."""
    from pieces.tasks import work_out

    require(user, "edit")
    require_closed(part, ", so there is no solid to cut.")
    if said["way"] in ("split", "separate") and (said["point"] is None or not any(said["normal"] or [])):
        raise Refused("bad_options", "No cut is named.", "Name a point of the cut and the way it looks.", 422)
    if said["way"] == "in_place" and not (said["pick"] and any(said["normal"] or []) and said["travel"]):
        told = "Point at the body that moves, name the way it goes and how far."
        raise Refused("bad_options", "No travel is named.", told, 422)
    digest = queries.digest_of(part, said)
    made = part.divisions.filter(digest=digest).exclude(work__state__in=Work.BROKEN_OFF).first()
    if made and made == part.divisions.first():
        return made
    division = Division.objects.create(
        part=part,
        said=said,
        process=process_of(part.workshop, part.job["process"])["numbers"],
        clearance=queries.clearance_for(part, said),
        up=queries.up_for(part, said),
        digest=digest,
    )
    division.work = order_work(user, "divide", {"division": str(division.id)}, work_out)
    division.save(update_fields=["work"])
    record(user, "pieces worked out", division, after={"way": said["way"]})
    return division


def keep(work: Work, name: str, value) -> None:
    """One result of a division, as soon as it is known."""
    with still_ours(work):
        rows = Division.objects.filter(id=work.order["division"])
        if name == "piece":
            number, data = value
            files = {what: store.put(content) for what, content in data.items()}
            PieceFile.objects.update_or_create(division=rows.get(), number=number, defaults=files)
        else:
            rows.update(**{name: store.put(value) if name in ("view", "file") else value})


@transaction.atomic
def take(user, division: Division) -> list[Work]:
    """Makes every piece a part of its own, with the direction that suits it; nothing is made twice."""
    require(user, "edit")
    told = division.told
    if told is None or told["why"] or division.said["way"] == "in_place":
        raise Refused("not_ready", "There are no pieces to take.", "Work the pieces out first.", 409)
    if queries.made_of(division.id, family(division.part)):
        raise Refused("taken", "These pieces are parts already.", "Open them from the list of pieces.", 409)
    works = []
    for row, kept in zip(told["pieces"], division.files.select_related("file", "exact"), strict=True):
        recipe = {
            "division": str(division.id),
            "of": str(division.part_id),
            "up": row["up"],
            "steps": [],
            "piece": row["name"],
            "count": row["count"],
            "pauses": told["pauses"] if row["name"] == "body" else [],
        }
        name, missing = f"{division.part.name}, {row['name']}", row.get("uncarried")
        works.append(order_adapted(user, division.part, kept.file, recipe, name, kept.exact, missing))
    record(user, "pieces taken", division, after={"pieces": len(works)})
    return works
