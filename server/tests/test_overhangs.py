"""Checking layers: findings, how each is settled, what goes stale, what is found no more; the layer log."""

import struct

import manifold3d as m3
import numpy as np
import pytest
from conftest import client_of, computed, directions_of, person, stage_of
from django.core.files.uploadedfile import SimpleUploadedFile
from test_needs import Job, face

from hewel_engine.geometry.mesh import Mesh
from hewel_engine.io.stl import write_stl
from hewel_engine.processes import Process
from needs.queries import held
from overhangs import matching
from overhangs.models import OverhangAnalysis
from overhangs.queries import current_walk
from overhangs.stage import OVERHANGS
from parts import bridge as parts_bridge
from parts.actions import complete_part, create_part, enqueue_intake
from store import actions as store
from studies.view import DirectedJob


def mesh_of(solid: m3.Manifold) -> bytes:
    out = solid.to_mesh64()
    return write_stl(Mesh(np.asarray(out.vert_properties)[:, :3].copy(), np.asarray(out.tri_verts).astype(np.int32)))


SIDEWAYS = [-1.0, 0.0, 0.0]
"""The plate on its edge: its wall stands out as a ledge of 21 mm, its bore lies."""


@pytest.fixture
def job(client, part, study):
    return Job(client, part)


def choose(client, job, study, up=SIDEWAYS):
    known = [c["up"] for c in study.candidates]
    near = max(known, key=lambda c: sum(a * b for a, b in zip(c, up, strict=True)))
    body = {"base": job.get()["version"], "up": near, "reason": "to see what hangs"}
    answer = client.post(f"/api/studies/{study.id}/choice", body, content_type="application/json")
    assert answer.status_code == 201, answer.content
    return near


def checked(part, engineer) -> OverhangAnalysis:
    return computed(OVERHANGS, engineer, part)


@pytest.fixture
def analysis(client, job, part, study, engineer):
    choose(client, job, study)
    return checked(part, engineer)


def stage(client, part) -> dict:
    return stage_of(client, part, "overhangs")


def look(client, part) -> dict:
    return client.get(f"/api/overhangs/of/{part.id}").json()


def settle(client, part, analysis, numbers, state="accepted", reason="hidden, printed so before", base=None):
    base = base or client.get(f"/api/parts/{part.id}").json()["version"]
    body = {"base": base, "findings": numbers, "state": state, "reason": reason}
    return client.post(f"/api/overhangs/{analysis.id}/settle", body, content_type="application/json")


def test_before_anything_is_chosen_the_first_candidate_would_be_walked(client, part, study):
    got = look(client, part)
    assert got["analysis"] is None and got["chosen"] is False and stage(client, part)["state"] == "empty"
    assert got["up"] == min(study.candidates, key=lambda c: c["rank"])["up"]


def test_a_walk_is_ordered_once_for_the_same_thing(client, job, part, study):
    choose(client, job, study)
    first = client.post(f"/api/overhangs/of/{part.id}").json()
    again = client.post(f"/api/overhangs/of/{part.id}").json()
    assert first["analysis"]["id"] == again["analysis"]["id"] and OverhangAnalysis.objects.count() == 1
    assert first["analysis"]["work"]["state"] == "waiting" and stage(client, part)["line"] == "checking the layers"
    assert first["analysis"]["rows"] == [] and first["analysis"]["truth"] is None


def test_findings_are_sentences_with_number_limit_and_place(client, part, analysis):
    got = look(client, part)["analysis"]
    ledge = next(r for r in got["rows"] if r["kind"] == "ledge")
    assert ledge["verdict"] == "fails" and ledge["state"] == "open"
    assert ledge["number"] == pytest.approx(21, abs=0.05) and ledge["limit"] == pytest.approx(0.9)
    assert ledge["sentence"].startswith("Ledge reaches out 21.0 mm") and ledge["support_volume_mm3"] > 1000
    assert ledge["remedies"][0] == {"key": "gusset", "rise_mm": pytest.approx(21, abs=0.05)}
    roof = next(r for r in got["rows"] if r["kind"] == "bore_roof")
    assert roof["verdict"] == "holds" and roof["state"] == "none" and roof["number"] == pytest.approx(5.66, abs=0.01)
    assert got["truth"]["needs_support"] and got["stale_because"] == []
    assert stage(client, part) == {"state": "open", "line": "1 open"}


def test_facets_and_outlines_come_as_they_are_kept(client, part, analysis):
    got = look(client, part)["analysis"]
    marks = np.frombuffer(client.get(f"/api/overhangs/{analysis.id}/content/facets/{got['facets']}").content, "<i2")
    assert len(marks) == part.facts["triangles"] and set(marks) == {0, *(r["number_on_part"] for r in got["rows"])}
    answer = client.get(f"/api/overhangs/{analysis.id}/content/outlines/{got['outlines']}")
    assert "immutable" in answer["Cache-Control"] and answer.content[:4] == b"HWL1"
    layers, loops, points = struct.unpack("<3I", answer.content[4:16])
    assert len(answer.content) == 16 + 4 * (layers + 1) + 4 * (loops + 1) + 8 * points
    assert layers == len(analysis.log["area_mm2"])
    assert client.get(f"/api/overhangs/{analysis.id}/content/outlines/{'0' * 64}").status_code == 404
    assert client.get(f"/api/overhangs/{analysis.id}/sweep/{got['outlines']}").status_code == 404


