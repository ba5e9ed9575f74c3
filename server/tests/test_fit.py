"""Fit: the table of touching faces, what is drawn for them, the revision that keeps what each is meant to be."""

import importlib
import json
from math import cos, pi

import manifold3d as m3
import numpy as np
import pytest
from conftest import computed, directions_of, run_here, stage_of, stl_bytes
from django.core.files.uploadedfile import SimpleUploadedFile
from test_needs import BORE, TOP, Job, face
from test_overhangs import choose

from farm.actions import begin
from fit.stage import FIT
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.io.stl import write_stl
from hewel_engine.processes import Process
from parts import bridge as parts_bridge
from parts.actions import complete_part, create_part, enqueue_intake
from parts.models import Part
from sheets.models import Sheet
from store import actions as store
from studies.models import Study
from work.models import Work

WALL = {"plane": {"point": [7, 0, 12], "normal": [-1, 0, 0], "tol": 0.05}}


@pytest.fixture
def job(client, part, study):
    return Job(client, part)


def touch(on, fit=None, key=None, duty="mating", **more):
    return {"id": key or f"t-{on}", "on": on, "duty": duty, "fit": fit} | more


def written(job, *rows):
    regions = {"rows": [face("bore", BORE), face("top", TOP), face("wall", WALL)]}
    answer = job.put(regions=regions, touching={"rows": list(rows)})
    assert answer.status_code == 200, answer.content


def seen(client, part) -> dict:
    answer = client.get(f"/api/fit/of/{part.id}")
    assert answer.status_code == 200, answer.content
    return answer.json()


def taken(client, analysis) -> Part:
    answer = client.post(f"/api/fit/{analysis.id}/take")
    assert answer.status_code == 202, answer.content
    work = Work.objects.get(id=answer.json()["id"])
    run_here(work)
    work.refresh_from_db()
    return Part.objects.get(id=work.result["part"])


def test_a_part_without_touching_faces_has_no_fits(client, part, job):
    assert stage_of(client, part, "fit") == {"state": "empty", "line": "none"}
    assert seen(client, part)["rows"] == []
    answer = client.post(f"/api/fit/of/{part.id}", {}, content_type="application/json")
    assert answer.status_code == 422 and answer.json()["code"] == "no_fit"


def test_the_table_says_what_comes_out_and_what_to_draw(client, part, job):
    written(job, touch("bore", "sliding", size="8 mm", plus="0.02 mm"), touch("wall", key="c", duty="inside_corner"))
    bore, corner = seen(client, part)["rows"]
    told = bore["estimate"]
    assert (told["kind"], told["verdict"]) == ("bore", "tight") and told["drawn_mm"] == pytest.approx(8)
    upright = 0.996 * 8 * cos(pi / 48) - 0.15
    assert told["printed_mm"] == pytest.approx(upright if told["lies"] == "upright" else upright - 0.15)
    lost = 0.15 if told["lies"] == "upright" else 0.30
    assert told["to_draw_mm"] == pytest.approx((8.2 + lost) / 0.996 / cos(pi / 48))
    assert any("overlap" in s for s in told["says"]) and {c["origin"] for c in told["corrections"]} >= {"handbook"}
    assert corner["estimate"]["kind"] == "corner" and corner["changes"]
    assert corner["estimate"]["to_draw_mm"] == pytest.approx(0.45)
    assert stage_of(client, part, "fit") == {"state": "open", "line": "2 to draw"}


