"""Releasing: the gate is passed, the job is frozen, its packet is kept; a second person looks at what could injure."""

from django.db import transaction
from django.utils import timezone

from accounts.models import User
from accounts.roles import require
from audit.actions import record
from hewel.refusal import Refused, reason_given
from needs import queries as needs
from parts.models import Part
from release.gate import missing
from release.generic import GenericJob
from release.models import Release
from release.packet import made
from sheets.actions import freeze, held
from store import actions as store
from strength.actions import calculate_strength
from strength.models import StrengthAnalysis
from studies.view import DirectedJob


@transaction.atomic
def release(user: User, part: Part, base: int, kind: str, waiver: str, note: str) -> Release:
    """Freezes the job and keeps its packet. A part that could injure waits for a second person. Raises Refused with all
    that is missing, and where the job is not as it was on the screen.
    """
    require(user, "edit")
    sheet = held(user, part.sheet_id)
    if sheet.version != base:
        raise Refused("changed", "The job has been changed since this page was read.", "Look at it once more.", 409)
    view = DirectedJob(part)
    lines = missing(view, kind, waiver)
    if lines:
        words = f"{len(lines)} thing{'s' if len(lines) > 1 else ''} missing: {'; '.join(m.words for m in lines)}"
        raise Refused("not_ready", words, "Each line of the list leads to its place.", 409)
    when = timezone.now().replace(microsecond=0)
    packet, told = made(view, kind, waiver.strip(), when, user.shown_name)
    injures = part.job["need"]["use"] == "injury"
    given = Release.objects.create(
        part=part, kind=kind, state=Release.State.ASKED if injures else Release.State.RELEASED, version=sheet.version,
        waiver=waiver.strip(), note=note.strip(), told=told, packet=store.put(packet), by=user, at=when,
    )  # fmt: skip
    freeze(sheet, when)
    record(user, "released" if not injures else "release asked", given, after={"kind": kind, "waiver": waiver.strip()})
    return given


@transaction.atomic
def review(user: User, given: Release, approved: bool, words: str) -> Release:
    """A second person's word on a part that could injure. Raises Refused for whoever asked for the release."""
    require(user, "edit")
    given = Release.objects.select_for_update().get(id=given.id)
    if given.state != Release.State.ASKED:
        raise Refused("settled", f"This release is already {given.state}.", "Nothing was changed.", 409)
    if given.by_id == user.id:
        raise Refused(
            "own_release", "Whoever asks for a release does not review it.", "Ask another engineer to look at it.", 403
        )
    given.review = reason_given(words, "Say what you looked at.")
    given.reviewer, given.reviewed = user, timezone.now()
    given.state = Release.State.RELEASED if approved else Release.State.REFUSED
    given.save(update_fields=["review", "reviewer", "reviewed", "state"])
    if not approved:
        freeze(given.part.sheet, None)
    record(user, "release approved" if approved else "release refused", given, after={"words": given.review})
    return given


@transaction.atomic
def take_back(user: User, given: Release) -> None:
    """An engineer takes it back before anybody has looked at it; the job can be written again."""
    require(user, "edit")
    given = Release.objects.select_for_update().get(id=given.id)
    if given.state != Release.State.ASKED:
        raise Refused("settled", f"It is already {given.state}.", "Make a revision, and release that.", 409)
    given.state, given.review = Release.State.REFUSED, "taken back"
    given.save(update_fields=["state", "review"])
    freeze(given.part.sheet, None)
    record(user, "release taken back", given, after={"kind": given.kind})


def reckon_generic(user: User, part: Part) -> StrengthAnalysis:
    """Orders the strength under generic settings, which a portable file is held against."""
    view = GenericJob(part)
    if view.up is None:
        raise Refused("no_direction", "No direction is known yet.", "Choose one first.", 409)
    return calculate_strength(user, view, [view.up])


def packet_of(user: User, given: Release) -> bytes:
    """The packet, by the one gate that every printable file leaves by."""
    needs.require_release(user, given.part)
    if given.state != Release.State.RELEASED:
        raise Refused("not_released", "A second person has not approved it yet.", "Ask another engineer.", 409)
    return store.get(given.packet)
