"""How far every part is, kept beside it for lists of many: brought up to date when somebody writes or work ends.

What a list shows of the parts in sight is asked anew; what is kept here finds and sorts them.
"""

from uuid import UUID

from django.db import transaction

from accounts.models import User
from desk.rail import rail
from parts.actions import put_card
from parts.models import Part
from sheets.models import Sheet
from studies.view import DirectedJob
from work.models import Work


def refresh(part_id: UUID | str) -> None:
    """What is kept of a part is what its stages say now."""
    part = Part.objects.filter(id=part_id).select_related("sheet", "by", "workshop").first()
    if part is not None:
        states = {row["key"]: row["state"] for row in rail(DirectedJob(part))}
        Part.objects.filter(id=part.id).update(standing=states)


def after_writing(sender: object, sheet: Sheet, user: User, **_: object) -> None:
    part = Part.objects.filter(sheet=sheet).select_related("sheet").first()
    if part is not None:
        put_card(part)
        transaction.on_commit(lambda: refresh(part.id))


def after_work(sender: object, work: Work, **_: object) -> None:
    """Work of a part, or the work that made it."""
    part = work.part or (work.result or {}).get("part")
    if part:
        refresh(part)
