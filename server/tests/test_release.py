"""Releasing: what is missing is named, what is proven is frozen, the packet is the same bytes and can be checked."""

import io
import json
import zipfile
from datetime import timedelta
from pathlib import Path

import jsonschema_rs
import pytest
from conftest import client_of, person
from django.utils import timezone
from test_query_counts import revise

from accounts.models import User
from hewel_engine.release.packet import checked
from overhangs.models import OverhangAnalysis
from overhangs.stage import OVERHANGS
from parts.job import checked as checked_section
from release.changes import of_part
from release.gate import missing
from release.models import Release
from release.packet import made
from sheets import actions as sheets
from stages.stage import calculate
from studies.view import DirectedJob
from trials.models import Trial
from walls.stage import WALLS
from work.models import Work

FORM = json.loads((Path(__file__).parent.parent / "release" / "job.schema.json").read_text())
REASON = "The same geometry was printed and tested last month."
TRUTH = {
    "overhang_area_mm2": 0.0, "support_volume_mm3": 0.0, "contact_area_mm2": 900.0, "first_layer_mm2": 900.0,
    "height_mm": 24.0, "needs_support": False, "regions": [],
}  # fmt: skip


class Job:
    """A part whose job is brought, step by step, to where it may be released."""

    def __init__(self, client, part, study):
        self.client, self.part, self.study = client, part, study

    @property
    def version(self) -> int:
        self.part.refresh_from_db()
        self.part.sheet.refresh_from_db()
        return self.part.sheet.version

    @property
    def view(self) -> DirectedJob:
        return DirectedJob(type(self.part).objects.select_related("sheet", "by", "workshop").get(id=self.part.id))

    def put(self, **sections):
        body = {"base": self.version, "sections": sections}
        return self.client.put(f"/api/parts/{self.part.id}/job", body, content_type="application/json")

    def post(self, path: str, **body):
        return self.client.post(f"/api/release/{path}", body, content_type="application/json")

    def release(self, kind: str = "portable", **more):
        return self.post(f"of/{self.part.id}", base=self.version, kind=kind, **more)

    def waits_for(self, kind: str = "portable", waiver: str = "") -> set[str]:
        return {m.key for m in missing(self.view, kind, waiver)}

    def prove(self, use: str = "functional") -> None:
        """All that a part without loads needs, but for a trial."""
        rows = [{"id": "r", "kind": "environment", "statement": "stands out in the rain", "source": "drawing 7"}]
        shown = [{"id": "e", "requirement": "r", "kind": "inspection", "words": "left out over the winter"}]
        answer = self.put(need={"use": use, "quantity": 4}, requirements={"rows": rows}, evidence={"rows": shown})
        assert answer.status_code == 200, answer.content
        best = min(self.study.candidates, key=lambda c: c["rank"])
        body = {"base": self.version, "up": best["up"], "reason": "It stands on its plate."}
        answer = self.client.post(f"/api/studies/{self.study.id}/choice", body, content_type="application/json")
        assert answer.status_code == 201, answer.content
        if use == "injury":
            body = {"base": self.version}
            self.client.post(f"/api/needs/{self.part.id}/acknowledge", body, content_type="application/json")
        self.client.post(f"/api/needs/{self.part.id}/settle", {"base": self.version}, content_type="application/json")
        Work.objects.filter(state__in=Work.OPEN).update(state=Work.State.DONE)
        WALLS.rows(self.part).update(result={"zones": [], "places": [], "min_thickness_mm": 6.0})
        result = OVERHANGS.rows(self.part).first()
        OverhangAnalysis.objects.filter(id=result.id).update(
            truth=TRUTH, facets=self.part.view, log={"area_mm2": [900.0]}
        )


@pytest.fixture
def job(client, part, study):
    return Job(client, part, study)


def test_too_early_all_that_is_missing_is_named_with_its_place(job):
    Work.objects.update(state=Work.State.DONE)
    told = job.client.get(f"/api/release/of/{job.part.id}").json()
    portable, locked = (
        next(k for k in told["kinds"] if k["kind"] == kind)["missing"] for kind in ("portable", "locked")
    )
    keys = {m["key"] for m in portable}
    assert {"requirements-none", "requirements-empty", "direction-open", "trial"} <= keys
    assert {m["key"] for m in locked} >= {"batch", "trial"} and "batch" not in keys
    assert all(m["words"].endswith((".", "”.", "not.")) and m["stage"] for m in portable)
    answer = job.release(waiver=REASON)
    assert answer.status_code == 409 and answer.json()["code"] == "not_ready"
    assert "No requirement is written" in answer.json()["message"] and not Release.objects.exists()


