"""Trials: predicted beside measured, what changed from one to the next, corrections that are taken, lessons, photos."""

import io

import numpy as np
import pytest
from conftest import client_of, person, stage_of
from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone
from PIL import Image
from test_needs import Job
from test_overhangs import choose
from test_strength import UP, load, look, solved

from audit.models import Entry
from farm.actions import begin
from farm.queries import process_of
from hewel_engine.trials.correction import Tried, correction
from trials import queries
from trials.models import Trial

JSON = "application/json"
TODAY = timezone.localdate().isoformat()


@pytest.fixture
def job(client, part, study):
    return Job(client, part)


@pytest.fixture
def machine(engineer):
    return str(begin(engineer, "machine", {"name": "Weir one"}).id)


@pytest.fixture
def checked(monkeypatch, client, engineer, part, job, study, machine, settings):
    """The usual part with its loads solved, on a machine, standing upright."""
    settings.STRENGTH_CUBES = 25_000
    load(job)
    part.sheet.refresh_from_db()
    given = part.sheet.content["process"] | {"machine": machine}
    part.sheet.content = part.sheet.content | {"process": given}
    part.sheet.save()
    choose(client, job, study, UP)
    solved(monkeypatch, engineer, part)
    return part


def trial(**more) -> dict:
    usual = {"tested": TODAY, "plate": "1", "case": "push", "load": "500 N", "how": "between layers"}
    return usual | {"verdict": "failed", "lesson": "The root parts first.", "at": [7, 0, 4]} | more


def written(client, part, **more) -> dict:
    answer = client.post(f"/api/trials/of/{part.id}", trial(**more), content_type=JSON)
    assert answer.status_code == 201, answer.content
    return answer.json()


def test_a_trial_stands_beside_what_was_predicted_without_any_knock_down(client, checked):
    state = client.get(f"/api/trials/of/{checked.id}").json()
    cases = {c["id"]: c for c in state["cases"]}
    assert cases["push"]["load"] == 400 and cases["push"]["unit"] == "N"
    told = written(client, checked)["trials"][0]
    assert told["times"] == pytest.approx(500 / 400) and told["predicted"]["times"] == cases["push"]["times"]
    assert told["ratio"] == pytest.approx(told["times"] / told["predicted"]["times"])
    assert told["predicted_load"] == pytest.approx(400 * told["predicted"]["times"])
    analysis = next(s for s in look(client, checked)["check"]["directions"] if np.dot(s["up"], UP) > 0.999)
    rows = client.get(f"/api/strength/directions/{analysis['id']}").json()["result"]["cases"]
    row = next(c for c in rows if c["id"] == "push")
    assert told["predicted"]["times"] == pytest.approx(row["reserve"] / row["kept"], rel=1e-6)
    assert told["layer"] == int((4 + 3) / 0.2), "counted from the plate"
    knock = cases["knock"]["times"]
    knocked = next(c for c in rows if c["id"] == "knock")
    assert knock == pytest.approx(2 * knocked["reserve"] / knocked["kept"], rel=1e-6), "a test is no shock"


def test_what_changed_from_one_to_the_next_is_computed(client, checked, engineer, job):
    written(client, checked, copies=1, mode="together")
    again = written(client, checked, copies=8, mode="together")["trials"]
    assert again[0]["changed"] is None and again[1]["changed"] == ["batch (1 together → 8 together)"]
    checked.sheet.refresh_from_db()
    process = checked.sheet.content["process"] | {"perimeters": 5}
    checked.sheet.content = checked.sheet.content | {"process": process}
    checked.sheet.save()
    third = written(client, checked, copies=8, mode="together")["trials"][2]
    assert third["changed"] == ["perimeters 3 → 5"]
    beside = client.get(f"/api/trials/{third['id']}/beside/{again[0]['id']}").json()
    assert beside == ["perimeters 3 → 5", "batch (1 together → 8 together)"]


def test_the_rail_tells_the_last_verdict(client, checked):
    assert stage_of(client, checked, "trials") == {"state": "empty", "line": "none"}
    written(client, checked)
    assert stage_of(client, checked, "trials") == {"state": "fails", "line": "1 trial, the last failed"}
    told = written(client, checked, verdict="passed", how="not broken")
    assert stage_of(client, checked, "trials")["state"] == "settled"
    last = told["trials"][1]["id"]
    answer = client.post(f"/api/trials/{last}/strike", {"reason": "wrong bar"}, content_type=JSON)
    assert len(answer.json()["trials"]) == 1 and Trial.objects.count() == 2, "out of sight, on record"
    assert Entry.objects.filter(action="trial taken out").get().after == {"why": "wrong bar"}
    assert client.post(f"/api/trials/{last}/strike", {"reason": "again"}, content_type=JSON).status_code == 404


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"load": "5 kg"}, ""),
        ({"load": "3 N·m"}, "Type the test's load in N"),
        ({"case": "none"}, "no such load case"),
        ({"tested": "2099-01-01"}, "future"),
        ({"how": "vanished"}, ""),
        ({"at": [0, 0]}, ""),
        ({"lesson": "x" * 5000}, ""),
        ({"copies": 0}, ""),
    ],
)
def test_a_trial_that_cannot_be_is_refused(client, checked, change, words):
    answer = client.post(f"/api/trials/of/{checked.id}", trial(**change), content_type=JSON)
    assert answer.status_code == 422 and words in answer.content.decode() and not Trial.objects.exists()