def test_the_layer_log_adds_up(client, part, analysis):
    one = client.get(f"/api/overhangs/{analysis.id}/log").json()
    five = client.get(f"/api/overhangs/{analysis.id}/log?copies=5").json()
    volume = sum(one["area_mm2"]) * one["layer_mm"]
    assert volume == pytest.approx(part.facts["volume_mm3"], rel=2e-3)
    assert one["seconds"] == one["seconds_one"] == five["seconds_one"] and five["total_s"] > one["total_s"]
    assert one["total_s"] == pytest.approx(sum(one["seconds"]))
    assert one["total_s"] == pytest.approx(
        OverhangAnalysis.objects.get().part.study_results.get().choices.get().measures["time_s"], rel=1e-3
    )
    assert {e["kind"] for e in one["events"]} >= {"bore_roof"}
    assert client.get(f"/api/overhangs/{analysis.id}/log?copies=0").status_code == 422


def test_a_finding_is_settled_with_a_reason_and_opened_again(client, part, analysis):
    ledge = next(r["number_on_part"] for r in look(client, part)["analysis"]["rows"] if r["kind"] == "ledge")
    short = settle(client, part, analysis, [ledge], reason=" ")
    assert short.status_code == 422 and short.json()["code"] == "reason_needed"
    assert settle(client, part, analysis, [99]).json()["code"] == "no_finding"
    got = settle(client, part, analysis, [ledge]).json()
    row = next(r for r in got["analysis"]["rows"] if r["number_on_part"] == ledge)
    assert row["state"] == "accepted" and row["settled"]["reason"] == "hidden, printed so before"
    assert row["settled"]["by"] == "Ines" and stage(client, part) == {
        "state": "settled",
        "line": "1 settled",
    }
    got = settle(client, part, analysis, [ledge], state="open", reason="").json()
    assert stage(client, part)["state"] == "open" and got["analysis"]["rows"][0]["settled"] is None


def test_settling_is_an_edit_that_can_be_taken_back_and_does_not_overwrite(client, part, analysis, engineer):
    ledge = next(r["number_on_part"] for r in look(client, part)["analysis"]["rows"] if r["kind"] == "ledge")
    base = client.get(f"/api/parts/{part.id}").json()["version"]
    assert settle(client, part, analysis, [ledge], base=base).status_code == 200
    assert settle(client, part, analysis, [ledge], reason="another reason", base=base).status_code == 409
    url = f"/api/sheets/{part.sheet_id}/take-back"
    assert client.post(url, {"number": base + 1}, content_type="application/json").status_code == 200
    assert stage(client, part)["state"] == "open"


@pytest.mark.parametrize("role", ["technician", "viewer"])
def test_only_an_engineer_walks_and_settles(part, analysis, role):
    other = person(role, "Alder Reach")
    other.role = role
    other.save()
    client = client_of(other)
    assert client.post(f"/api/overhangs/of/{part.id}").status_code == 403
    assert settle(client, part, analysis, [1]).status_code == 403
    assert client.get(f"/api/overhangs/of/{part.id}").status_code == 200


def order(client, part, study, **typed):
    now = client.get(f"/api/parts/{part.id}").json()
    body = {"base": now["version"], **now["process"]["given"], **typed}
    answer = client.post(f"/api/studies/of/{part.id}", body, content_type="application/json")
    assert answer.status_code == 202, answer.content


def test_another_process_makes_the_walk_stale_and_what_was_settled_survives_it(client, part, analysis, study, engineer):
    ledge = next(r["number_on_part"] for r in look(client, part)["analysis"]["rows"] if r["kind"] == "ledge")
    settle(client, part, analysis, [ledge])
    order(client, part, study, layer=0.3)
    got = look(client, part)
    assert stage(client, part)["state"] == "stale" and got["analysis"]["stale_because"] == ["layer height 0.2 → 0.3"]
    again = checked(part, engineer)
    got = look(client, part)
    assert again.id != analysis.id and got["analysis"]["stale_because"] == []
    row = next(r for r in got["analysis"]["rows"] if r["kind"] == "ledge")
    assert row["state"] == "accepted" and row["grown"] is False
    order(client, part, study, layer=None)
    assert look(client, part)["analysis"]["id"] == str(analysis.id), "an undone process brings its own check back"


def revised(engineer, part, mesh_bytes):
    """The same part again with another solid, its study with one candidate standing the same way."""
    before = {"solid": store.get(part.solid), "view": store.get(part.view), "regions": []}
    events = parts_bridge.intake(mesh_bytes, "auto", Process().as_dict(), before)
    pieces = {name: value for _, name, value in (e for e in events if e[0] == "result")}
    work = enqueue_intake(engineer, SimpleUploadedFile("plate.stl", mesh_bytes), "", "auto", part)
    after = create_part(work, pieces)
    complete_part(work, after, pieces["features"])
    study = directions_of(engineer, after)
    study.candidates = [{"up": SIDEWAYS, "rank": 1}]
    study.save()
    return after


