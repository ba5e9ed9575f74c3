"""Signing in and out, joining by invitation; the people of a workshop and its log."""

from datetime import datetime
from typing import Any, Literal

from django.contrib.auth import authenticate, login, logout, update_session_auth_hash
from django.http import HttpRequest
from django.middleware.csrf import CsrfViewMiddleware
from django.utils import timezone
from ninja import Router, Schema, Status
from pydantic import Field

from accounts import actions
from accounts.addresses import too_many_from
from accounts.models import Invitation, User
from accounts.roles import require
from audit.models import Entry
from audit.sentences import sentence
from hewel.refusal import Problem, Refused, RowId

router = Router(tags=["session"])
people = Router(tags=["people"])
Role = Literal["engineer", "technician", "viewer"]


class Credentials(Schema):
    username: str = Field(max_length=150)
    password: str = Field(max_length=1024)


class Session(Schema):
    username: str
    name: str
    workshop: str
    currency: str
    role: Role


def _session(user) -> dict:
    given = {"username": user.username, "name": user.shown_name, "role": user.role}
    return given | {"workshop": user.workshop.name, "currency": user.workshop.currency}


def _enter(request: HttpRequest, user: User) -> dict:
    """Signs in whoever has just proved who they are otherwise than by a password."""
    login(request, user, backend="django.contrib.auth.backends.ModelBackend")
    return _session(user)


def _not_forged(request: HttpRequest) -> None:
    """Nobody is signed in yet, so the API's own check has not run: a forged request must fail here."""
    if CsrfViewMiddleware(lambda r: None).process_view(request, None, (), {}) is not None:
        raise Refused("csrf", "The page is out of date.", "Reload the page.", 403)


@router.post("", auth=None, response={200: Session, 401: Problem, 403: Problem, 429: Problem}, operation_id="sign_in")
def sign_in(request: HttpRequest, credentials: Credentials):
    _not_forged(request)
    if too_many_from(request):
        raise Refused(
            "too_many_tries", "Too many wrong passwords from this address.", "Wait ten minutes, then try again.", 429
        )
    if "\x00" in credentials.username + credentials.password:
        user = None
    else:
        name = actions.signing_in_as(credentials.username)
        user = authenticate(request, username=name, password=credentials.password)
    if getattr(request, "axes_locked_out", False):
        raise Refused(
            "too_many_tries", "Too many wrong passwords for this name.", "Wait ten minutes, then try again.", 429
        )
    if user is None or user.workshop_id is None:
        raise Refused("sign_in_failed", "The name or the password is not right.", "Check both and try again.", 401)
    login(request, user)
    return _session(user)


@router.get("", auth=None, response=Session | None, operation_id="session")
def session(request: HttpRequest):
    """Who is signed in; null when nobody is, which is no error."""
    user = request.user
    return _session(user) if user.is_authenticated and user.workshop_id else None


@router.delete("", response={204: None}, operation_id="sign_out")
def sign_out(request: HttpRequest):
    logout(request)
    return Status(204, None)


class Welcome(Schema):
    kind: Literal["join", "password"]
    workshop: str
    role: Role
    by: str
    whom: str


class Joining(Credentials):
    name: str = Field(max_length=120)


@router.get("/join/{token}", auth=None, response={200: Welcome, 404: Problem}, operation_id="get_invitation")
def get_invitation(request: HttpRequest, token: str):
    """What a link invites to."""
    found = actions.open_invitation(token)
    return {
        "kind": "password" if found.resets_id else "join",
        "workshop": found.workshop.name,
        "role": found.role,
        "by": found.by.shown_name,
        "whom": found.whom,
    }


@router.post(
    "/join/{token}",
    auth=None,
    response={200: Session, 403: Problem, 404: Problem, 409: Problem, 422: Problem},
    operation_id="join",
)
def join(request: HttpRequest, token: str, body: Joining):
    """Makes the account and signs it in."""
    _not_forged(request)
    return _enter(request, actions.join(token, body.username, body.name, body.password))


class NewPassword(Schema):
    password: str = Field(max_length=1024)


@router.post(
    "/join/{token}/password",
    auth=None,
    response={200: Session, 403: Problem, 404: Problem, 422: Problem},
    operation_id="reset_password",
)
def reset_password(request: HttpRequest, token: str, body: NewPassword):
    """Sets a new password by a link, and signs in."""
    _not_forged(request)
    return _enter(request, actions.reset_password(token, body.password))


class PasswordChange(NewPassword):
    old: str = Field(max_length=1024)


