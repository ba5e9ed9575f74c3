# ruff: noqa: F811 (fixtures that another file shares)
"""Nothing is answered to somebody who is signed out, and nothing of one workshop to another."""

import io
import re

import pytest
from conftest import client_of
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from everything import engineer, everything, part, things  # noqa: F401 (fixtures)
from PIL import Image
from things import BARS, HANGS, filled, operations

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
OF_ALL = {("get", "/api/coupons/file/{key}"), ("get", "/api/coupons/view/{key}")}
"""Shapes that every workshop makes alike: nothing of anybody's is in them."""


def address(path, things):
    return re.sub(r"\{(\w+)\}", lambda m: str(filled(path, things)[m[1]]), path)


TRIAL = {"tested": "2026-01-02", "how": "bent", "verdict": "failed"}
BODIES = {
    "/trials/of/{part_id}": TRIAL,
    "/trials/{trial_id}": TRIAL,
    "/trials/{trial_id}/strike": {"reason": "typed twice"},
    "/trials/longterm/{specimen_id}": {"base": 1, "specimen": HANGS | {"material": "petg"}},
    "/coupons/{coupon_id}": {"base": 1, "coupon": BARS},
    "/coupons/{coupon_id}/take": {"names": ["z_t"]},
    "/pieces/of/{part_id}": {"way": "split", "point": [0, 0, 0], "normal": [0, 0, 1]},
    "/scaled": {"factor": 2},
    "/unit": {"units": "mm"},
    "/size": {"kind": "arm", "load_n": 10, "factor": 2},
    "/look": {"key": "gusset", "kind": "ledge", "centre_mm": [0, 0, 0]},
    "/release/of/{part_id}": {"base": 3, "kind": "portable"},
    "/strength/of/{part_id}": {"ups": [[0, 0, 1]]},
    "/directions": {"up": [0, 0, 1]},
    "/batch/{result_id}/choice": {"base": 3, "mode": "sequential", "copies": 1, "reason": "one to begin with"},
    "/put-back": {"base": 3},
    "/layout": {"mode": "together", "items": [[0, 0, 0]]},
    "/choice": {"base": 1, "up": [0, 0, 1], "reason": "it stands"},
    "/of/{part_id}": {"base": 1},
    "/take-back": {"number": 2},
    "/practice/{part_id}/{kind}": {"picked": "upside down"},
    "/review": {"approved": True, "words": "I looked at every sheet of it."},
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


CURVE = ("stroke mm;force N\n" + "".join(f"{i / 100};{4.0 * i}\n" for i in range(300)) + "3.01;0\n").encode()


def drawn() -> SimpleUploadedFile:
    out = io.BytesIO()
    Image.new("RGB", (40, 30)).save(out, "PNG")
    return SimpleUploadedFile("break.png", out.getvalue())


def body(path, things):
    if path.endswith("/job-of"):
        return {"of": str(things["part_id"]), "base": 3}
    found = next((b for end, b in BODIES.items() if path.endswith(end)), {})
    return found | {"coupon": BARS | {"machine": str(things["record_id"])}} if "coupon" in found else found


def call(client, verb, url, path, things):
    if path.endswith("/fault"):  # it may have a photo with it
        return client.post(url, {"words": "it came off"})
    if path.endswith("/trials/{trial_id}/photo") and verb == "post":
        return client.post(url, {"photo": drawn()})
    if path.endswith("/curve"):
        return client.post(url, {"file": SimpleUploadedFile("run.csv", CURVE)})
    return (
        getattr(client, verb)(url, body(path, things), content_type="application/json")
        if verb != "get"
        else client.get(url)
    )


@pytest.mark.parametrize("verb, path", [o for o in operations() if o not in OPEN])
def test_signed_out_gets_nothing(things, verb, path):
    answer = call(Client(), verb, address(path, things), path, things)
    assert answer.status_code == 401


@pytest.mark.parametrize("verb, path", [o for o in operations() if "{" in o[1] and o not in OPEN | OF_ALL])
def test_another_workshop_gets_nothing(things, part, stranger, engineer, verb, path):
    url = address(path, things)
    if path.endswith("/bring-back"):
        sheets.strike(engineer, part.sheet_id)
    answer = call(client_of(stranger), verb, url, path, things)
    assert answer.status_code == 404, answer.content
    assert part.name not in answer.content.decode()
    own = call(client_of(engineer), verb, url, path, things)
    assert own.status_code in (200, 201, 202, 204, 409), own.content


def test_a_coupon_is_not_made_by_another_workshops_machine(things, stranger):
    answer = client_of(stranger).get(f"/api/coupons/file/walls?machine={things['record_id']}")
    assert answer.status_code in (404, 422), answer.content


def test_lists_hold_only_the_own_workshop(part, stranger, engineer):
    other = client_of(stranger)
    assert other.get("/api/parts").json() == [] == other.get("/api/parts/bin").json()
    assert [p["username"] for p in other.get("/api/people").json()["people"]] == ["otto"]
    assert other.get("/api/people/log").json() == []
    sheets.strike(engineer, part.sheet_id)
    assert other.get("/api/parts/bin").json() == [] and len(client_of(engineer).get("/api/parts/bin").json()) == 1
    assert Work.objects.filter(workshop=stranger.workshop).count() == 0
