"""Bringing people into a workshop, and changing what they may do."""

import hashlib
import secrets
from datetime import timedelta
from hmac import compare_digest
from typing import Any

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import IntegrityError, connection, transaction
from django.utils import timezone
from django.utils.crypto import salted_hmac

from accounts.models import Invitation, User, Workshop
from accounts.names import checked_name, name_key
from accounts.roles import RIGHTS, require
from audit.actions import record
from hewel.refusal import Refused, not_found

VALID_DAYS = 14
RESET_DAYS = 2
CODE = "ABCDEFGHJKLMNPQRSTUVWXYZ23456789"
"""Letters of the code for the first workshop; none is taken for another."""


def _digest(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def _role(role: str) -> str:
    if role not in RIGHTS:
        raise Refused("bad_role", f"There is no role {role!r}.", f"Use {', '.join(RIGHTS)}.", 422)
    return role


@transaction.atomic
def invite(user: User, role: str, whom: str) -> tuple[Invitation, str]:
    """An invitation and its token, which is told now and never again."""
    require(user, "invite")
    invitation, token = _link(user, VALID_DAYS, role=_role(role), whom=_said(whom, "whom you invite"))
    record(user, "invited", invitation, after={"whom": invitation.whom, "role": role})
    return invitation, token


def _link(user: User, days: int, **what: Any) -> tuple[Invitation, str]:
    token = secrets.token_urlsafe(32)
    until = timezone.now() + timedelta(days=days)
    link = Invitation.objects.create(workshop=user.workshop, by=user, until=until, token_digest=_digest(token), **what)
    return link, token


def _said(text: str, what: str) -> str:
    text = " ".join(text.replace("\x00", "").split())
    if not text:
        raise Refused("bad_value", f"Say {what}.", "A name is enough.", 422)
    return text[:120]


@transaction.atomic
def revoke(user: User, invitation_id: int) -> Invitation:
    require(user, "invite")
    invitation = Invitation.objects.select_for_update().filter(id=invitation_id, workshop=user.workshop_id).first()
    if invitation is None:
        raise not_found("invitation")
    if invitation.joined_id or invitation.revoked:
        raise Refused("ended", "This invitation is no longer open.", "Nothing was changed.")
    invitation.revoked = timezone.now()
    invitation.save(update_fields=["revoked"])
    record(user, "invitation revoked", invitation, before={"whom": invitation.whom})
    return invitation


def open_invitation(token: str, locked: bool = False) -> Invitation:
    """The invitation of a link; refused in one and the same way whether it never was, was used or has lapsed.
    ``locked``: nobody else uses it until the transaction ends.
    """
    rows = Invitation.objects.select_for_update(of=("self",)) if locked else Invitation.objects
    found = rows.filter(token_digest=_digest(token), joined=None, revoked=None, until__gt=timezone.now())
    invitation = found.select_related("workshop", "by", "resets").first()
    if invitation is None:
        raise Refused("no_invitation", "This link does not invite anybody any more.", "Ask for a new one.", 404)
    return invitation


@transaction.atomic
def join(token: str, username: str, name: str, password: str) -> User:
    """Makes the invited person's account, once."""
    invitation = open_invitation(token, locked=True)
    if invitation.resets:
        raise Refused("no_invitation", "This link sets a new password; it makes no account.", "Open it anew.", 404)
    user = _new_person(invitation.workshop, invitation.role, username, name, password)
    _used(invitation, user)
    record(
        user, "joined", user, after={"username": user.username, "role": user.role, "invited_by": invitation.by.username}
    )
    return user


@transaction.atomic
def first_workshop(code: str, workshop: str, username: str, name: str, password: str) -> User:
    """The first workshop and its first engineer, for whoever can read the code on this machine; where there is a
    workshop already, nobody.
    """
    with connection.cursor() as cursor:
        cursor.execute("lock table accounts_workshop in exclusive mode")
    if not is_first():
        raise Refused("begun", "There is a workshop already.", "Ask one of its engineers for an invitation.", 409)
    if not compare_digest(code.strip().upper().encode(), setup_code().encode()):
        raise Refused("bad_code", "This is not the code that was shown when Hewel started.", "Read it there.", 403)
    return new_workshop(workshop, username, name, password)


@transaction.atomic
def new_workshop(name: str, username: str, person: str, password: str) -> User:
    """A workshop of its own, and the engineer who may invite others."""
    try:
        with transaction.atomic():
            workshop = Workshop.objects.create(name=_said(name, "what the workshop is called"))
    except IntegrityError:
        raise Refused("name_taken", "There is a workshop of this name.", "Choose another name.") from None
    user = _new_person(workshop, User.Role.ENGINEER, username, person, password)
    record(user, "workshop begun", workshop, after={"name": workshop.name, "engineer": user.username})
    return user


def is_first() -> bool:
    """Whether there is no workshop yet."""
    return not Workshop.objects.exists()


def setup_code() -> str:
    """What is shown on the machine that Hewel runs on while it has no workshop: eight letters of its own secret."""
    plain = salted_hmac("accounts.first_workshop", "", algorithm="sha256").digest()
    return "".join(CODE[b % len(CODE)] for b in plain[:8])


def _new_person(workshop: Workshop, role: str, username: str, name: str, password: str) -> User:
    first, _, last = _said(name, "your name").partition(" ")
    user = User(first_name=first[:150], last_name=last[:150], workshop=workshop, role=role)
    try:
        user.username = checked_name(username)
    except ValidationError as error:
        raise Refused("bad_value", " ".join(error.messages), "Nothing was made yet.", 422) from None
    _set_password(user, password)
    try:
        with transaction.atomic():
            user.save()
    except IntegrityError:
        raise Refused(
            "name_taken", "Somebody signs in with this name already, or with one that looks like it.", "Choose another."
        ) from None
    return user


def _set_password(user: User, password: str) -> None:
    try:
        validate_password(password, user)
    except ValidationError as error:
        raise Refused("bad_value", " ".join(error.messages), "Nothing was changed.", 422) from None
    user.set_password(password)


def _used(invitation: Invitation, user: User) -> None:
    invitation.joined = user
    invitation.save(update_fields=["joined"])


def signing_in_as(username: str) -> str:
    """The account's own name for what was typed: case, punctuation and look-alike letters do not count."""
    known = User.objects.filter(name_key=name_key(username)).values_list("username", flat=True).first()
    return known or username


@transaction.atomic
def change_password(user: User, old: str, new: str) -> User:
    """Another password for oneself; every other session of that person ends."""
    if not user.check_password(old):
        raise Refused("bad_value", "The old password is not right.", "Nothing was changed.", 422)
    _set_password(user, new)
    user.save(update_fields=["password"])
    record(user, "password changed", user)
    return user


@transaction.atomic
def reset_link(user: User, person_id: int) -> tuple[Invitation, str]:
    """A link for somebody of the workshop who has forgotten the password, and its token, told now and never again."""
    require(user, "invite")
    person = User.objects.filter(workshop=user.workshop_id, id=person_id, is_active=True).first()
    if person is None:
        raise not_found("person")
    link, token = _link(user, RESET_DAYS, role=person.role, whom=person.shown_name, resets=person)
    record(user, "password link made", person)
    return link, token


@transaction.atomic
def reset_password(token: str, password: str) -> User:
    """A new password by a link; sessions of before end."""
    link = open_invitation(token, locked=True)
    if link.resets is None or not link.resets.is_active:
        raise Refused("no_invitation", "This link sets no password.", "Ask for a new one.", 404)
    person = link.resets
    _set_password(person, password)
    person.entries += 1
    person.save(update_fields=["password", "entries"])
    _used(link, person)
    record(person, "password set by a link", person, after={"made_by": link.by.username})
    return person


@transaction.atomic
def change_person(user: User, person_id: int, role: str, active: bool) -> User:
    """Another role, or no entry any more; the last engineer cannot be taken away."""
    require(user, "invite")
    people = User.objects.select_for_update().filter(workshop=user.workshop_id)
    person = people.filter(id=person_id).first()
    if person is None:
        raise not_found("person")
    before = {"role": person.role, "active": person.is_active}
    person.role, person.is_active = _role(role), active
    others = people.exclude(id=person.id).filter(is_active=True, role="engineer")
    if not (active and role == "engineer") and not others.exists():
        raise Refused("last_engineer", "The workshop would have no engineer left.", "Make somebody else one first.")
    if before["active"] and not active:
        person.entries += 1  # what was open then stays shut, even when the person is let in again
    person.save(update_fields=["role", "is_active", "entries"])
    record(user, "person changed", person, before=before, after={"role": role, "active": active})
    return person


@transaction.atomic
def change_currency(user: User, currency: str) -> None:
    """What the workshop's prices and costs are in: a sign or a short word. Raises Refused ``bad_options``."""
    require(user, "edit")
    given = " ".join(currency.replace("\x00", "").split())
    if not 1 <= len(given) <= 8 or any(c.isdigit() for c in given):
        raise Refused("bad_options", f"{given[:20]!r} is no currency.", "Use its sign or its letters, like EUR.", 422)
    workshop = Workshop.objects.select_for_update().get(id=user.workshop_id)
    before, workshop.currency = workshop.currency, given
    workshop.save(update_fields=["currency"])
    record(user, "currency changed", workshop, {"currency": before}, {"currency": given})