def test_drawn_once_it_comes_out_right_and_is_never_drawn_again(client, engineer, part, job):
    written(job, touch("bore", "location", size="8 mm"), touch("wall", key="c", duty="inside_corner"))
    before = seen(client, part)["rows"][0]["estimate"]
    analysis = computed(FIT, engineer, part)
    told = seen(client, part)["analysis"]
    assert [r["applied"] for r in told["rows"]] == [True, True], [r["refused"] for r in told["rows"]]
    assert told["stray_mm3"] < 0.01
    revised = taken(client, analysis)
    assert seen(client, part)["taken"] == str(revised.id)
    (region,) = [r for r in revised.job["regions"]["rows"] if r["id"] == "bore"]
    assert region["shape"]["cylinder"]["radius"] == pytest.approx(before["to_draw_mm"] / 2, abs=1e-3)
    row = next(r for r in revised.job["touching"]["rows"] if r["on"] == "bore")
    assert row["drawn"]["nominal"] == pytest.approx(8) and row["size"]["n"] == 8
    now = seen(client, revised)["rows"][0]
    assert now["estimate"]["gap_mm"] == pytest.approx(0.03, abs=1e-3) and now["estimate"]["verdict"] == "fits"
    assert not now["changes"]
    again = computed(FIT, engineer, revised, ["t-bore"])
    assert again.result["steps"] == [] and again.file_id is None
    answer = client.post(f"/api/fit/{again.id}/take")
    assert answer.status_code == 409 and answer.json()["code"] == "nothing_changed"


def pegged() -> bytes:
    """A plate with a pin that stands on it."""
    solid = m3.Manifold.cube((40, 30, 6), True) + m3.Manifold.cylinder(20, 3, 3, 64).translate((0, 0, 3))
    mesh = solid.to_mesh64()
    return write_stl(Mesh(np.asarray(mesh.vert_properties)[:, :3].copy(), np.asarray(mesh.tri_verts).astype(np.int32)))


def own_part(engineer, brought: dict, name: str, studied) -> tuple[Part, Study]:
    """A part of a test's own, with the directions of the usual one."""
    work = enqueue_intake(engineer, SimpleUploadedFile(f"{name}.stl", b"solid"), name, "auto")
    made = create_part(work, brought)
    complete_part(work, made, brought["features"])
    study = directions_of(engineer, made)
    Study.objects.filter(id=study.id).update(sweep=store.put(studied["sweep"]), candidates=studied["candidates"])
    study.refresh_from_db()
    return made, study


def brought_in(data: bytes) -> dict:
    return {e[1]: e[2] for e in parts_bridge.intake(data, "auto", Process().as_dict()) if e[0] == "result"}


def test_a_pin_that_is_pushed_from_the_side_says_what_saves_it(client, engineer, studied):
    peg, _ = own_part(engineer, brought_in(pegged()), "Peg", studied)
    job = Job(client, peg)
    stands = abs(seen(client, peg)["up"][2]) > 0.9
    assert [(round(p["size_mm"], 2), p["length_mm"]) for p in seen(client, peg)["standing"]] == (
        [(6, pytest.approx(20))] if stands else []
    )
    shape = {"cylinder": {"point": [0, 0, 13], "axis": [0, 0, 1], "radius": 3, "tol": 0.1, "from": -9.9, "to": 10}}
    rows = lambda **more: {"rows": [touch("pin", "sliding", size="6.3 mm", **more)]}
    assert job.put(regions={"rows": [face("pin", shape)]}, touching=rows(push="20 N")).status_code == 200
    assert seen(client, peg)["standing"] == [], "what is a touching face is no news"
    told = seen(client, peg)["rows"][0]["pushed"]
    assert told["stress"] == pytest.approx(32 * 20 * 20 / (3.14159 * 6**3), rel=1e-3)
    assert (told["reserve"] < 1) == told["stands"] and (told["radius"] is not None) == (told["reserve"] < 1)
    assert job.put(touching=rows(push="-3 N")).status_code == 422
    job.put(touching=rows())
    assert seen(client, peg)["rows"][0]["pushed"] is None


def test_a_width_is_measured_across_to_another_face(client, engineer, part, job):
    """The wall, 6 mm thick: drawn narrower by a half on either side, and both faces are found where they are then."""
    back = {"plane": {"point": [13, 0, 12], "normal": [1, 0, 0], "tol": 0.05}}
    regions = {"rows": [face("front", WALL), face("back", back)]}
    row = touch("front", "sliding", across="back", size="6 mm")
    assert job.put(regions=regions, touching={"rows": [row]}).status_code == 200
    told = seen(client, part)["rows"][0]["estimate"]
    assert (told["kind"], told["drawn_mm"]) == ("tongue", pytest.approx(6))
    revised = taken(client, computed(FIT, engineer, part))
    shapes = {r["id"]: r["shape"]["plane"]["point"][0] for r in revised.job["regions"]["rows"]}
    assert shapes["back"] - shapes["front"] == pytest.approx(told["to_draw_mm"], abs=2e-3)
    assert shapes["front"] - 7 == pytest.approx(13 - shapes["back"], abs=1e-6)
    assert seen(client, revised)["rows"][0]["estimate"]["verdict"] == "fits"