def test_a_trial_without_a_case_or_a_check_is_kept_and_not_averaged(client, part, study, job):
    told = written(client, part, case="", load="800 N", at=None)["trials"][0]
    assert told["predicted"] is None and told["ratio"] is None and told["layer"] is None
    assert client.get("/api/trials").json()["corrections"] == []


def test_a_correction_is_offered_looked_at_and_taken_with_a_reason(client, engineer, checked, machine):
    predicted = written(client, checked, load="300 N")["trials"][0]["predicted"]["times"]
    ratios = []
    for plate, share in (("2", 0.7), ("3", 0.75), ("4", 0.8)):
        written(client, checked, plate=plate, load=f"{share * predicted * 400:.1f} N", lesson="")
        ratios.append((share, plate))
    written(client, checked, plate="5", load="9000 N", how="not broken")
    (found,) = client.get("/api/trials").json()["corrections"]
    told, group = found["told"], found["group"]
    first = 300 / 400 / predicted
    rows = [Tried(1, r, f"{TODAY} {p}") for r, p in [(first, "1"), *ratios]] + [Tried(1, 9, "x", broke=False)]
    expected = correction(rows)
    assert told["count"] == 4 and told["factor"] == pytest.approx(expected.factor, rel=1e-3)
    assert told["offered"] == pytest.approx(expected.offered, rel=1e-3) and found["held"] is None
    asked = {"group": group, "where": found["where"]}
    (effect,) = client.post("/api/trials/effect", asked, content_type=JSON).json()
    assert effect["before"] is not None and effect["after"] != effect["before"]
    before = process_of(engineer.workshop, checked.job["process"])["numbers"]["own"]
    assert not any(name.startswith("trials") for name in before), "nothing is applied silently"
    assert client.post("/api/trials/correction", asked | {"reason": " "}, content_type=JSON).status_code == 422
    answer = client.post("/api/trials/correction", asked | {"reason": "four plates agree"}, content_type=JSON)
    assert answer.status_code == 200 and answer.json()["corrections"][0]["held"] == round(told["offered"], 3)
    checked.refresh_from_db()
    own = process_of(engineer.workshop, checked.job["process"])["numbers"]["own"]
    assert own[f"trials_{group}"]["origin"] == "trial"
    assert stage_of(client, checked, "strength")["state"] == "stale", "jobs that stand on it are marked"


def test_lessons_are_found_by_their_words_and_shown_where_a_part_breaks_alike(
    client, engineer, checked, pieces, studied
):
    written(client, checked, lesson="A generous fillet at the root helped more than perimeters.")
    ask = lambda text: client.get("/api/trials/sought", {"text": text}).json()
    assert [t["part_name"] for t in ask("fillets")] == [checked.name] and ask("welding") == []
    assert len(ask("between layers")) == 1 and ask("'; drop table") == []
    told = client.get(f"/api/trials/of/{checked.id}").json()
    assert told["alike"] == [], "its own are above"


def test_only_the_own_workshop_and_those_who_may(client, checked, stranger):
    told = written(client, checked)["trials"][0]
    other, viewer = client_of(stranger), client_of(person("Vera", "Alder"))
    assert other.get(f"/api/trials/of/{checked.id}").status_code == 404
    assert other.post(f"/api/trials/{told['id']}/strike", {"reason": "mine"}, content_type=JSON).status_code == 404
    assert other.get("/api/trials").json() == {"trials": [], "corrections": []}
    assert viewer.get("/api/trials").status_code == 200


# ------------------------------------------------------------------ photos


def photo(size=(400, 300), kind="JPEG", **more) -> SimpleUploadedFile:
    out = io.BytesIO()
    Image.new("RGB", size, (120, 90, 60)).save(out, kind, **more)
    return SimpleUploadedFile("break.jpg", out.getvalue())


def test_a_photo_is_drawn_anew_and_says_nothing_but_itself(client, checked):
    key = written(client, checked)["trials"][0]["id"]
    about = Image.Exif()
    about[0x010E], about[0x8825] = "taken at home", {1: "N", 2: (52.0, 5.0, 0.0)}
    sent = photo((3000, 2000), exif=about.tobytes())
    assert b"taken at home" in sent.read()
    sent.seek(0)
    assert client.post(f"/api/trials/{key}/photo", {"photo": sent}).json()["trials"][0]["photo"]
    answer = client.get(f"/api/trials/{key}/photo")
    kept = Image.open(io.BytesIO(answer.content))
    assert answer["Content-Type"] == "image/jpeg" and kept.size == (1600, 1067) and not kept.getexif()
    assert b"taken at home" not in answer.content


