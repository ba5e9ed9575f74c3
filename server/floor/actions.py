"""At the machines: a plate is started, paused, taken off and counted; its traveller's steps are ticked."""

from datetime import datetime, timedelta
from uuid import UUID

from django.core.files.uploadedfile import UploadedFile
from django.db import IntegrityError, transaction
from django.utils import timezone

from accounts.models import User
from accounts.roles import require
from audit.actions import record
from floor import traveller
from floor.following import TOLD, end, free, said
from floor.plates import require_printable
from hewel.photos import picture
from hewel.refusal import Refused, not_found, reason_given
from store import actions as store
from studies.view import DirectedJob
from week.improving import improve
from week.models import Order, Print, Tick
from week.view import BY_HAND, machines_of

State = Print.State


def print_of(user: User, print_id: UUID | str) -> Print:
    """Locked for its change. Raises Refused where it is none of the workshop's."""
    rows = Print.objects.select_for_update(of=("self",)).select_related("order__part__sheet")
    found = rows.filter(id=print_id, order__workshop=user.workshop_id).first()
    if found is None:
        raise not_found("print")
    return found


@transaction.atomic
def start(user: User, order: Order, number: int, machine: str) -> Print:
    """A plate goes to a machine: through the gate, and only where both are free."""
    require(user, "print")
    if not 0 <= number < len(order.plates):
        raise not_found("plate")
    require_printable(user, order)
    own = next((m for m in machines_of(user.workshop) if m["key"] == machine), None)
    if own is None or own["model"] != str(order.machine_id):
        raise Refused("no_machine", "This plate is not made for that machine.", "Take a machine of its model.", 409)
    now, row = timezone.now(), order.plates[number]
    by_hand = own["reached"] == BY_HAND
    try:
        with transaction.atomic():
            p = Print.objects.create(
                order=order,
                number=number,
                machine=machine,
                state=State.PRINTING if by_hand else State.SENT,
                started=now,
                heard=now,
                left_s=row["seconds"],
                layers=row.get("layers", 0),
                by=user,
            )
    except IntegrityError:
        raise Refused(
            "taken",
            "That machine holds a plate, or this plate is printed already.",
            "Take off what it holds first; reload to see how it stands.",
            409,
        ) from None
    said(p, now, "started", user)
    record(user, "print started", p, after={"order": str(order.id), "plate": number, "machine": machine})
    return p


@transaction.atomic
def command(user: User, print_id: UUID, what: str) -> Print:
    """``pause``, ``continue`` or ``cancel`` a print, or ``clear`` the plate of one that was broken off."""
    require(user, "print")
    p, now = print_of(user, print_id), timezone.now()
    can = {
        "pause": (State.HEATING, State.PRINTING),
        "continue": (State.PAUSED, State.WAITING),
        "cancel": Print.GOING,
        "clear": Print.BROKEN_OFF,
    }[what]
    if p.state not in can or p.cleared:
        raise Refused("not_now", f"This print {TOLD.get(p.state, 'is done')}.", f"It cannot {what} now.", 409)
    record(user, f"print: {what}", p)
    if _reached(user, p) != BY_HAND:
        p.wish = what
        p.save(update_fields=["wish"])
        said(p, now, f"{what} asked for", user)
        return p
    if what == "cancel":
        end(p, now, State.CANCELLED, "given up", user)
    elif what == "clear":
        free(p, now)
    else:
        p.left_s = max(p.left_s - (now - p.heard).total_seconds(), 1.0) if what == "pause" else p.left_s
        p.state, p.heard = (State.PAUSED if what == "pause" else State.PRINTING), now
        p.save(update_fields=["state", "heard", "left_s"])
        said(p, now, "paused" if what == "pause" else "goes on", user)
    return p


@transaction.atomic
def take_off(user: User, print_id: UUID, good: int, bad: int) -> Print:
    """The plate is off its machine and its parts are counted; what is missing then is planned on one more plate."""
    require(user, "print")
    p, now = print_of(user, print_id), timezone.now()
    copies, by_hand = p.order.plates[p.number]["copies"], _reached(user, p) == BY_HAND
    if p.state != State.FINISHED and not (by_hand and p.state == State.PRINTING):
        raise Refused(
            "not_now", f"This print {TOLD.get(p.state, 'is done')}.", "Only a finished plate is counted.", 409
        )
    if good + bad != copies:
        raise Refused(
            "bad_value",
            f"{good} and {bad} are {good + bad} parts; there are {copies} on the plate.",
            "Count again.",
            422,
        )
    p.state, p.good, p.bad, p.left_s, p.words = State.DONE, good, bad, 0.0, ""
    p.save(update_fields=["state", "good", "bad", "left_s", "words"])
    if by_hand:
        free(p, now)
    else:
        p.wish = "clear"
        p.save(update_fields=["wish"])
    said(p, now, f"taken off: {good} good, {bad} bad", user)
    record(user, "plate counted", p, after={"good": good, "bad": bad})
    _more(user, p.order)
    return p


def _more(user: User, order: Order) -> None:
    """One more plate, the least that does, where good parts and plates to come no longer make up what was ordered."""
    prints = {p.number: p for p in order.prints.exclude(state__in=Print.BROKEN_OFF)}
    coming = sum(
        (p.good or 0) if (p := prints.get(n)) and p.state == State.DONE else row["copies"]
        for n, row in enumerate(order.plates)
    )
    missing = order.quantity - coming
    if missing <= 0:
        return
    rows = sorted(order.plates, key=lambda row: row["copies"])
    order.plates = [*order.plates, next((row for row in rows if row["copies"] >= missing), rows[-1])]
    order.save(update_fields=["plates"])
    improve(user)


@transaction.atomic
def fault(user: User, print_id: UUID, words: str, photo: UploadedFile | None) -> Print:
    """Somebody saw it go wrong: the print is broken off, and what was seen is kept."""
    require(user, "print")
    p, now = print_of(user, print_id), timezone.now()
    words = reason_given(words, "Say what went wrong.")
    if p.state not in Print.ON_MACHINE:
        raise Refused("not_now", f"This print {TOLD.get(p.state, 'is done')}.", "Nothing was changed.", 409)
    if photo is not None:
        p.photo = store.put(picture(photo))
        p.save(update_fields=["photo"])
    going, by_hand = p.state in Print.GOING, _reached(user, p) == BY_HAND
    end(p, now, State.FAILED, words, user)
    if going and not by_hand:
        p.wish = "cancel"
        p.save(update_fields=["wish"])
    record(user, "fault", p, after={"words": words})
    return p


MOST_LATE = timedelta(days=14)
"""How much later than it was done a tick may arrive."""


@transaction.atomic
def tick(user: User, order: Order, number: int, ticks: list[tuple[str, datetime, bool]]) -> None:
    """Steps done, or undone, perhaps sent when the connection came back; the same again changes nothing."""
    require(user, "print")
    now = timezone.now()
    known = {s["key"] for s in traveller.steps_of(DirectedJob(order.part), order, number)}
    for step, at, done in ticks:
        if step not in known:
            raise Refused("not_found", f"This plate has no step “{step[:40]}”.", "Reload the page.", 404)
        at = min(max(at, now - MOST_LATE), now)
        if done:
            Tick.objects.get_or_create(order=order, number=number, step=step, defaults={"at": at, "by": user})
        else:
            Tick.objects.filter(order=order, number=number, step=step).delete()


def _reached(user: User, p: Print) -> str:
    """How its machine is reached; by hand where it is in service no more."""
    return next((m["reached"] for m in machines_of(user.workshop) if m["key"] == p.machine), BY_HAND)