@router.put("/password", response={204: None, 422: Problem}, operation_id="change_password")
def change_password(request: HttpRequest, body: PasswordChange):
    """Another password for whoever is signed in; other sessions of theirs end."""
    update_session_auth_hash(request, actions.change_password(request.user, body.old, body.password))
    return Status(204, None)


class Beginning(Joining):
    code: str = Field(max_length=40)
    workshop: str = Field(max_length=120)


@router.get("/first", auth=None, response=bool, operation_id="is_first")
def is_first(request: HttpRequest):
    """Whether there is no workshop yet."""
    return actions.is_first()


@router.post(
    "/first",
    auth=None,
    response={200: Session, 403: Problem, 409: Problem, 422: Problem},
    operation_id="begin_first_workshop",
)
def begin_first_workshop(request: HttpRequest, body: Beginning):
    """Makes the first workshop and its first engineer, and signs in."""
    _not_forged(request)
    return _enter(request, actions.first_workshop(body.code, body.workshop, body.username, body.name, body.password))


class Person(Schema):
    id: int
    username: str
    name: str
    role: Role
    active: bool


class InvitationRow(Schema):
    id: int
    whom: str
    role: Role
    by: str
    until: datetime
    state: Literal["open", "joined", "revoked", "lapsed"]


class PeopleOut(Schema):
    people: list[Person]
    invitations: list[InvitationRow]


class InviteIn(Schema):
    whom: str = Field(max_length=200)
    role: Role


class Invited(Schema):
    token: str
    """Told once: only its digest is kept."""
    until: datetime


class PersonIn(Schema):
    role: Role
    active: bool


class LogRow(Schema):
    at: datetime
    by: str
    action: str
    sentence: str
    """What was done, to be read after the name."""
    thing: str
    before: Any = None
    after: Any = None


def _state(invitation: Invitation) -> str:
    if invitation.joined_id:
        return "joined"
    if invitation.revoked:
        return "revoked"
    return "open" if invitation.until > timezone.now() else "lapsed"


@people.get("", response=PeopleOut, operation_id="list_people")
def list_people(request: HttpRequest):
    workshop = request.user.workshop
    return {
        "people": [
            {"id": p.id, "username": p.username, "name": p.shown_name, "role": p.role, "active": p.is_active}
            for p in workshop.people.order_by("first_name", "username")
        ],
        "invitations": [
            {"id": i.id, "whom": i.whom, "role": i.role, "by": i.by.shown_name, "until": i.until, "state": _state(i)}
            for i in workshop.invitations.filter(resets=None).select_related("by")[:50]
        ],
    }


@people.post("/invitations", response={201: Invited, 403: Problem, 422: Problem}, operation_id="invite")
def invite(request: HttpRequest, body: InviteIn):
    invitation, token = actions.invite(request.user, body.role, body.whom)
    return Status(201, {"token": token, "until": invitation.until})


@people.post(
    "/{person_id}/password-link",
    response={201: Invited, 403: Problem, 404: Problem},
    operation_id="make_password_link",
)
def make_password_link(request: HttpRequest, person_id: RowId):
    """A link by which somebody of the workshop sets a new password."""
    link, token = actions.reset_link(request.user, person_id)
    return Status(201, {"token": token, "until": link.until})


@people.delete(
    "/invitations/{invitation_id}",
    response={204: None, 403: Problem, 404: Problem, 409: Problem},
    operation_id="revoke_invitation",
)
def revoke_invitation(request: HttpRequest, invitation_id: RowId):
    actions.revoke(request.user, invitation_id)
    return Status(204, None)


@people.get("/log", response={200: list[LogRow], 403: Problem}, operation_id="list_log")
def list_log(request: HttpRequest):
    """The newest writes of the workshop: who, when, what, before and after."""
    require(request.user, "invite")
    rows = Entry.objects.filter(workshop=request.user.workshop_id).select_related("by")[:200]
    return [
        {
            "at": e.at,
            "by": e.by.shown_name,
            "action": e.action,
            "sentence": sentence(e),
            "thing": e.thing,
            "before": e.before,
            "after": e.after,
        }
        for e in rows
    ]


class WorkshopIn(Schema):
    currency: str = Field(max_length=40)


@people.put("/workshop", response={204: None, 403: Problem, 422: Problem}, operation_id="change_workshop")
def change_workshop(request: HttpRequest, body: WorkshopIn):
    """What prices and costs are in."""
    actions.change_currency(request.user, body.currency)
    return Status(204, None)


@people.put(
    "/{person_id}",
    response={204: None, 403: Problem, 404: Problem, 409: Problem, 422: Problem},
    operation_id="change_person",
)
def change_person(request: HttpRequest, person_id: RowId, body: PersonIn):
    actions.change_person(request.user, person_id, body.role, body.active)
    return Status(204, None)
