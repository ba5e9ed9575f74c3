"""Bringing people into a workshop, and changing what they may do."""

import hashlib
import secrets
from datetime import timedelta

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction
from django.utils import timezone

from accounts.models import Invitation, User
from accounts.roles import RIGHTS, require
from audit.actions import record
from hewel.refusal import Refused, not_found

VALID_DAYS = 14


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
    token = secrets.token_urlsafe(32)
    invitation = Invitation.objects.create(
        workshop=user.workshop,
        role=_role(role),
        whom=_said(whom, "whom you invite"),
        token_digest=_digest(token),
        by=user,
        until=timezone.now() + timedelta(days=VALID_DAYS),
    )
    record(user, "invited", invitation, after={"whom": invitation.whom, "role": role})
    return invitation, token


def _said(text: str, what: str) -> str:
    text = " ".join(text.replace("\x00", "").split())
    if not text:
        raise Refused("bad_value", f"Say {what}.", "A name is enough.", 422)
    return text[:120]


@transaction.atomic
def revoke(user: User, invitation_id: int) -> Invitation:
    require(user, "invite")
    invitation = Invitation.objects.select_for_update().filter(id=invitation_id, workshop=user.workshop).first()
    if invitation is None:
        raise not_found("invitation")
    if invitation.joined_id or invitation.revoked:
        raise Refused("ended", "This invitation is no longer open.", "Nothing was changed.")
    invitation.revoked = timezone.now()
    invitation.save(update_fields=["revoked"])
    record(user, "invitation revoked", invitation, before={"whom": invitation.whom})
    return invitation


def open_invitation(token: str) -> Invitation:
    """The invitation of a link; refused in one and the same way whether it never was, was used or has lapsed."""
    found = Invitation.objects.filter(
        token_digest=_digest(token), joined=None, revoked=None, until__gt=timezone.now()
    ).select_related("workshop", "by")
    invitation = found.first()
    if invitation is None:
        raise Refused("no_invitation", "This link does not invite anybody any more.", "Ask for a new one.", 404)
    return invitation


@transaction.atomic
def join(token: str, username: str, name: str, password: str) -> User:
    """Makes the invited person's account."""
    invitation = Invitation.objects.select_for_update().get(id=open_invitation(token).id)
    first, _, last = _said(name, "your name").partition(" ")
    user = User(username=username.strip(), first_name=first[:150], last_name=last[:150])
    user.workshop, user.role = invitation.workshop, invitation.role
    try:
        User.username_validator(user.username)
        if not 3 <= len(user.username) <= 60:
            raise ValidationError("Use 3 to 60 letters and digits for the sign-in name.")
        validate_password(password, user)
    except ValidationError as error:
        raise Refused("bad_value", " ".join(error.messages), "Nothing was made yet.", 422) from None
    user.set_password(password)
    try:
        with transaction.atomic():
            user.save()
    except IntegrityError:
        raise Refused("name_taken", "Somebody signs in with this name already.", "Choose another one.") from None
    invitation.joined = user
    invitation.save(update_fields=["joined"])
    record(
        user, "joined", user, after={"username": user.username, "role": user.role, "invited_by": invitation.by.username}
    )
    return user


@transaction.atomic
def change_person(user: User, person_id: int, role: str, active: bool) -> User:
    """Another role, or no entry any more; the last engineer cannot be taken away."""
    require(user, "invite")
    people = User.objects.select_for_update().filter(workshop=user.workshop)
    person = people.filter(id=person_id).first()
    if person is None:
        raise not_found("person")
    before = {"role": person.role, "active": person.is_active}
    person.role, person.is_active = _role(role), active
    others = people.exclude(id=person.id).filter(is_active=True, role="engineer")
    if not (active and role == "engineer") and not others.exists():
        raise Refused("last_engineer", "The workshop would have no engineer left.", "Make somebody else one first.")
    person.save(update_fields=["role", "is_active"])
    record(user, "person changed", person, before=before, after={"role": role, "active": active})
    return person
