"""Every edit kept and undoable; two people on one job; the bin."""

from datetime import timedelta

import pytest
from conftest import client_of, person
from django.utils import timezone

from audit.models import Entry
from parts.actions import throw_away
from parts.models import Part
from sheets.models import Edition, Sheet
from store.models import Blob
from studies.models import Study


@pytest.fixture(autouse=True)
def examined(study):
    """A part is never without its study."""


@pytest.fixture
def colleague(engineer):
    return person("piet", "Alder Reach")


def put(client, part, section, base, value):
    return client.put(
        f"/api/parts/{part.id}/job", {"base": base, "sections": {section: value}}, content_type="application/json"
    )


def post(client, url, body=None):
    return client.post(url, body or {}, content_type="application/json")


def test_an_edit_is_an_edition_with_its_audit_line(client, part):
    answer = put(client, part, "title", 1, {"name": "  Plate, long ", "note": "for the mast"})
    assert answer.status_code == 200 and answer.json()["name"] == "Plate, long" and answer.json()["version"] == 2
    entry = Entry.objects.filter(action="name, note, labels").get()
    assert entry.before == {"title · name": "Gauge plate", "title · note": ""}
    assert entry.after == {"title · name": "Plate, long", "title · note": "for the mast"}
    assert Edition.objects.count() == 2


def test_writing_the_same_again_is_no_edit(client, part):
    assert put(client, part, "title", 1, {"name": "Gauge plate"}).json()["version"] == 1


def test_two_people_in_different_places_lose_nothing(client, colleague, part):
    put(client, part, "title", 1, {"name": "Gauge plate", "note": "hers"})
    answer = put(client_of(colleague), part, "desk", 1, {"pins": [[0, 0, 1]]})
    assert answer.status_code == 200
    assert answer.json()["note"] == "hers" and answer.json()["desk"]["pins"] == [[0, 0, 1]]


def test_two_people_in_the_same_place_are_shown_both(client, colleague, part):
    put(client, part, "title", 1, {"name": "Plate A"})
    answer = put(client_of(colleague), part, "title", 1, {"name": "Plate B"})
    given = answer.json()
    assert answer.status_code == 409 and given["code"] == "changed_meanwhile" and "Ines" in given["message"]
    assert given["clashes"] == [
        {"place": "title · name", "before": "Gauge plate", "theirs": "Plate A", "yours": "Plate B"}
    ]
    assert client.get(f"/api/parts/{part.id}").json()["name"] == "Plate A"


def test_two_choices_at_once_are_shown_both(client, colleague, study):
    up = [c["up"] for c in study.candidates[:2]]
    url = f"/api/studies/{study.id}/choice"
    assert post(client, url, {"base": 1, "up": up[0], "reason": "hers"}).status_code == 201
    answer = post(client_of(colleague), url, {"base": 1, "up": up[1], "reason": "his"})
    assert answer.status_code == 409 and {"hers", "his"} <= {
        str(v) for c in answer.json()["clashes"] for v in c.values()
    }
    assert study.choices.count() == 1, "a refused choice leaves no trace"


def test_undo_and_undo_of_the_undo(client, part, study):
    choose = f"/api/studies/{study.id}/choice"
    post(client, choose, {"base": 1, "up": study.candidates[0]["up"], "reason": "first"})
    put(client, part, "title", 2, {"name": "Renamed"})
    take = f"/api/sheets/{part.sheet_id}/take-back"
    history = post(client, take, {"number": 2}).json()
    got = client.get(f"/api/parts/{part.id}").json()
    assert got["choice"] is None and got["name"] == "Renamed", "the later edit elsewhere stays"
    assert [e["in_force"] for e in history["editions"]] == [True, True, False, True]
    history = post(client, take, {"number": 4}).json()
    assert client.get(f"/api/parts/{part.id}").json()["choice"]["reason"] == "first"
    assert history["editions"][0]["words"] == "direction chosen" and history["editions"][2]["in_force"]


def test_undo_of_what_a_later_edit_wrote_over_is_refused(client, part):
    put(client, part, "title", 1, {"name": "One"})
    put(client, part, "title", 2, {"name": "Two"})
    answer = post(client, f"/api/sheets/{part.sheet_id}/take-back", {"number": 2})
    assert answer.status_code == 409 and answer.json()["clashes"][0]["theirs"] == "Two"
    assert post(client, f"/api/sheets/{part.sheet_id}/take-back", {"number": 1}).json()["code"] == "first_edition"
    assert post(client, f"/api/sheets/{part.sheet_id}/take-back", {"number": 9}).status_code == 422


