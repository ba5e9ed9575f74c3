"""Invitations, and what people may do."""

from datetime import timedelta

import pytest
from conftest import client_of, person
from django.test import Client
from django.utils import timezone

from accounts.actions import invite
from accounts.models import Invitation, User
from audit.models import Entry

JOINING = {"username": "wim.sluys", "name": "Wim Sluys", "password": "tide-over-the-weir-4"}


def send(client, verb, url, body=None):
    return getattr(client, verb)(url, body or {}, content_type="application/json")


@pytest.fixture
def token(client):
    answer = send(client, "post", "/api/people/invitations", {"whom": " Wim ", "role": "technician"})
    assert answer.status_code == 201
    return answer.json()["token"]


def test_invited_welcomed_joined_and_signed_in(client, token):
    guest = Client()
    welcome = guest.get(f"/api/session/join/{token}").json()
    assert welcome == {"kind": "join", "workshop": "Alder Reach", "role": "technician", "by": "Ines", "whom": "Wim"}
    joined = send(guest, "post", f"/api/session/join/{token}", JOINING).json()
    given = {"username": "wim.sluys", "name": "Wim Sluys", "role": "technician"}
    assert joined == given | {"workshop": "Alder Reach", "currency": "EUR"}
    assert guest.get("/api/session").json() == joined
    result = client.get("/api/people").json()
    assert [i["state"] for i in result["invitations"]] == ["joined"] and len(result["people"]) == 2
    assert User.objects.get(username="wim.sluys").password.startswith("argon2")
    assert {"invited", "joined"} <= set(Entry.objects.values_list("action", flat=True))
    assert token not in str(list(Invitation.objects.values())) + str(list(Entry.objects.values()))


def test_a_link_serves_once(token):
    send(Client(), "post", f"/api/session/join/{token}", JOINING)
    again = send(Client(), "post", f"/api/session/join/{token}", JOINING | {"username": "other"})
    assert again.status_code == 404 and User.objects.count() == 2


def test_a_revoked_a_lapsed_and_an_invented_link_are_answered_alike(client, token):
    row = client.get("/api/people").json()["invitations"][0]
    assert send(client, "delete", f"/api/people/invitations/{row['id']}").status_code == 204
    _, late = invite(User.objects.get(username="ines"), "viewer", "Otto")
    Invitation.objects.filter(whom="Otto").update(until=timezone.now() - timedelta(seconds=1))
    answers = [Client().get(f"/api/session/join/{t}") for t in (token, late, "invented")]
    assert {a.status_code for a in answers} == {404} and len({a.content for a in answers}) == 1
    assert send(client, "delete", f"/api/people/invitations/{row['id']}").status_code == 409


@pytest.mark.parametrize(
    "wrong, says",
    [
        ({"password": "short"}, "10 characters"),
        ({"password": "password1234"}, "common"),
        ({"username": "x"}, "3 to 60"),
        ({"username": "wim sluys"}, "letters a–z"),
        ({"username": "ines"}, "already"),
        ({"username": "lnes"}, "looks like it"),
        ({"password": " " * 12}, "different characters"),
        ({"name": "  "}, "your name"),
    ],
)
def test_what_cannot_join(client, token, wrong, says):
    answer = send(Client(), "post", f"/api/session/join/{token}", JOINING | wrong)
    assert answer.status_code in (409, 422) and says in answer.json()["message"]
    assert User.objects.count() == 1
    assert send(Client(), "post", f"/api/session/join/{token}", JOINING).status_code == 200, "the link is still good"


def test_joining_needs_the_token_of_the_page(token):
    assert send(Client(enforce_csrf_checks=True), "post", f"/api/session/join/{token}", JOINING).status_code == 403


def test_roles_change_and_entry_ends(client, engineer):
    other = person("piet", "Alder Reach")
    assert send(client, "put", f"/api/people/{other.id}", {"role": "viewer", "active": True}).status_code == 204
    assert (
        send(client_of(other), "put", f"/api/people/{engineer.id}", {"role": "viewer", "active": True}).status_code
        == 403
    )
    session = client_of(other)
    assert session.get("/api/parts").status_code == 200
    send(client, "put", f"/api/people/{other.id}", {"role": "viewer", "active": False})
    assert session.get("/api/parts").status_code == 401, "who is shut out is out at once"


def test_the_last_engineer_stays(client, engineer):
    for change in ({"role": "viewer", "active": True}, {"role": "engineer", "active": False}):
        answer = send(client, "put", f"/api/people/{engineer.id}", change)
        assert answer.status_code == 409 and answer.json()["code"] == "last_engineer"


def test_the_log_is_for_engineers(client, engineer, token):
    rows = client.get("/api/people/log").json()
    assert rows[0]["action"] == "invited" and rows[0]["after"]["whom"] == "Wim" and rows[0]["by"] == "Ines"
    viewer = person("ada", "Alder Reach")
    viewer.role = "viewer"
    viewer.save()
    assert client_of(viewer).get("/api/people/log").status_code == 403
    assert (
        send(client_of(viewer), "post", "/api/people/invitations", {"whom": "x", "role": "viewer"}).status_code == 403
    )