def test_each_thing_done_takes_its_line_off(job):
    before = job.waits_for()
    job.prove()
    after = job.waits_for()
    assert after < before and after == {"trial"}, after
    assert job.waits_for(waiver="too short") == {"trial"} and job.waits_for(waiver=REASON) == set()
    assert job.put(evidence={"rows": []}).status_code == 200
    assert "evidence-0" in job.waits_for(waiver=REASON)


def trial(job, engineer, **more) -> Trial:
    given = {"tested": "2026-01-02", "plate": "a", "up": job.view.up, "process": {"names": {}, "numbers": {}},
             "how": "not broken", "verdict": "passed", "copies": 1, "mode": ""}  # fmt: skip
    return Trial.objects.create(workshop=engineer.workshop, part=job.part, by=engineer, **given | more)


def test_a_trial_counts_that_held_and_was_printed_so(job, engineer):
    job.prove()
    failed = trial(job, engineer, verdict="failed")
    assert "trial" in job.waits_for(), "one that failed shows nothing"
    trial(job, engineer, up=[0, 1, 0] if abs(job.view.up[1]) < 0.9 else [1, 0, 0])
    assert "trial" in job.waits_for(), "printed another way"
    failed.verdict = "passed"
    failed.save()
    assert "trial" not in job.waits_for()


def packet(job, release: str) -> bytes:
    answer = job.client.get(f"/api/release/{release}/packet")
    assert answer.status_code == 200, answer.content
    return answer.content


def test_what_is_released_is_frozen_and_its_packet_checked(job):
    job.prove()
    answer = job.release(waiver=REASON, note="first")
    assert answer.status_code == 201, answer.content
    told = answer.json()
    assert told["state"] == "released" and told["by"] == "Ines"
    data = packet(job, told["id"])
    found = checked(data)
    assert found.sound, found.faults
    assert found.manifest["kind"] == "portable" and found.manifest["waiver"] == REASON
    names = set(found.as_dict()["files"])
    assert {"part/gauge-plate-oriented.3mf", "part/gauge-plate-oriented.stl", "report.pdf", "job.json"} <= names
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        assert archive.read("report.pdf").startswith(b"%PDF")
        given = json.loads(archive.read("job.json"))
    jsonschema_rs.validator_for(FORM).validate(given)
    assert given["direction"]["reason"] == "It stands on its plate." and given["coverage"][0]["evidence"]
    for change in (job.put(title={"name": "Other"}), job.client.delete(f"/api/sheets/{job.part.sheet_id}")):
        assert change.status_code == 409 and change.json()["code"] == "released"
    assert job.client.get(f"/api/parts/{job.part.id}").json()["frozen"]
    assert job.client.get(f"/api/stages/{job.part.id}").json()[-1]["state"] == "settled"


def test_made_twice_it_is_the_same_bytes(job, settings):
    job.prove()
    when = timezone.now().replace(hour=16, minute=0, second=0, microsecond=0)  # the next day in Tokyo
    one, told = made(job.view, "portable", REASON, when, "Ines")
    from hewel import printing

    printing.SET._slots.clear()
    settings.TIME_ZONE = "Asia/Tokyo"
    with timezone.override("Asia/Tokyo"):
        other, _ = made(job.view, "portable", REASON, when, "Ines")
    assert one == other and told["released"].endswith("+00:00")
    later, _ = made(job.view, "portable", REASON, when + timedelta(seconds=1), "Ines")
    assert later != one


def second(name: str = "tam", role: str = "engineer") -> User:
    user = person(name, "Alder Reach")
    user.role = role
    user.save()
    return user


def test_what_could_injure_waits_for_a_second_person(job):
    job.prove("injury")
    told = job.release(waiver=REASON).json()
    assert told["state"] == "asked"
    assert job.client.get(f"/api/release/{told['id']}/packet").json()["code"] == "not_released"
    own = job.post(f"{told['id']}/review", approved=True, words="I looked at it myself.")
    assert own.status_code == 403 and own.json()["code"] == "own_release"
    other = client_of(second())
    review = lambda **body: other.post(f"/api/release/{told['id']}/review", body, content_type="application/json")
    assert review(approved=True, words="").status_code == 422, "it says what was looked at"
    answer = review(approved=True, words="Checked the loads and broke one.")
    assert answer.status_code == 200 and answer.json()["reviewer"] == "Tam"
    assert checked(packet(job, told["id"])).sound
    assert review(approved=False, words="Looked at it once more.").status_code == 409


def test_a_refused_release_can_be_written_again(job):
    job.prove("injury")
    told = job.release(waiver=REASON).json()
    body = {"approved": False, "words": "The neck is too thin."}
    client_of(second()).post(f"/api/release/{told['id']}/review", body, content_type="application/json")
    assert job.put(title={"name": "Thicker"}).status_code == 200
    again = job.release(waiver=REASON).json()
    assert job.post(f"{again['id']}/take-back").status_code == 204
    assert job.put(title={"name": "Thicker still"}).status_code == 200