def test_another_process_and_back_again_keeps_both_studies(client, part, study):
    first = client.get(f"/api/parts/{part.id}").json()["study"]
    post(client, f"/api/studies/{study.id}/choice", {"base": 1, "up": study.candidates[0]["up"], "reason": "stands"})
    post(client, f"/api/studies/of/{part.id}", {"base": 2, "limit": 60})
    changed = client.get(f"/api/parts/{part.id}").json()
    assert changed["study"] != first and changed["choice"]["stale_because"] == ["process"], (
        "the choice was made for another limit"
    )
    post(client, f"/api/sheets/{part.sheet_id}/take-back", {"number": 3})
    back = client.get(f"/api/parts/{part.id}").json()
    assert back["study"] == first and not back["choice"]["stale_because"]
    assert Study.objects.count() == 2
    post(client, f"/api/studies/of/{part.id}", {"base": 4, "limit": 60})
    assert Study.objects.count() == 2, "a study that was made is not made again"


@pytest.mark.parametrize(
    "section, value, place",
    [
        ("title", {"name": "  "}, "name"),
        ("title", {"name": "a\x00b"}, "name"),
        ("title", {"name": "x", "colour": "red"}, "colour"),
        ("desk", {"weights": {"time": 9}}, "time"),
        ("desk", {"pins": [[0, 0, 1]] * 4}, "pins"),
        ("colour", {}, "section"),
    ],
)
def test_what_a_job_cannot_hold(client, part, section, value, place):
    answer = put(client, part, section, 1, value)
    assert answer.status_code == 422 and place in answer.json()["message"] and answer.json()["hint"]
    assert Sheet.objects.get().version == 1


def test_the_bin_keeps_a_part_whole_and_brings_it_back(client, part, study):
    before = client.get(f"/api/parts/{part.id}").json()
    client.delete(f"/api/sheets/{part.sheet_id}")
    assert client.get("/api/parts").json() == [] and client.get(f"/api/parts/{part.id}").status_code == 404
    assert client.get(f"/api/studies/{study.id}").status_code == 404
    (row,) = client.get("/api/parts/bin").json()
    assert row["name"] == "Gauge plate" and row["by"] == "Ines" and row["until"] > row["struck"]
    assert put(client, part, "title", 1, {"name": "X"}).status_code == 404, "nothing is written in the bin"
    post(client, f"/api/sheets/{part.sheet_id}/bring-back")
    assert client.get(f"/api/parts/{part.id}").json() == before


def test_after_thirty_days_it_goes_with_all_it_stored(client, part, study):
    client.delete(f"/api/sheets/{part.sheet_id}")
    assert throw_away(timezone.now() + timedelta(days=29)) == 0 and Part.objects.exists()
    assert throw_away(timezone.now() + timedelta(days=31)) == 1
    assert not Part.objects.exists() and not Sheet.objects.exists() and not Study.objects.exists()
    waiting = [o.arguments["source"] for o in part.workshop.work_set.filter(kind="intake", state="waiting")]
    assert set(Blob.objects.values_list("digest", flat=True)) <= set(waiting)
    assert Entry.objects.filter(action="thrown away").exists()


def test_weights_sort_and_the_field_follows(client, study):
    plain = client.get(f"/api/studies/{study.id}/ranking").json()
    assert sorted(plain["ranks"]) == list(range(1, len(study.candidates) + 1)) and len(plain["field"]) >= 2562
    low = client.get(
        f"/api/studies/{study.id}/ranking",
        {"height": 5, "support": 0, "stability": 0, "time": 0, "scar": 0, "curl": 0},
    ).json()
    stands = [i for i, c in enumerate(study.candidates) if c["tipping_deg"] >= 5]
    best = min(stands, key=lambda i: low["ranks"][i])
    assert study.candidates[best]["height_mm"] == min(study.candidates[i]["height_mm"] for i in stands)
    assert client.get(f"/api/studies/{study.id}/ranking", {"height": 9}).status_code == 422