def test_only_what_is_picked_is_drawn(client, engineer, part, job):
    written(job, touch("bore", "free"), touch("wall", key="c", duty="inside_corner"))
    analysis = computed(FIT, engineer, part, ["t-bore"])
    rows = {r["id"]: r for r in seen(client, part)["analysis"]["rows"]}
    assert rows["t-bore"]["applied"] and not rows["c"]["applied"]
    assert list(analysis.result["regions"]) == ["t-bore"] and len(analysis.result["regions"]["t-bore"]) == 1
    answer = client.post(f"/api/fit/of/{part.id}", {"rows": ["gone"]}, content_type="application/json")
    assert answer.status_code == 422 and answer.json()["code"] == "nothing_picked"


def test_a_coupon_of_the_machine_changes_what_is_drawn(client, engineer, part, job, study):
    choose(client, job, study, (0, 0, 1))
    written(job, touch("bore", "sliding", size="8 mm"))
    before = seen(client, part)["rows"][0]["estimate"]
    analysis = computed(FIT, engineer, part)
    machine = begin(engineer, "machine", {"name": "Weir one", "values": {}})
    values = {
        "bore_upright": {"typed": "0.06 mm", "origin": "coupon"}, "bore_lying": {"typed": "0.1 mm", "origin": "coupon"}
    }  # fmt: skip
    begin(
        engineer, "capability",
        {"name": "PETG on Weir one", "machine": str(machine.id), "material": "petg", "values": values, "count": 6},
    )  # fmt: skip
    job_ = job.get()
    answer = client.post(
        f"/api/studies/of/{part.id}", {"base": job_["version"], "machine": str(machine.id)},
        content_type="application/json",
    )  # fmt: skip
    assert answer.status_code == 202, answer.content
    now = seen(client, part)
    told = now["rows"][0]["estimate"]
    assert told["to_draw_mm"] < before["to_draw_mm"] - 0.08
    assert "coupon" in {c["origin"] for c in told["corrections"]}
    assert "numbers of the fits" in now["analysis"]["stale_because"]
    assert now["analysis"]["id"] == str(analysis.id)


def test_a_face_that_must_stay_as_it_is_is_not_drawn(client, engineer, part, job):
    written(job, touch("bore", "free"), touch("bore", key="scar", duty="no_scar"))
    computed(FIT, engineer, part)
    (row,) = seen(client, part)["analysis"]["rows"]
    assert "must stay as it is" in row["refused"]
    assert stage_of(client, part, "fit") == {"state": "fails", "line": "1 cannot be drawn"}


def second(engineer, pieces, studied) -> Part:
    work = enqueue_intake(engineer, SimpleUploadedFile("other.stl", stl_bytes()), "Other plate", "auto")
    made = create_part(work, pieces)
    complete_part(work, made, pieces["features"])
    study = directions_of(engineer, made)
    Study.objects.filter(id=study.id).update(sweep=store.put(studied["sweep"]), candidates=studied["candidates"])
    return made


