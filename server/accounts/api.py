"""Signing in and out."""

from typing import Literal

from django.contrib.auth import authenticate, login, logout
from django.http import HttpRequest
from django.middleware.csrf import CsrfViewMiddleware
from ninja import Router, Schema, Status
from pydantic import Field

from hewel.refusal import Problem, Refused

router = Router(tags=["session"])


class Credentials(Schema):
    username: str = Field(max_length=150)
    password: str = Field(max_length=1024)


class Session(Schema):
    username: str
    name: str
    workshop: str
    role: Literal["engineer", "technician", "viewer"]


def _session(user) -> dict:
    return {"username": user.username, "name": user.shown_name, "workshop": user.workshop.name, "role": user.role}


@router.post("", auth=None, response={200: Session, 401: Problem, 403: Problem, 429: Problem}, operation_id="sign_in")
def sign_in(request: HttpRequest, credentials: Credentials):
    # Nobody is signed in yet, so the API's own check has not run: a forged sign-in must fail here.
    if CsrfViewMiddleware(lambda r: None).process_view(request, None, (), {}) is not None:
        raise Refused("csrf", "The page is out of date.", "Load the page again and sign in.", 403)
    if "\x00" in credentials.username + credentials.password:
        user = None
    else:
        user = authenticate(request, username=credentials.username, password=credentials.password)
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
