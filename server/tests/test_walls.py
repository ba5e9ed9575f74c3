"""Nothing is answered to somebody who is signed out, and nothing of one workshop to another."""

import json
import re

import pytest
from conftest import client_of
from django.test import Client

from hewel.api import api
from work.models import Work

OPEN = {("post", "/api/session"), ("get", "/api/session")}


def operations():
    schema = json.loads(json.dumps(api.get_openapi_schema(path_prefix="/api/")))
    return sorted((verb, path) for path, verbs in schema["paths"].items() for verb in verbs)


def address(path, part, study, work):
    values = {"part_id": part.id, "study_id": study.id, "work_id": work.id, "digest": part.view_id}
    return re.sub(r"\{(\w+)\}", lambda m: str(values[m[1]]), path)


def body(verb, path):
    if path.endswith("/choice"):
        return {"up": [0, 0, 1], "reason": "it stands"}
    if path.endswith("/directions"):
        return {"up": [0, 0, 1]}
    return {}


def call(client, verb, url, path):
    return (
        getattr(client, verb)(url, body(verb, path), content_type="application/json")
        if verb != "get"
        else client.get(url)
    )


@pytest.mark.parametrize("verb, path", [o for o in operations() if o not in OPEN])
def test_signed_out_gets_nothing(part, study, verb, path):
    answer = call(Client(), verb, address(path, part, study, study.work), path)
    assert answer.status_code == 401


@pytest.mark.parametrize("verb, path", [o for o in operations() if "{" in o[1]])
def test_another_workshop_gets_nothing(part, study, stranger, engineer, verb, path):
    url = address(path, part, study, study.work)
    answer = call(client_of(stranger), verb, url, path)
    assert answer.status_code == 404, answer.content
    assert part.name not in answer.content.decode()
    own = call(client_of(engineer), verb, url, path)
    assert own.status_code in (200, 201, 202, 409), own.content


def test_lists_hold_only_the_own_workshop(part, stranger):
    assert client_of(stranger).get("/api/parts").json() == []
    assert Work.objects.filter(workshop=stranger.workshop).count() == 0
