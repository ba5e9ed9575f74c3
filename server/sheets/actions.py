"""Writing on sheets: each write is an edition; none is lost, any can be taken back."""

from datetime import datetime
from uuid import UUID

from django.db import transaction
from django.dispatch import Signal
from django.utils import timezone

from accounts.models import User
from accounts.roles import require
from audit.actions import record
from hewel.refusal import Refused, not_found
from sheets.changes import Clash, changed, merged, plain, spoken
from sheets.models import Edition, Sheet

KEPT_DAYS = 30
"""Days that a struck sheet can be brought back."""
written = Signal()
"""``sheet`` has a new edition, written by ``user``; in the transaction that writes it."""


def begin(user: User, kind: str, content: dict, words: str) -> Sheet:
    sheet = Sheet.objects.create(workshop=user.workshop, kind=kind, content=content)
    Edition.objects.create(sheet=sheet, number=1, content=content, words=words, by=user)
    record(user, words, sheet, after=content)
    return sheet


def held(user: User, sheet_id: UUID | str, struck: bool = False) -> Sheet:
    """The sheet, locked until the transaction ends."""
    rows = Sheet.objects.select_for_update().filter(id=sheet_id, workshop=user.workshop_id, struck__isnull=not struck)
    sheet = rows.first()
    if sheet is None:
        raise not_found("record")
    return sheet


@transaction.atomic
def amend(user: User, sheet_id: UUID | str, base: int, sections: dict, words: str) -> Sheet:
    """Puts each value of ``sections`` into its section as seen from edition ``base``.

    What others wrote since stays; where they wrote in the same place, nothing is changed and both are shown.
    """
    require(user, "edit")
    sheet = held(user, sheet_id)
    seen = _edition(sheet, base).content
    return _put(user, sheet, seen, seen | sections, words[:120])


@transaction.atomic
def take_back(user: User, sheet_id: UUID | str, number: int) -> Sheet:
    """Undoes edit ``number``, whatever came after it, unless a later edit wrote in the same place.

    Taking back an edit that itself took one back brings that one into force again.
    """
    require(user, "edit")
    sheet = held(user, sheet_id)
    edition = _edition(sheet, number)
    if number == 1:
        raise Refused("first_edition", "This is how the record began.", "Put the whole record in the bin instead.")
    before = _edition(sheet, number - 1).content
    words = f"took back: {edition.words}" if edition.takes_back is None else edition.words.replace("took back: ", "", 1)
    return _put(user, sheet, edition.content, before, words[:120], takes_back=number)


def _edition(sheet: Sheet, number: int) -> Edition:
    edition = sheet.editions.filter(number=number).first()
    if edition is None:
        raise Refused("no_such_edition", f"There is no edition {number} of this record.", "Reload the page.", 422)
    return edition


def freeze(sheet: Sheet, when: datetime | None) -> None:
    """From ``when`` on nobody writes on the sheet; None lets them again."""
    sheet.frozen = when
    sheet.save(update_fields=["frozen"])


def _require_writable(sheet: Sheet) -> None:
    if sheet.frozen:
        raise Refused(
            "released",
            "This job is released, so it is read only.",
            "Begin a revision beside it: everything comes along, and can be written there.",
            409,
        )


def _put(user, sheet: Sheet, base: dict, proposed: dict, words: str, takes_back: int | None = None) -> Sheet:
    _require_writable(sheet)
    try:
        content = merged(base, sheet.content, proposed)
    except Clash as clash:
        raise _both(sheet, clash) from None
    differs = changed(sheet.content, content)
    if not differs:
        return sheet
    for_log = lambda side: {spoken(path): plain(pair[side]) for path, pair in differs.items()}
    sheet.content, sheet.version = content, sheet.version + 1
    sheet.save(update_fields=["content", "version"])
    Edition.objects.create(
        sheet=sheet, number=sheet.version, content=content, words=words, takes_back=takes_back, by=user
    )
    record(user, words[:40], sheet, before=for_log(0), after=for_log(1))
    written.send(Sheet, sheet=sheet, user=user)
    return sheet


def _both(sheet: Sheet, clash: Clash) -> Refused:
    last = sheet.editions.select_related("by").first()
    return Refused(
        "changed_meanwhile",
        f"{last.by.shown_name} changed the same place meanwhile ({last.words}).",
        "Nothing was overwritten. Look at both below, then write yours again if it shall stand.",
        409,
        clashes=[
            {"place": spoken(path), "before": plain(before), "theirs": plain(theirs), "yours": plain(ours)}
            for path, before, theirs, ours in clash.places
        ],
    )


@transaction.atomic
def strike(user: User, sheet_id: UUID | str) -> Sheet:
    """Move to the bin: out of every list, whole for 30 days."""
    require(user, "edit")
    sheet = held(user, sheet_id)
    _require_writable(sheet)
    sheet.struck, sheet.struck_by = timezone.now(), user
    sheet.save(update_fields=["struck", "struck_by"])
    record(user, "put in the bin", sheet, before={"struck": None}, after={"struck": sheet.struck.isoformat()})
    return sheet


@transaction.atomic
def bring_back(user: User, sheet_id: UUID | str) -> Sheet:
    require(user, "edit")
    sheet = held(user, sheet_id, struck=True)
    before = sheet.struck.isoformat()
    sheet.struck = sheet.struck_by = None
    sheet.save(update_fields=["struck", "struck_by"])
    record(user, "brought back", sheet, before={"struck": before}, after={"struck": None})
    return sheet