def test_what_a_revision_has_no_more_is_told_as_remedied_and_what_was_settled_is_kept(client, part, analysis, engineer):
    ledge = next(r["number_on_part"] for r in look(client, part)["analysis"]["rows"] if r["kind"] == "ledge")
    settle(client, part, analysis, [ledge], reason="bed side, nobody sees it")
    plate = mesh_of(
        m3.Manifold.cube((40, 30, 6), True) - m3.Manifold.cylinder(20, 4, 4, 48, True).translate((-8, 0, 0))
    )
    after = revised(engineer, part, plate)
    checked(after, engineer)
    got = look(client, after)
    assert [r["kind"] for r in got["analysis"]["rows"]] == ["bore_roof"] and stage(client, after)["state"] == "settled"
    (gone,) = got["analysis"]["gone"]
    assert gone["kind"] == "ledge" and gone["reason"] == "bed side, nobody sees it" and gone["state"] == "accepted"
    assert gone["because"] == ["the part (revision 2)"]


def test_what_was_open_and_is_found_no_more_is_remedied(client, part, analysis, engineer):
    plate = mesh_of(m3.Manifold.cube((40, 30, 6), True))
    after = revised(engineer, part, plate)
    checked(after, engineer)
    (gone,) = look(client, after)["analysis"]["gone"]
    assert gone["kind"] == "ledge" and gone["state"] == "remedied" and gone["because"] == ["the part (revision 2)"]


def test_a_fit_and_a_protected_face_are_taken_into_account_at_once(client, job, part, analysis):
    bore = {"cylinder": {"point": [-8, 0, 0], "axis": [0, 0, 1], "radius": 4, "tol": 0.1}}
    under = {"plane": {"point": [7, 0, 12], "normal": [-1, 0, 0], "tol": 0.05}}
    over = {"plane": {"point": [13, 0, 12], "normal": [1, 0, 0], "tol": 0.05}}
    touching = [
        {"id": "a", "on": "under", "duty": "no_scar"},
        {"id": "b", "on": "over", "duty": "no_scar"},
        {"id": "c", "on": "bore", "duty": "mating", "fit": "sliding"},
    ]
    given = job.put(
        regions={"rows": [face("bore", bore), face("under", under), face("over", over)]}, touching={"rows": touching}
    )
    assert given.status_code == 200, given.content
    rows = look(client, part)["analysis"]["rows"]
    ledge = next(r for r in rows if r["kind"] == "ledge")
    assert any("must not be scarred" in b for b in ledge["because"])
    roof = next(r for r in rows if r["kind"] == "bore_roof")
    assert roof["verdict"] == "doubtful" and roof["state"] == "open", "its droop is on a mating face"


def test_an_open_part_and_a_part_without_direction_are_refused_in_words(client, part, study, engineer):
    study.candidates = []
    study.save()
    answer = client.post(f"/api/overhangs/of/{part.id}")
    assert answer.status_code == 409 and answer.json()["code"] == "no_direction"
    assert stage(client, part) == {"state": "empty", "line": "no direction yet"}


def test_walks_and_what_they_keep_end_with_the_part(client, part, analysis):
    from datetime import timedelta

    from django.utils import timezone

    from parts.actions import throw_away
    from store.models import Blob

    kept = [analysis.facets_id, analysis.outlines_id]
    client.delete(f"/api/sheets/{part.sheet_id}")
    assert client.get(f"/api/overhangs/of/{part.id}").status_code == 404
    assert throw_away(timezone.now() + timedelta(days=31)) == 1
    assert not OverhangAnalysis.objects.exists() and not Blob.objects.filter(digest__in=kept).exists()


def spot(kind, at, area=9.0, number=5.0):
    return {"kind": kind, "centre_mm": at, "area_mm2": area, "number": number}


def test_findings_are_paired_by_kind_and_nearest_place_each_once():
    before = [spot("bridge", [0, 0, 0]), spot("bridge", [0.9, 0, 0]), spot("ledge", [0, 0, 0])]
    now = [
        spot("bridge", [0.8, 0, 0]),
        spot("bridge", [0.1, 0, 0]),
        spot("island", [0, 0, 0]),
        spot("bridge", [30, 0, 0]),
    ]
    assert matching.paired(now, before) == {0: 1, 1: 0}
    wide = [spot("bridge", [3, 0, 0], area=100.0)]
    assert matching.paired(wide, [spot("bridge", [0, 0, 0], area=100.0)]) == {0: 0}
    assert not matching.has_grown(spot("bridge", [0, 0, 0], number=5.4), spot("bridge", [0, 0, 0]))
    assert matching.has_grown(spot("bridge", [0, 0, 0], number=5.7), spot("bridge", [0, 0, 0]))


def test_current_walk_is_none_before_one_is_ordered(part, study):
    assert current_walk(DirectedJob(part)) is None and held(part).mesh is not None
