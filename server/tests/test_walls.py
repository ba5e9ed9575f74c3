"""Nothing is answered to somebody who is signed out, and nothing of one workshop to another."""

import re

import pytest
from conftest import client_of
from django.test import Client
from things import filled, operations, things_of

from sheets import actions as sheets
from work.models import Work

OPEN = {
    ("post", "/api/session"),
    ("get", "/api/session"),
    ("get", "/api/session/join/{token}"),
    ("post", "/api/session/join/{token}"),
    ("post", "/api/session/join/{token}/password"),
    ("get", "/api/session/first"),
    ("post", "/api/session/first"),
}


@pytest.fixture
def things(part, study, engineer):
    return things_of(engineer, part, study)


def address(path, things):
    return re.sub(r"\{(\w+)\}", lambda m: str(filled(path, things)[m[1]]), path)


BODIES = {
    "/pieces/of/{part_id}": {"way": "split", "point": [0, 0, 0], "normal": [0, 0, 1]},
    "/scaled": {"factor": 2},
    "/unit": {"units": "mm"},
    "/size": {"kind": "arm", "load_n": 10, "factor": 2},
    "/look": {"key": "gusset", "kind": "ledge", "centre_mm": [0, 0, 0]},
    "/strength/of/{part_id}": {"ups": [[0, 0, 1]]},
    "/directions": {"up": [0, 0, 1]},
    "/batch/{result_id}/choice": {"base": 3, "mode": "sequential", "copies": 1, "reason": "one to begin with"},
    "/put-back": {"base": 3},
    "/layout": {"mode": "together", "items": [[0, 0, 0]]},
    "/choice": {"base": 1, "up": [0, 0, 1], "reason": "it stands"},
    "/of/{part_id}": {"base": 1},
    "/take-back": {"number": 2},
    "/job": {"base": 1, "sections": {"title": {"name": "Other name"}}},
    "/point": {"facet": 0},
    "/needs/{part_id}/loads": {"base": 1, "loads": {"fixed": [], "cases": []}},
    "/acknowledge": {"base": 3},
    "/needs/{part_id}/settle": {"base": 3},
    "/overhangs/{result_id}/settle": {"base": 1, "findings": [1], "state": "accepted", "reason": "hidden"},
    "{record_id}": {"base": 1, "record": {"name": "Other name"}},
    "/prepared/{file_id}/accept": {"difference": 0, "reason": "a trial"},
    "/orders/{order_id}/pin": {"number": 0},
    "/{number}/prints": {"machine": "none:1"},
    "/{number}/ticks": {"ticks": []},
    "/command": {"what": "cancel"},
    "/count": {"good": 1, "bad": 0},
    "/people/{person_id}": {"role": "engineer", "active": True},
}


def body(verb, path):
    return next((b for end, b in BODIES.items() if path.endswith(end)), {})


def call(client, verb, url, path):
    if path.endswith("/fault"):  # it may have a photo with it
        return client.post(url, {"words": "it came off"})
    return (
        getattr(client, verb)(url, body(verb, path), content_type="application/json")
        if verb != "get"
        else client.get(url)
    )


@pytest.mark.parametrize("verb, path", [o for o in operations() if o not in OPEN])
def test_signed_out_gets_nothing(things, verb, path):
    answer = call(Client(), verb, address(path, things), path)
    assert answer.status_code == 401


@pytest.mark.parametrize("verb, path", [o for o in operations() if "{" in o[1] and o not in OPEN])
def test_another_workshop_gets_nothing(things, part, stranger, engineer, verb, path):
    url = address(path, things)
    if path.endswith("/bring-back"):
        sheets.strike(engineer, part.sheet_id)
    answer = call(client_of(stranger), verb, url, path)
    assert answer.status_code == 404, answer.content
    assert part.name not in answer.content.decode()
    own = call(client_of(engineer), verb, url, path)
    assert own.status_code in (200, 201, 202, 204, 409), own.content


def test_lists_hold_only_the_own_workshop(part, stranger, engineer):
    other = client_of(stranger)
    assert other.get("/api/parts").json() == [] == other.get("/api/parts/bin").json()
    assert [p["username"] for p in other.get("/api/people").json()["people"]] == ["otto"]
    assert other.get("/api/people/log").json() == []
    sheets.strike(engineer, part.sheet_id)
    assert other.get("/api/parts/bin").json() == [] and len(client_of(engineer).get("/api/parts/bin").json()) == 1
    assert Work.objects.filter(workshop=stranger.workshop).count() == 0