def test_only_an_engineer_releases_and_everybody_who_may_export_takes_it(job):
    job.prove()
    technician = client_of(second("wim", "technician"))
    body = {"base": job.version, "kind": "portable", "waiver": REASON}
    assert technician.post(f"/api/release/of/{job.part.id}", body, content_type="application/json").status_code == 403
    told = job.release(waiver=REASON).json()
    assert technician.get(f"/api/release/{told['id']}/packet").status_code == 200
    viewer = client_of(second("vera", "viewer"))
    assert viewer.get(f"/api/release/{told['id']}/packet").status_code == 403


def test_one_that_was_changed_meanwhile_is_not_released(job):
    job.prove()
    body = {"base": job.version - 1, "kind": "portable", "waiver": REASON}
    answer = job.client.post(f"/api/release/of/{job.part.id}", body, content_type="application/json")
    assert answer.status_code == 409 and answer.json()["code"] == "changed"


def test_a_revision_begins_beside_what_is_released_and_both_are_compared(job, engineer):
    job.prove()
    first = job.release(waiver=REASON).json()
    answer = job.client.post(f"/api/parts/{job.part.id}/beside", content_type="application/json")
    assert answer.status_code == 201 and answer.json()["revision"] == 2
    fresh = type(job.part).objects.get(id=answer.json()["id"])
    assert fresh.solid_id == job.part.solid_id and fresh.sheet.frozen is None and fresh.job["carried"]
    study = DirectedJob(fresh).study
    type(study).objects.filter(id=study.id).update(candidates=job.study.candidates, sweep=job.study.sweep)
    study.refresh_from_db()
    other = Job(job.client, fresh, study)
    for stage in (OVERHANGS, WALLS):
        calculate(stage, engineer, DirectedJob(fresh))
    other.prove()
    other.put(need={"use": "functional", "quantity": 40})
    other.client.post(f"/api/needs/{fresh.id}/settle", {"base": other.version}, content_type="application/json")
    second_one = other.release(waiver=REASON)
    assert second_one.status_code == 201, second_one.content
    rows = job.client.get(f"/api/release/{first['id']}/against/{second_one.json()['id']}").json()
    told = {row["what"]: (row["one"], row["other"]) for row in rows}
    assert told["revision"] == ("1", "2") and ("4", "40") in told.values()


def test_every_revision_tells_what_it_changed_to_whoever_owns_the_model(engineer, part, study):
    """A bore drawn for its pin, then a bolt: the packet of the last revision knows of both."""
    bore = {"id": "b", "name": "pin bore", "colour": 0, "shape": {"cylinder": {
        "point": [0, 0, 9], "axis": [1, 0, 0], "radius": 4.27, "tol": 0.1}}}  # fmt: skip
    job = {
        "regions": {"rows": [bore]},
        "touching": {"rows": [{"id": "t", "on": "b", "duty": "mating", "fit": "sliding"}]},
        "hardware": {"rows": [{"id": "h", "name": "bolt 1", "kind": "bolt", "size": "M4", "at": [8.5, 0, 24],
                               "axis": [0, 0, -1]}]},
    }  # fmt: skip
    given = {name: checked_section(name, value) for name, value in job.items()}
    fitted = revise(engineer, part)
    fitted.sheet = sheets.amend(engineer, fitted.sheet_id, 1, given, "written")
    fitted.recipe = {"up": [0, 0, 1], "steps": [], "drawn": {"t": {"nominal": 8.0}}, "regions": {"b": bore["shape"]}}
    fitted.save()
    bolted = revise(engineer, fitted)
    cut = {"h": {"up": [0, 0, 1], "where": {"hole_mm": 4.65, "grip_mm": 21.6, "nut": "square"}}}
    bolted.recipe = {"up": [0, 0, 1], "steps": [], "hardware": cut}
    bolted.save()
    told = of_part(bolted)
    assert [r.lines for r in told] == [
        ["pin bore, 8.00 mm, drawn anew for its sliding fit. It is ⌀ 8.54 mm now."],
        ["bolt 1: bolt M4, in at (8.50, 0.00, 24.00) along (0.00, 0.00, -1.00); hole 4.65 mm, grip 21.60 mm."],
    ]
    assert f"revision {fitted.revision}" in told[0].text and f"revision {bolted.revision}" in told[1].text
    assert of_part(part) == []


def test_the_report_is_there_before_anything_is_released(job):
    answer = job.client.get(f"/api/release/of/{job.part.id}/report")
    assert answer.status_code == 200 and answer.content.startswith(b"%PDF")
