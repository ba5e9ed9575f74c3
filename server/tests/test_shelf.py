"""Many parts: what a list says of them, their pictures, one action for several, the list as a table, a job copied."""

import csv
import io
import struct

import pytest
from conftest import client_of, directions_of, person, stl_bytes
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test.utils import CaptureQueriesContext

from desk.standing import refresh
from parts.actions import complete_part, create_part, enqueue_intake
from parts.models import Part


@pytest.fixture
def second(engineer, pieces):
    """One more part of the workshop, of the same solid."""
    work = enqueue_intake(engineer, SimpleUploadedFile("second.stl", stl_bytes()), "Second plate", "auto")
    made = create_part(work, pieces)
    complete_part(work, made, pieces["features"])
    directions_of(engineer, made)
    return made


def rows(client) -> dict[str, dict]:
    return {row["name"]: row for row in client.get("/api/parts").json()}


def put(client, part, **sections):
    base = client.get(f"/api/parts/{part.id}").json()["version"]
    return client.put(
        f"/api/parts/{part.id}/job", {"base": base, "sections": sections}, content_type="application/json"
    )


def test_a_row_follows_what_is_written(client, part, study):
    assert rows(client)[part.name]["labels"] == []
    answer = put(client, part, title={"name": "Lever", "note": "for the gate", "labels": ["Gate", "urgent", "gate"]})
    assert answer.status_code == 200 and answer.json()["name"] == "Lever", "what answers the write is new as well"
    row = rows(client)["Lever"]
    assert row["labels"] == ["Gate", "urgent"] and row["note"] == "for the gate" and row["material"] == "PETG"
    number = client.get(f"/api/parts/{part.id}").json()["version"]
    client.post(f"/api/sheets/{part.sheet_id}/take-back", {"number": number}, content_type="application/json")
    assert part.name in rows(client), "undo is a write like any other"


@pytest.mark.parametrize("label", ["", "a,b", "x" * 31, "nul\x00"])
def test_what_is_no_label_is_refused(client, part, study, label):
    assert put(client, part, title={"name": "Lever", "labels": [label]}).status_code == 422
    assert rows(client)[part.name]["labels"] == []


def test_a_list_reads_no_sheet_however_many_there_are(client, part, study, second):
    def asked() -> list[str]:
        with CaptureQueriesContext(connection) as seen:
            assert client.get("/api/parts?fresh").status_code == 200
        return [q["sql"] for q in seen if '"parts_part"' in q["sql"]]

    (one,) = asked()
    assert '"content"' not in one and '"facts"' not in one
    Part.objects.filter(id=second.id).delete()
    assert len(asked()) == 1


def test_the_standing_is_kept_when_somebody_writes(client, part, study, django_capture_on_commit_callbacks):
    with django_capture_on_commit_callbacks(execute=True):
        assert put(client, part, title={"name": "Lever"}).status_code == 200
    kept, told = rows(client)["Lever"]["standing"], client.get(f"/api/stages/{part.id}").json()
    assert kept == {stage["key"]: stage["state"] for stage in told} and kept["direction"] == "open"
    refresh("00000000-0000-0000-0000-000000000000")  # a part that is gone meanwhile breaks nothing


def test_stages_are_told_of_the_parts_asked_for(client, part, study, second):
    told = client.get(f"/api/stages?parts={second.id}").json()
    assert [row["part"] for row in told] == [str(second.id)]
    assert client.get("/api/stages?parts=nonsense").status_code == 422


def test_a_part_has_a_picture_that_a_browser_may_keep(client, part):
    name = rows(client)[part.name]["picture"]
    answer = client.get(f"/api/parts/{part.id}/picture/{name}")
    assert (
        answer.status_code == 200 and answer["Content-Type"] == "image/png" and "immutable" in answer["Cache-Control"]
    )
    assert answer.content[:8] == b"\x89PNG\r\n\x1a\n" and struct.unpack(">II", answer.content[16:24]) == (224, 168)
    assert client.get(f"/api/parts/00000000-0000-0000-0000-000000000000/picture/{name}").status_code == 404


def act(client, parts, action, label=""):
    body = {"parts": [str(p.id) for p in parts], "action": action, "label": label}
    return client.post("/api/parts/together", body, content_type="application/json")


def test_one_action_for_several(client, part, study, second):
    assert act(client, [part, second], "label", " batch  two ").json() == [
        {"part": str(p.id), "problem": None} for p in (part, second)
    ]
    assert {row["labels"][0] for row in rows(client).values()} == {"batch two"}
    act(client, [second], "unlabel", "BATCH TWO")
    assert rows(client)["Second plate"]["labels"] == []
    outcome = act(client, [part, second], "check").json()
    assert all(row["problem"] for row in outcome), "nothing holds or loads them: each says why not"
    assert act(client, [second], "bin").status_code == 200 and list(rows(client)) == [part.name]
    gone = act(client, [part, second], "bin").json()
    assert gone[0]["problem"] is None and "no such part" in gone[1]["problem"].lower(), "one holds up no other"
    assert act(client, [part], "label", "  ").status_code == 422


def test_who_may_only_read_changes_nothing_together(part):
    vera = person("vera", "Alder Reach")
    vera.role = "viewer"
    vera.save()
    viewer = client_of(vera)
    for action in ("bin", "label", "check"):
        assert act(viewer, [part], action, "x").status_code == 403


def test_the_list_is_a_table(client, part, study, second):
    put(client, part, title={"name": "=1+1", "labels": ["a", "b"]})
    text = client.get("/api/parts/table").content.decode()
    table = list(csv.DictReader(io.StringIO(text)))
    assert {row["part"].lstrip("'") for row in table} == {"=1+1", "Second plate"} and not text.startswith("=")
    assert next(r for r in table if "1+1" in r["part"])["labels"] == "a; b" and table[0]["material"] == "PETG"
    assert float(table[0]["x_mm"]) == pytest.approx(40)
    only = client.get(f"/api/parts/table?ids={second.id}").content.decode()
    assert "Second plate" in only and "1+1" not in only


def test_a_job_is_copied_but_for_what_rests_on_faces(client, part, study, second):
    put(
        client,
        part,
        need={"quantity": 40, "use": "injury"},
        requirements={"rows": [{"id": "r", "kind": "load", "statement": "carries the gate", "source": "drawing"}]},
    )
    base = client.get(f"/api/parts/{second.id}").json()["version"]
    body = {"of": str(part.id), "base": base}
    answer = client.post(f"/api/parts/{second.id}/job-of", body, content_type="application/json")
    job = answer.json()["job"]
    assert answer.status_code == 200 and job["need"]["quantity"] == 40 and job["regions"]["rows"] == []
    assert [r["statement"] for r in job["requirements"]["rows"]] == ["carries the gate"]
    assert answer.json()["name"] == "Second plate"
