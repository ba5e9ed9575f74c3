"""Reading parts. Everything is asked on behalf of a person and stays within their workshop."""

from datetime import datetime
from typing import NamedTuple
from uuid import UUID

from django.db import connection

from accounts.models import User
from hewel.refusal import Refused, not_found
from parts.models import Part
from store import actions as store
from store.models import Blob


def parts_of(user: User, struck: bool | None = False):
    """Parts in use, or those in the bin; all of them where ``struck`` is None."""
    rows = Part.objects.filter(workshop=user.workshop_id)
    if struck is not None:
        rows = rows.filter(sheet__struck__isnull=not struck)
    return rows.select_related("by", "sheet", "sheet__struck_by")


def listed(user: User):
    """Parts in use as lists need them: without their sheets and facts, which hold most of what a row weighs."""
    rows = Part.objects.filter(workshop=user.workshop_id, sheet__struck__isnull=True).select_related("by")
    names = ("sheet_id", "card", "standing", "revision", "before_id", "created", "view_id", "file_format")
    return rows.only(*names, "by__first_name", "by__last_name", "by__username")


class Listed(NamedTuple):
    """What a list reads of a part."""

    id: UUID
    sheet_id: UUID
    card: dict
    standing: dict
    revision: int
    before_id: UUID | None
    created: datetime
    view_id: UUID
    by_id: int


def listed_rows(user: User) -> list[Listed]:
    """The same for thousands at once."""
    return [Listed(*row) for row in listed(user).values_list(*Listed._fields)]


def card_of(part: Part) -> dict:
    """What lists say of a part, from its sheet and its facts."""
    job, (low, high) = part.job, part.facts["bbox_mm"]
    return {
        "name": job["title"]["name"], "note": job["title"]["note"], "labels": job["title"]["labels"],
        "material": job["process"]["material"], "settled": job["choice"] is not None,
        "up": job["choice"] and job["choice"]["up"], "size_mm": [b - a for a, b in zip(low, high, strict=True)],
    }  # fmt: skip


def part_of(user: User, part_id: UUID | str, binned: bool = False) -> Part:
    """Raises Refused where the workshop has none; one in the bin is found where ``binned`` ones are asked for too."""
    part = parts_of(user, None if binned else False).filter(id=part_id).first()
    if part is None:
        raise not_found("part")
    return part


def beside(part: Part) -> list[Part]:
    """The other parts of its workshop that are in use."""
    rows = Part.objects.filter(workshop=part.workshop, sheet__struck__isnull=True).exclude(id=part.id)
    return list(rows.select_related("sheet"))


GUESSED = "unit_guessed"


def unit_asked(part: Part) -> dict | None:
    """What must be asked about the unit of a file that names none: the mm that one of its units was read as, and its
    longest side in its own; None where the unit is known.
    """
    if all(w["code"] != GUESSED for w in part.warnings):
        return None
    low, high = part.facts["bbox_mm"]
    longest = max(b - a for a, b in zip(low, high, strict=True)) / part.scale_mm
    return {"scale_mm": part.scale_mm, "longest": longest}


def stored(part: Part) -> dict:
    """The solid, its drawing and its bores, as the bridges take them."""
    return {"solid": store.get(part.solid), "view": store.get(part.view), "bores": part.facts["bores"]}


def exact_of(part: Part) -> Blob | None:
    """The part's exact solid as STEP; None where it has none."""
    return part.source if part.file_format == "step" else part.exact


def stored_exact(part: Part) -> bytes | None:
    exact = exact_of(part)
    return exact and store.get(exact)


def require_closed(part: Part, why: str) -> None:
    """Refuses a part that is open; ``why`` ends the sentence that says so."""
    if not part.facts["watertight"]:
        hint = "Close it in the program that made it, and import it again."
        raise Refused("not_closed", f"The surface is open{why}", hint, 422)


KIN = """
WITH RECURSIVE before AS (
    SELECT id, before_id FROM parts_part WHERE id = ANY(%s)
    UNION SELECT p.id, p.before_id FROM parts_part p JOIN before ON p.id = before.before_id
), kin AS (
    SELECT id FROM before
    UNION SELECT p.id FROM parts_part p JOIN kin ON p.before_id = kin.id
)
SELECT id FROM kin
"""


def kin(*parts: Part) -> list[Part]:
    """Every revision of the same parts, themselves among them, also those in the bin: whatever they were made from, and
    all that was made from that.
    """
    with connection.cursor() as cursor:
        cursor.execute(KIN, [[part.id for part in parts]])
        found = [row[0] for row in cursor.fetchall()]
    return list(Part.objects.filter(id__in=found).select_related("by", "sheet"))


def families(parts: list[Part]) -> dict[UUID, list[Part]]:
    """What ``family`` gives for each of several parts, read at once, by the part's id."""
    every = {p.id: p for p in kin(*parts)}

    def first(part: Part) -> UUID:
        return first(every[part.before_id]) if part.before_id in every else part.id

    rows: dict[UUID, list[Part]] = {}
    for part in every.values():
        rows.setdefault(first(part), []).append(part)
    return {part.id: _in_use(rows[first(every[part.id])]) for part in parts}


def family(part: Part) -> list[Part]:
    """The revisions of the same part that are in use, in the order of their numbers."""
    return _in_use(kin(part))


def _in_use(parts: list[Part]) -> list[Part]:
    return sorted((p for p in parts if p.sheet.struck is None), key=lambda p: (p.revision, p.created))