def test_a_face_meets_one_of_another_part_as_that_comes_out(client, engineer, part, job, study, pieces, studied):
    """What it meets has the size that comes out there, and that one's doubt for a tolerance."""
    choose(client, job, study, (0, 0, 1))
    written(job, touch("bore", "free"))
    other = second(engineer, pieces, studied)
    written(Job(client, other), touch("bore", "free", meets={"part": str(part.id), "touch": "t-bore"}))
    state = seen(client, other)
    (row,), mine = state["rows"], seen(client, part)["rows"][0]["estimate"]
    assert {(o["part"], o["touch"]) for o in state["others"]} == {(str(part.id), "t-bore")}
    assert row["meets"] == {
        "name": "Gauge plate, bore", "mm": pytest.approx(mine["printed_mm"]), "doubt": pytest.approx(mine["doubt_mm"])
    }  # fmt: skip
    told = row["estimate"]
    assert told["mate_mm"] == pytest.approx(mine["printed_mm"])
    most = (told["printed_mm"] + told["doubt_mm"] - (mine["printed_mm"] - mine["doubt_mm"])) / 2
    assert told["most_gap_mm"] == pytest.approx(most)
    computed(FIT, engineer, other)
    assert seen(client, other)["analysis"]["stale_because"] == []
    written(job, touch("bore", duty="no_scar"))
    gone = seen(client, other)
    assert gone["rows"][0]["lost"] and gone["rows"][0]["meets"] is None
    assert gone["analysis"]["stale_because"] == ["touching faces"]


# ------------------------------------------------------------------ what bends

ARM = {"id": "arm", "name": "wall as an arm", "at": [7, 0, 14], "normal": [-1, 0, 0], "deflection": "0.4 mm"}


def bent(job, **more):
    answer = job.put(flexing={"rows": [ARM | more]})
    assert answer.status_code == 200, answer.content


def test_an_arm_is_reckoned_as_it_stands_and_as_it_would_lie(client, part, job, study):
    """The wall of the plate, 6 mm thick and 21 mm high, bent by its end: ε = 1.5·t·y/L²."""
    up = choose(client, job, study, (0, 0, 1))
    bent(job)
    (row,) = seen(client, part)["flexes"]
    told = row["flex"]
    assert (told["thickness_mm"], told["width_mm"]) == (pytest.approx(6, abs=0.02), pytest.approx(30, abs=0.2))
    assert told["length_mm"] == pytest.approx(21, abs=0.3) and told["stands_deg"] == pytest.approx(
        90 * abs(up[2]), abs=1
    )
    assert told["strain"] == pytest.approx(1.5 * 6 * 0.4 / told["length_mm"] ** 2, rel=0.01)
    assert told["reserve"] == pytest.approx(told["allowed"] / told["strain"], rel=1e-6) and told["verdict"] == "fails"
    assert told["lying"] > told["reserve"] and told["thinner_mm"] < 6 and told["longer_mm"] > 21
    bent(job, thickness="2 mm", deflection="0.2 mm")
    again = seen(client, part)["flexes"][0]["flex"]
    assert again["thickness_mm"] == 2 and "thickness" not in again["measured"]


def test_an_arm_that_fails_is_thinned_as_a_revision_and_holds(client, engineer, part, job, study):
    choose(client, job, study, (0, 0, 1))
    bent(job)
    told = seen(client, part)["flexes"][0]["flex"]
    analysis = computed(FIT, engineer, part)
    assert analysis.result["steps"] == [], "an arm is thinned when it is asked for, not with all fits"
    assert stage_of(client, part, "fit")["line"].startswith("an arm fails")
    analysis = computed(FIT, engineer, part, ["arm"])
    (row,) = seen(client, part)["analysis"]["flexes"]
    assert row["applied"], row["refused"]
    now = seen(client, taken(client, analysis))["flexes"][0]["flex"]
    assert now["thickness_mm"] == pytest.approx(told["thinner_mm"], abs=0.02) and now["verdict"] == "holds"


@pytest.mark.parametrize(("cure", "key"), [("longer", "lengthened_arm"), ("rounder", "rounded_root")])
def test_an_arm_may_be_made_longer_or_its_root_rounded_instead(client, engineer, part, job, study, cure, key):
    choose(client, job, study, (0, 0, 1))
    bent(job, cure=cure, repeated=True)
    told = seen(client, part)["flexes"][0]["flex"]
    wanted = told["longer_mm"] if cure == "longer" else told["rounder_mm"]
    analysis = computed(FIT, engineer, part, ["arm"])
    if wanted is None:
        assert analysis.result["steps"] == [], "no radius makes it hold"
        return
    (row,) = analysis.result["flexes"]
    assert row["applied"], row["refused"]
    assert [s["key"] for s in analysis.result["steps"]] == [key]
    now = seen(client, taken(client, analysis))["flexes"][0]["flex"]
    assert now["reserve"] > 1.05 * told["reserve"]
    if cure == "longer":
        assert now["length_mm"] == pytest.approx(wanted, rel=0.02) and now["verdict"] == "holds"


