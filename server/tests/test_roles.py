"""Who may do what, and the log of what was done."""

import ast
import re
from inspect import getsource
from pathlib import Path

import pytest
from conftest import PASSWORD, client_of, person, stl_bytes
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client

from accounts.models import User
from audit.models import Entry
from desk.looks import LOOKS
from floor.actions import start
from floor.plates import require_printable
from studies.models import Choice, Study
from work.models import Work


def with_role(role: str) -> User:
    user = person(role, "Alder Reach")
    user.role = role
    user.save()
    return user


def writes(part, study):
    """Every write of the API, as (name, call)."""
    best = study.candidates[0]["up"]

    def post(url, body):
        return lambda c: c.post(url, body, content_type="application/json")

    return {
        "import": lambda c: c.post("/api/parts", {"file": SimpleUploadedFile("p.stl", stl_bytes())}),
        "study": post(f"/api/studies/of/{part.id}", {"base": 1, "limit": 60}),
        "direction": post(f"/api/studies/{study.id}/directions", {"up": [0, 3, 4]}),
        "choice": post(f"/api/studies/{study.id}/choice", {"base": 1, "up": best, "reason": "nothing hangs"}),
        "cancel": post(f"/api/work/{study.work_id}/cancel", {}),
        "section": lambda c: c.put(
            f"/api/parts/{part.id}/job",
            {"base": 1, "sections": {"title": {"name": "Other"}}},
            content_type="application/json",
        ),
        "strike": lambda c: c.delete(f"/api/sheets/{part.sheet_id}"),
        "invite": post("/api/people/invitations", {"whom": "Wim", "role": "viewer"}),
    }


NAMES = ["import", "study", "direction", "choice", "cancel", "section", "strike", "invite"]


@pytest.mark.parametrize("role", ["technician", "viewer"])
@pytest.mark.parametrize("name", NAMES)
def test_only_an_engineer_changes_anything(part, study, role, name):
    counts = [m.objects.count() for m in (Work, Study, Choice, Entry)]
    answer = writes(part, study)[name](client_of(with_role(role)))
    assert answer.status_code == 403
    assert answer.json()["code"] == "not_allowed"
    assert role in answer.json()["message"]
    assert [m.objects.count() for m in (Work, Study, Choice, Entry)] == counts


@pytest.mark.parametrize("name", NAMES)
def test_every_write_leaves_a_line_in_the_log(client, engineer, part, study, name):
    before = set(Entry.objects.values_list("id", flat=True))
    assert writes(part, study)[name](client).status_code < 300
    entries = Entry.objects.exclude(id__in=before)
    followed = {stage.audit for stage in LOOKS} if name == "choice" else set()
    (entry,) = [e for e in entries if e.action not in followed]
    assert len(entries) == 1 + len(followed), "a chosen direction is looked at, and the log says so"
    assert (entry.by, entry.workshop) == (engineer, engineer.workshop)
    assert entry.after
    assert entry.thing_id


def test_the_log_holds_what_was_there_before(client, part, study):
    for i in (0, 1):
        body = {"base": i + 1, "up": study.candidates[i]["up"], "reason": f"reason {i}"}
        client.post(f"/api/studies/{study.id}/choice", body, content_type="application/json")
    newest = Entry.objects.filter(action="direction chosen").first()
    assert newest.before["choice · reason"] == "reason 0" and newest.after["choice · reason"] == "reason 1"


@pytest.mark.parametrize(("role", "status"), [("engineer", 200), ("technician", 200), ("viewer", 403)])
def test_who_may_take_the_file_away(client, part, study, role, status):
    writes(part, study)["choice"](client)
    assert client_of(with_role(role)).get(f"/api/parts/{part.id}/file?kind=stl").status_code == status


NOT_PRINTED = "model/vnd.vtu"
"""A stress field: cubes with numbers, to be looked at; no printer's program reads it."""


def test_every_printable_file_leaves_by_the_one_gate():
    """Whatever answers with a model, of any app, asks for the right and the acknowledged cautions first."""
    server, gated = Path(__file__).parents[1], []
    for file in sorted(f for f in server.glob("*/*.py") if f.parent.name != "tests"):
        for made in ast.walk(ast.parse(file.read_text())):
            if not isinstance(made, ast.FunctionDef):
                continue
            texts = [n.value for n in ast.walk(made) if isinstance(n, ast.Constant) and isinstance(n.value, str)]
            if any(text.startswith("model/") and text != NOT_PRINTED for text in texts):
                calls = [n.func for n in ast.walk(made) if isinstance(n, ast.Call)]
                asked = {getattr(c, "attr", getattr(c, "id", "")) for c in calls}
                assert asked & {"require_release", "require_printable"}, made.name
                gated.append(made.name)
    assert gated == ["get_coupon_file", "get_file", "get_plate_file", "get_piece_file"], (
        "a new one belongs here once it asks"
    )
    for gate in (require_printable, start):  # a plate's gate asks the part's; what is started passes a plate's
        assert {"needs.require_release", "require_printable"} & set(re.findall(r"[\w.]+(?=\()", getsource(gate)))


def sign_in(client, password, address="10.0.0.1"):
    body = {"username": "ines", "password": password}
    return client.post("/api/session", body, content_type="application/json", REMOTE_ADDR=address)


def test_guessing_is_slowed_for_that_name_from_that_address_only(engineer):
    client = Client()
    codes = [sign_in(client, f"guess {i}").status_code for i in range(9)]
    assert codes[:7] == [401] * 7
    assert codes[8] == 429
    locked = sign_in(client, PASSWORD)
    assert locked.status_code == 429
    assert "ten minutes" in locked.json()["hint"]
    assert sign_in(Client(), PASSWORD, "10.0.0.2").status_code == 200
    other = person("piet", "Alder Reach")
    body = {"username": other.username, "password": PASSWORD}
    assert (
        Client().post("/api/session", body, content_type="application/json", REMOTE_ADDR="10.0.0.1").status_code == 200
    )