def bomb() -> SimpleUploadedFile:
    """A hundred million pixels in a few kilobytes."""
    out = io.BytesIO()
    Image.new("1", (10_000, 10_000)).save(out, "PNG")
    return SimpleUploadedFile("bomb.png", out.getvalue())


def polyglot() -> SimpleUploadedFile:
    return SimpleUploadedFile("a.jpg", photo().read() + b"<script>alert(1)</script>PK\x03\x04")


@pytest.mark.parametrize(
    ("sent", "status"),
    [
        (SimpleUploadedFile("a.jpg", b"\xff\xd8\xff" + b"\x00" * 500), 422),
        (SimpleUploadedFile("a.svg", b"<svg onload='x'/>"), 422),
        (SimpleUploadedFile("a.jpg", b"x" * (13 * 1024 * 1024)), 413),
        (bomb(), 413),
    ],
)
def test_what_is_no_photo_is_refused(client, checked, sent, status):
    key = written(client, checked)["trials"][0]["id"]
    sent.seek(0)
    assert client.post(f"/api/trials/{key}/photo", {"photo": sent}).status_code == status
    assert client.get(f"/api/trials/{key}/photo").status_code == 404


def test_of_a_file_that_is_two_things_only_the_picture_is_kept(client, checked):
    key = written(client, checked)["trials"][0]["id"]
    assert client.post(f"/api/trials/{key}/photo", {"photo": polyglot()}).status_code == 200
    assert b"script" not in client.get(f"/api/trials/{key}/photo").content


def test_groups_want_a_prediction_and_a_load(client, engineer, checked):
    written(client, checked, load="")
    assert queries.groups(list(queries.trials_of(engineer))) == {}


# ------------------------------------------------------------------ over weeks


def specimen(material="petg", **more) -> dict:
    rows = [
        {"id": f"g{i}", "at": f"2026-{m:02d}-{d:02d}T08:00:00Z", "give": g}
        for i, (m, d, g) in enumerate([(1, 2, 0.90), (1, 8, 0.98), (2, 1, 1.05), (4, 1, 1.12), (8, 1, 1.18)])
    ]
    return {"name": "hook under 8 kg", "material": material, "begun": "2026-01-01T08:00:00Z", "stress": 7.5,
            "every_days": 30, "rows": rows} | more  # fmt: skip


def test_a_specimen_under_load_is_told_when_due_and_what_years_would_leave(client, engineer):
    (told,) = client.post("/api/trials/longterm", specimen(), content_type=JSON).json()
    assert told["due"] and told["hours"][0] == pytest.approx(24) and told["material_name"] == "PETG"
    assert 0.3 < told["told"]["low"] < told["told"]["share"] < 0.9 and "a guess" not in " ".join(told["told"]["says"])
    body = {"base": told["version"], "specimen": specimen(ended=True)}
    (ended,) = client.put(f"/api/trials/longterm/{told['id']}", body, content_type=JSON).json()
    assert not ended["due"] and ended["next"] is None
    refused = client.post(f"/api/trials/longterm/{told['id']}/take", {}, content_type=JSON)
    assert refused.status_code == 422 and "generic grade" in refused.json()["message"]


def test_what_years_leave_is_taken_into_the_materials_record(client, engineer):
    material = str(begin(engineer, "material", {"name": "Reed", "grade": "petg"}).id)
    (told,) = client.post("/api/trials/longterm", specimen(material), content_type=JSON).json()
    assert client.post(f"/api/trials/longterm/{told['id']}/take", {}, content_type=JSON).status_code == 200
    record = next(r for r in client.get("/api/farm").json()["records"] if r["kind"] == "material")
    assert record["values"]["creep"]["value"] == float(f"{told['told']['share']:.3g}")
    assert record["values"]["creep"]["origin"] == "coupon"


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"stress": 0}, ""),
        ({"begun": "2026-03-01T08:00:00Z"}, "before the load was put on"),
        ({"rows": [{"id": "a", "at": "2099-01-01T08:00:00Z", "give": 1.0}]}, "future"),
        ({"rows": [{"id": "a", "at": "2026-02-01T08:00:00Z", "give": -1.0}]}, ""),
        ({"material": "stone"}, "no such"),
    ],
)
def test_a_specimen_that_cannot_be_is_refused(client, engineer, change, words):
    answer = client.post("/api/trials/longterm", specimen(**change), content_type=JSON)
    assert answer.status_code == 422 and words in answer.content.decode()