def test_what_is_no_arm_says_so_in_its_row(client, part, job):
    bent(job, at=[-14, 0, 3], normal=[0, 0, 1])
    (row,) = seen(client, part)["flexes"]
    assert row["flex"] is None and "Point at the broad face" in row["why"]
    for wrong, words in (({"deflection": "-1 mm"}, "no size"), ({"friction": 0}, ""), ({"radius": "-2 mm"}, "radius")):
        answer = job.put(flexing={"rows": [ARM | wrong]})
        assert answer.status_code == 422 and words in answer.content.decode()
    assert job.get()["job"]["flexing"]["rows"][0]["at"] == [-14, 0, 3]


@pytest.mark.parametrize(
    ("row", "words"),
    [
        (touch("bore", "sliding", size="0 mm"), "cannot measure"),
        (touch("bore", "sliding", size="-8 mm"), "cannot measure"),
        (touch("bore", "sliding", size="nan mm"), ""),
        (touch("bore", "sliding", size="8 kg"), ""),
        (touch("bore", "sliding", plus="-1 mm"), "without a sign"),
        (touch("bore", "sliding", gap="400 mm"), "per side"),
        (touch("bore", "wobbly"), ""),
        (touch("bore", drawn={"nominal": -1, "up": [0, 0, 1]}), ""),
    ],
)
def test_what_is_no_fit_is_refused_and_nothing_is_lost(job, row, words):
    written(job, touch("bore", "free"))
    answer = job.put(touching={"rows": [row]})
    assert answer.status_code == 422 and words in answer.content.decode()
    assert [r["fit"] for r in job.get()["job"]["touching"]["rows"]] == ["free"]


def test_records_of_before_hold_drawn_clearances_and_are_turned_into_printed_ones(engineer):
    """A location fit of 0.10 drawn, with a loss of 0.12, leaves 0.04."""
    values = {"fit_location": {"typed": "0.1 mm", "origin": "coupon"}, "bore_upright": {"typed": "0.12 mm"}}
    sheet = begin(engineer, "capability", {"name": "old one", "material": "petg", "values": values})
    from django.apps import apps

    importlib.import_module("sheets.migrations.0002_printed_clearances").printed(apps, None)
    for row in (Sheet.objects.get(id=sheet.id), *sheet.editions.all()):
        found = row.content["record"]["values"]["fit_location"]
        assert (found["value"], found["typed"]) == (0.04, "0.04 mm")


EDGES = {"id": "edges", "name": "edges of the top", "kind": "broken_edges", "at": [10, 0, 24], "normal": [0, 0, 1]}


def test_a_feature_is_told_made_once_and_stays_made(client, engineer, part, job):
    assert job.put(features={"rows": [EDGES | {"numbers": {"edge_mm": "0,5 mm"}}]}).status_code == 422
    assert job.put(features={"rows": [EDGES | {"numbers": {"edge_mm": "0.05 cm"}}]}).status_code == 200
    assert job.get()["job"]["features"]["rows"][0]["numbers"] == {"edge_mm": {"typed": "0.05 cm", "n": 0.5}}
    assert stage_of(client, part, "fit") == {"state": "open", "line": "1 to make"}
    told = seen(client, part)
    assert told["features"][0]["numbers"] == {"edge_mm": 0.5, "round_count": 0.0} and told["features"][0]["why"] is None
    kind = next(k for k in told["kinds"] if k["key"] == "broken_edges")
    assert [f["name"] for f in kind["fields"]] == ["edge_mm", "round_count"] and kind["second"] is None
    analysis = computed(FIT, engineer, part)
    (row,) = analysis.result["features"]
    assert row["applied"] and analysis.result["made"] == ["edges"] and analysis.result["stray_mm3"] < 0.05
    assert stage_of(client, part, "fit") == {"state": "settled", "line": "1 made"}
    revision = taken(client, analysis)
    assert revision.recipe["steps"][0]["kind"] == "feature" and revision.recipe["made"] == ["edges"]
    assert revision.job["features"]["rows"][0]["made"] is True
    assert seen(client, revision)["features"] == [], "nothing is made twice"
    history = client.get(f"/api/sheets/{part.sheet_id}/history").json()
    assert history["editions"][0]["words"] == "feature “edges of the top” added"


