"""Reading sheets and their history."""

from uuid import UUID

from accounts.models import User
from hewel.refusal import not_found
from sheets.models import Sheet

SHOWN = 60
"""Editions that a history shows; older ones stay stored."""


def sheet_of(user: User, sheet_id: UUID | str) -> Sheet:
    sheet = Sheet.objects.filter(id=sheet_id, workshop=user.workshop_id).first()
    if sheet is None:
        raise not_found("record")
    return sheet


def history(sheet: Sheet) -> list[dict]:
    """Newest first, each with whether it is in force: an edit taken back is not, until that is taken back too."""
    rows = list(sheet.editions.select_related("by").order_by("-number"))
    undone: set[int] = set()
    for row in rows:  # newest first, so that an undone undo does not count
        if row.takes_back is not None and row.number not in undone:
            undone.add(row.takes_back)
    return [
        {
            "number": row.number,
            "words": row.words,
            "takes_back": row.takes_back,
            "in_force": row.number not in undone,
            "by": row.by.shown_name,
            "at": row.at,
        }
        for row in rows[:SHOWN]
    ]