def test_a_feature_that_cannot_be_says_why_and_one_that_fails_is_told_on_the_rail(client, engineer, part, job):
    hook = {"id": "snap", "name": "snap", "kind": "snap", "at": [10, 0, 24], "normal": [0, 0, 1]}
    air = EDGES | {"at": [10, 0, 40], "id": "air"}
    assert job.put(features={"rows": [hook | {"numbers": {"wings_mm": 3}}, air]}).status_code == 200
    told = {r["id"]: r for r in seen(client, part)["features"]}
    assert "no number" in told["snap"]["why"]
    job.put(features={"rows": [hook | {"numbers": {"length_mm": 8, "catch_mm": 1}}, air]})
    told = {r["id"]: r for r in seen(client, part)["features"]}
    assert told["snap"]["reserve"] < 1 and any("stands across" in s for s in told["snap"]["says"])
    result = computed(FIT, engineer, part).result
    assert "No face" in next(r for r in result["features"] if r["id"] == "air")["refused"]
    assert stage_of(client, part, "fit")["state"] == "fails"
    for wrong in ({"kind": "wing"}, {"normal": [0, 0, 0]}, {"numbers": {"edge_mm": "much"}}, {"numbers": [3]}):
        assert job.put(features={"rows": [EDGES | wrong]}).status_code == 422


def test_what_bends_is_a_field_over_all_directions(client, part, job, study):
    net = lambda: client.get(f"/api/fit/of/{part.id}/arms").json()["least"]
    assert net() == []
    job.put(flexing={"rows": [ARM | {"deflection": "0.3 mm"}]})
    ups = json.loads(store.get(study.sweep))["ups"]
    found = dict(zip(map(tuple, ups), net(), strict=True))
    told = seen(client, part)
    here = min(found, key=lambda up: sum((a - b) ** 2 for a, b in zip(up, told["up"], strict=True)))
    assert max(found.values()) > 1.5 * min(found.values()), "across its layers it bears less"
    if here == tuple(told["up"]):
        assert found[here] == pytest.approx(told["flexes"][0]["flex"]["reserve"])
    job.put(flexing={"rows": [ARM | {"deflection": "0.3 mm", "at": [90, 0, 0]}]})
    assert net() == []


def test_a_seen_face_says_its_finish_and_a_texture_keeps_off_what_works(client, engineer, part, job, study):
    choose(client, job, study, (0, 0, 1))
    regions = {"rows": [face("top", TOP), face("wall", WALL)]}
    seen_row = touch("wall", duty="seen")
    texture = {"id": "tex", "name": "texture", "kind": "texture", "at": [7, 0, 12], "normal": [-1, 0, 0]}
    job.put(regions=regions, touching={"rows": [seen_row]}, features={"rows": [texture]})
    state = seen(client, part)
    (row,) = state["seen"]
    assert (row["name"], row["worst_mm"], row["plate"], row["hangs"]) == ("wall", pytest.approx(0, abs=1e-9), 0, 0)
    assert state["features"][0]["why"] is None
    result = computed(FIT, engineer, part).result
    assert result["features"][0]["applied"], result["features"][0]["refused"]
    job.put(touching={"rows": [touch("wall", "sliding", size="6 mm")]})
    assert "kept off" in seen(client, part)["features"][0]["why"] and seen(client, part)["seen"] == []


def test_a_snap_that_stands_is_found_by_itself(client, engineer, studied):
    hook = m3.Manifold.hull(
        m3.Manifold.cube((2, 8, 0.1), True).translate((0, 0, 20.9))
        + m3.Manifold.cube((3.2, 8, 0.1), True).translate((0.6, 0, 18))
    )
    body = m3.Manifold.cube((40, 30, 3)).translate((-20, -15, 0)) + hook
    body += m3.Manifold.cube((2, 8, 18), True).translate((0, 0, 12))
    out = body.to_mesh64()
    mesh = Mesh(np.asarray(out.vert_properties)[:, :3].copy(), np.asarray(out.tri_verts).astype(np.int32))
    snap, study = own_part(engineer, brought_in(write_stl(mesh)), "Snap", studied)
    job = Job(client, snap)
    choose(client, job, study, (0, 0, 1))
    (row,) = seen(client, snap)["standing"]
    assert row["kind"] == "snap" and row["size_mm"] == pytest.approx(2, abs=0.05)
    bends = {"id": "a", "name": "snap 1", "at": row["at"], "normal": row["normal"]}
    assert job.put(flexing={"rows": [bends]}).status_code == 200
    state = seen(client, snap)
    assert state["standing"] == [] and state["flexes"][0]["flex"]["verdict"] == "fails"


def test_a_rim_is_reckoned_where_its_round_wall_is_pointed_at(client, engineer, studied):
    cone = lambda tall, low, a, b: m3.Manifold.cylinder(tall, a, b, 96).translate((0, 0, low))
    body = cone(16, 0, 11.5, 11.5) - cone(16, 2, 10, 10) + cone(0.8, 12.2, 11.5, 12) + cone(1.5, 13, 12, 11.5)
    out = body.to_mesh64()
    mesh = Mesh(np.asarray(out.vert_properties)[:, :3].copy(), np.asarray(out.tri_verts).astype(np.int32))
    cap, study = own_part(engineer, brought_in(write_stl(mesh)), "Cap", studied)
    job = Job(client, cap)
    choose(client, job, study, (0, 0, 1))
    at = [11.5 * cos(pi / 96) * cos(pi / 96), 11.5 * cos(pi / 96) * np.sin(pi / 96), 5]
    normal = [cos(pi / 96), float(np.sin(pi / 96)), 0]
    assert job.put(flexing={"rows": [{"id": "r", "name": "rim", "at": at, "normal": normal}]}).status_code == 200
    (row,) = seen(client, cap)["flexes"]
    rim = row["rim"]
    assert row["flex"] is None and rim["bead_mm"] == pytest.approx(1, abs=0.08) and rim["stands"]
    assert rim["strain"] == pytest.approx(rim["bead_mm"] / 20, rel=1e-3) and rim["turned"] <= rim["reserve"]
    ups = json.loads(store.get(study.sweep))["ups"]
    net = client.get(f"/api/fit/of/{cap.id}/arms").json()["least"]
    upright = min(zip(ups, net, strict=True), key=lambda row: -abs(row[0][2]))[1]
    assert upright == pytest.approx(rim["reserve"])
    assert computed(FIT, engineer, cap).result["flexes"][0]["rim"]["verdict"] == rim["verdict"]
    assert stage_of(client, cap, "fit")["state"] == ("fails" if rim["verdict"] == "fails" else "settled")


def test_a_thread_that_stands_is_found_by_itself(client, engineer, studied):
    circle = m3.CrossSection.circle(8.0, 72).translate((0.6, 0))
    body = m3.Manifold.extrude(circle, 24.0, 216, 2160.0) + m3.Manifold.cylinder(9, 8.9, 8.9, 96).translate((0, 0, -9))
    out = body.to_mesh64()
    mesh = Mesh(np.asarray(out.vert_properties)[:, :3].copy(), np.asarray(out.tri_verts).astype(np.int32))
    screw, study = own_part(engineer, brought_in(write_stl(mesh)), "Screw", studied)
    choose(client, Job(client, screw), study, (0, 0, 1))
    (row,) = [r for r in seen(client, screw)["standing"] if r["kind"] == "thread"]
    assert row["length_mm"] > 10 and row["size_mm"] == pytest.approx(17.8, abs=0.1)
