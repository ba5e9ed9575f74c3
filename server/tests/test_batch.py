"""The batch: what a plate takes, what the wait leaves of the reserve, choosing it, moving copies, other ways."""

from datetime import timedelta

import numpy as np
import pytest
from conftest import client_of, computed, person, run_here, stage_of, stl_bytes
from django.core.files.uploadedfile import SimpleUploadedFile
from test_needs import Job, case, force
from test_strength import UP, load, solved

from accounts.models import User
from batch import bridge
from batch.models import BatchAnalysis, BatchChoice, PreparedFile
from batch.queries import laid_of, with_hardware
from batch.stage import BATCH
from parts.actions import complete_part, create_part, enqueue_intake, throw_away
from parts.models import Part
from store.models import Blob
from strength import queries
from strength.models import BatchWelds, DirectionAnalysis
from studies.view import DirectedJob, view_of
from work.computations import computations

SMALL = {"bed_x": 150.0, "bed_y": 130.0}


@pytest.fixture(autouse=True)
def quick(settings, monkeypatch):
    settings.STRENGTH_CUBES = 25_000
    monkeypatch.setattr(bridge, "FIRST_S", 0.1)
    monkeypatch.setattr(bridge, "THEN_S", 0.3)


@pytest.fixture
def job(client, part, study):
    """The part stands up, on a machine with a small bed and a head that clears little."""
    job = Job(client, part)
    values = {name: {"typed": str(v)} for name, v in SMALL.items()} | {"head_radius": {"typed": "30"}}
    record = {"name": "Reed press", "values": values, "machines": []}
    made = client.post("/api/farm?kind=machine", record, content_type="application/json")
    assert made.status_code == 201, made.content
    given = {"base": job.get()["version"], "machine": made.json()["id"], "material": "petg"}
    answer = client.post(f"/api/studies/of/{part.id}", given, content_type="application/json")
    assert answer.status_code in (200, 202), answer.content
    study.refresh_from_db()
    return job


@pytest.fixture
def stands(client, job, part, studied):
    """The direction is chosen, and the study of the new process is there."""
    from store import actions as store
    from studies.models import Study

    newest = Study.objects.filter(part=part).first()
    Study.objects.filter(id=newest.id).update(sweep=store.put(studied["sweep"]), candidates=studied["candidates"])
    up = next(c["up"] for c in studied["candidates"] if np.dot(c["up"], UP) > 0.999)
    given = {"base": job.get()["version"], "up": up, "reason": "it stands flat"}
    answer = client.post(f"/api/studies/{newest.id}/choice", given, content_type="application/json")
    assert answer.status_code == 201, answer.content
    return job


@pytest.fixture
def filled(engineer, part, stands) -> BatchAnalysis:
    return computed(BATCH, engineer, part)


def look(client, part) -> dict:
    answer = client.get(f"/api/batch/of/{part.id}")
    assert answer.status_code == 200, answer.content
    return answer.json()


def point(client, analysis, mode: str, copies: int):
    return client.get(f"/api/batch/{analysis.id}/point?mode={mode}&copies={copies}")


def choose(client, job, analysis, **more):
    given = {"base": job.get()["version"], "mode": "together", "copies": 2, "reason": "as the line needs"} | more
    return client.post(f"/api/batch/{analysis.id}/choice", given, content_type="application/json")


def test_before_and_after_the_plate_is_filled(client, part, stands, engineer):
    assert look(client, part)["analysis"] is None
    assert stage_of(client, part, "batch") == {"state": "empty", "line": "not planned"}
    answer = client.post(f"/api/batch/of/{part.id}")
    assert answer.status_code == 202 and answer.json()["analysis"]["done"] is False
    assert stage_of(client, part, "batch")["line"] == "being filled"
    computed(BATCH, engineer, part)
    got = look(client, part)["analysis"]
    most = len(got["plate"]["items"]["together"])
    assert most >= 6 and got["plate"]["complete"] and got["bed"]["bed_x"] == 150
    assert 1 <= len(got["plate"]["items"]["sequential"]) < most
    assert stage_of(client, part, "batch") == {"state": "open", "line": f"up to {most} on a plate"}
    assert not got["strength"]["known"] and "No load is written" in got["strength"]["words"]
    curve = got["curves"]["together"]
    assert curve["copies"] == list(range(1, most + 1)) and curve["reserve"] == [None] * most
    assert curve["weld"] == sorted(curve["weld"], reverse=True) and curve["print_s"] == sorted(curve["print_s"])


def test_the_reserve_of_every_batch_is_that_of_its_welds(client, part, filled, stands, engineer, monkeypatch):
    """What the curve says before a batch is chosen is what the strength stage says once it is."""
    load(stands)
    solved(monkeypatch, engineer, part, own=True)
    got = look(client, part)["analysis"]
    assert got["strength"]["known"] and got["proposed"]["words"]
    curve = got["curves"]["together"]
    assert all(low <= value for low, value in zip(curve["low"], curve["reserve"], strict=True))
    assert curve["reserve"] == sorted(curve["reserve"], reverse=True) and curve["reserve"][-1] < curve["reserve"][0]
    most = curve["copies"][-1]
    assert choose(client, stands, filled, copies=most).status_code == 201
    found = client.get(f"/api/strength/directions/{DirectionAnalysis.objects.get().id}").json()["result"]
    worst = found["cases"][found["worst"]]
    assert worst["reserve"] == pytest.approx(curve["reserve"][-1], rel=1e-3)
    view = view_of(engineer, part.id)
    (kept,) = [c for c in queries.cases_out(view, queries.answering(view, UP)) if c["name"] == worst["name"]]
    assert kept["with_least_weld"] == pytest.approx(curve["low"][-1], rel=1e-3) and worst["low"] <= worst["reserve"]
    weld = [line for line in worst["lines"] if line["key"] == "weld"]
    assert len(weld) == 1 and f"{most} together" in weld[0]["words"] and curve["weld_low"][-1] <= weld[0]["value"] <= 1
    log = client.get(f"/api/strength/directions/{DirectionAnalysis.objects.get().id}/log").json()
    assert log["weld"]["words"] == f"{most} together" and min(log["weld"]["value"]) < 1 == log["weld"]["value"][0]
    paper = client.get(f"/api/strength/directions/{DirectionAnalysis.objects.get().id}/calculation")
    assert paper.content[:5] == b"%PDF-"


def test_a_batch_that_fails_is_told_on_the_list(client, part, filled, stands, engineer, monkeypatch):
    load(stands)
    solved(monkeypatch, engineer, part, own=True)
    assert choose(client, stands, filled).status_code == 201
    got = stage_of(client, part, "batch")
    assert got["state"] == "fails" and got["line"].startswith("2 together: fails, 0.")


def test_a_point_tells_all_of_it(client, part, filled, stands):
    mould = {"id": "m", "name": "moulded", "once": 4000, "piece": 0.5, "assembly": 0.1}
    ways = [mould, {"id": "b", "name": "bought", "piece": 900}]
    stands.put(need={"quantity": 50}, plate={"hardware": 0.4, "ways": ways})
    got = point(client, filled, "together", 4).json()
    lines = got["lines"]
    parts = sum(lines[n] for n in ("machine", "plastic", "hands", "hardware", "scrap"))
    assert lines["total"] == pytest.approx(parts) == pytest.approx(got["cost"]) and lines["hardware"] == 0.4
    assert lines["energy"] is None and len(got["items"]) == 4
    assert got["order"] == {"made": 52, "full": 13, "rest": 0} and got["quantity"] == 50
    moulded, bought = got["ways"]
    assert moulded["pays_from"] == pytest.approx(4000 / (got["cost"] - 0.6)) and moulded["total"] == 4000 + 50 * 0.6
    assert bought["pays_from"] is None and "%" in got["weld_words"]
    assert "how they hold is not known yet" in got["words"]
    far = point(client, filled, "together", 500)
    assert far.status_code == 422 and far.json()["code"] == "too_many" and "At most" in far.json()["hint"]


def test_no_more_copies_are_proposed_than_are_wanted(client, part, filled, stands):
    best = lambda: look(client, part)["analysis"]["proposed"]["copies"]
    assert best() > 3
    stands.put(need={"quantity": 2})
    assert best() <= 3, "two good ones, and one for the scrap"


def test_choosing_keeps_the_numbers_and_is_taken_back(client, part, filled, stands):
    stands.put(service={"bond": 0.8})
    answer = choose(client, stands, filled, mode="sequential", copies=1)
    assert answer.status_code == 201, answer.content
    kept = BatchChoice.objects.get()
    assert kept.welds.value[0] == 1.0 and len(kept.welds.value) == len(kept.welds.low)
    job = stands.get()["job"]
    assert job["batch"]["copies"] == 1 and job["service"]["bond"] is None, "each layer has a weld of its own now"
    chosen = look(client, part)["chosen"]
    assert chosen["reason"] == "as the line needs" and not chosen["stale"]
    assert stage_of(client, part, "batch") == {"state": "open", "line": "one at a time, strength not known"}
    back = client.post(
        f"/api/batch/of/{part.id}/put-back", {"base": stands.get()["version"]}, content_type="application/json"
    )
    assert back.status_code == 200 and back.json()["chosen"] is None and stands.get()["job"]["batch"] is None


def test_what_was_chosen_on_another_plate_is_stale(client, part, filled, stands, engineer):
    choose(client, stands, filled)
    stands.put(plate={"spacing": 40})
    assert look(client, part)["analysis"]["stale_because"] == ["machine or plate"]
    assert stage_of(client, part, "batch")["state"] == "stale" and look(client, part)["chosen"]["stale"]
    assert choose(client, stands, filled).json()["code"] == "stale"
    wider = computed(BATCH, engineer, part)
    assert len(wider.result["items"]["together"]) < len(filled.result["items"]["together"])
    assert look(client, part)["chosen"]["stale"] and choose(client, stands, wider).status_code == 201
    assert not look(client, part)["chosen"]["stale"]


def test_a_copy_moved_too_near_is_refused_with_the_distance(client, part, filled, stands):
    items = [list(row) for row in filled.result["items"]["together"][:2]]
    check = lambda rows, mode="together": client.post(
        f"/api/batch/{filled.id}/layout", {"mode": mode, "items": rows}, content_type="application/json"
    ).json()
    assert check(items) == []
    near = [items[0], [items[0][0] + 1, items[0][1], items[0][2]]]
    (wrong,) = check(near)
    assert wrong["item"] == 0 and wrong["other"] == 1 and wrong["short_mm"] == pytest.approx(3, abs=0.01)
    assert len(wrong["between"]) == 2 and "too near" in wrong["words"]
    answer = choose(client, stands, filled, items=near)
    assert answer.status_code == 422 and answer.json()["code"] == "misplaced" and "too near" in answer.json()["message"]
    beyond = [[-40.0, items[0][1], 0.0], items[1]]
    assert "into where nothing may stand" in check(beyond)[0]["words"]
    struck = check(items, "sequential")
    assert struck and "strikes" in struck[0]["words"]
    assert choose(client, stands, filled, items=items[:1]).status_code == 422
    assert choose(client, stands, filled, items=items).status_code == 201


def test_a_written_pause_weakens_its_own_layer(client, part, filled, stands):
    free = point(client, filled, "sequential", 1).json()
    stands.put(plate={"pauses": [{"id": "p", "height": "9 mm", "minutes": 5, "cold": True}]})
    stopped = point(client, filled, "sequential", 1).json()
    assert stopped["weld"] < free["weld"] and stopped["weakest_at_mm"] == pytest.approx(9, abs=0.2)
    assert stopped["print_s"] == pytest.approx(free["print_s"] + 300, rel=1e-3)
    assert look(client, part)["analysis"]["stale_because"] == []
    assert look(client, part)["pauses"][0]["cold"] is True


def test_a_place_kept_free_stays_free(client, part, filled, stands, engineer):
    before = len(filled.result["items"]["together"])
    kept = {"id": "c", "x": 50, "y": 40, "wide": 45, "deep": 50}
    assert stands.put(plate={"free": [kept]}).status_code == 200
    assert look(client, part)["analysis"]["stale_because"] == ["machine or plate"]
    analysis = computed(BATCH, engineer, part)
    items = analysis.result["items"]["together"]
    assert 1 <= len(items) < before and look(client, part)["analysis"]["bed"]["free"] == [[50, 40, 95, 90]]
    there = [[70.0, 60.0, 0.0]]
    answer = client.post(
        f"/api/batch/{analysis.id}/layout", {"mode": "together", "items": there}, content_type="application/json"
    )
    assert "into where nothing may stand" in answer.json()[0]["words"]
    assert stands.put(plate={"free": [kept | {"wide": 0}]}).status_code == 422


def test_who_may_not_write_may_look_and_strangers_see_nothing(client, part, filled, stands, engineer):
    viewer = person("ada", engineer.workshop.name)
    User.objects.filter(id=viewer.id).update(role="viewer")
    seen = client_of(User.objects.get(id=viewer.id))
    assert seen.get(f"/api/batch/of/{part.id}").status_code == 200
    assert choose(seen, stands, filled).status_code == 403 and not BatchWelds.objects.exists()
    other = client_of(person("otto", "Other Works"))
    assert other.get(f"/api/batch/of/{part.id}").status_code == 404
    assert point(other, filled, "together", 1).status_code == 404
    assert choose(other, stands, filled).status_code == 404
    assert bring(other, filled, b"G1").status_code == 404 and bring(seen, filled, b"G1").status_code == 403


# ------------------------------------------------------------------ prepared files


def prepared_file(analysis: BatchAnalysis, copies: int, extra=()) -> bytes:
    """The plate as another program would have prepared it: every line of every layer, back and forth over 10 mm."""
    made = laid_of(analysis)
    pitch, spacing = made.copy.layers.pitch, 0.45 - 0.2 * (1 - np.pi / 4)
    feed = pitch * spacing / (np.pi / 4 * 1.75**2)
    rows = ["G21", "G90", "M83", "G28"]
    for k, length in enumerate(made.copy.extruded):
        rows.append(f"G0 Z{(k + 1) * pitch:.3f} F600")
        for n in range(copies + (k in extra)):
            rows.append(f"G0 X{20 + 40 * n} Y20 F9000")
            for i in range(round(length / 10)):
                rows.append(f"G1 X{20 + 40 * n + 10 * (i % 2 == 0)} Y20 E{10 * feed:.5f} F3600")
    return "\n".join(rows).encode()


def bring(client, analysis, data: bytes, **more):
    file = SimpleUploadedFile("plate.gcode", data)
    given = {"file": file, "plate": str(analysis.id), "copies": 2, "mode": "together"}
    return client.post("/api/batch/prepared", given | more)


def ended(kept: PreparedFile) -> None:
    """As a worker ends the reading of it."""
    run_here(kept.work)
    computations()["prepared"].ended(kept.work)


def test_a_prepared_file_is_read_beside_its_plate(client, part, filled, stands, engineer, monkeypatch):
    load(stands)
    solved(monkeypatch, engineer, part, own=True)
    answer = bring(client, filled, prepared_file(filled, 2))
    assert answer.status_code == 202 and answer.json()["result"] is None
    kept = PreparedFile.objects.get()
    ended(kept)
    got = client.get(f"/api/batch/prepared/{kept.id}").json()
    told = {d["key"]: d["state"] for d in got["result"]["differences"]}
    assert told["height"] == told["layer"] == told["copies"] == "good" and "support" not in told
    assert got["result"]["lines"] and 0 < got["low"] <= got["reserve"]
    kept.refresh_from_db()
    assert kept.source is None, "the file itself is not kept"
    assert look(client, part)["prepared"] == str(kept.id)

    calculated = point(client, filled, "together", 2).json()["weld"]
    assert choose(client, stands, filled, prepared=str(kept.id)).status_code == 201
    assert look(client, part)["chosen"]["prepared"] == "plate.gcode"
    assert min(BatchWelds.objects.get().value) != pytest.approx(calculated, rel=1e-3), "its own waits count"
    other = choose(client, stands, filled, prepared=str(kept.id), copies=3)
    assert other.status_code == 422 and other.json()["code"] == "other_plate"


def test_a_support_that_nobody_meant_is_found(client, part, filled, stands):
    bring(client, filled, prepared_file(filled, 2, extra=range(10, 30)))
    kept = PreparedFile.objects.get()
    ended(kept)
    rows = client.get(f"/api/batch/prepared/{kept.id}").json()["result"]["differences"]
    assert rows[0]["state"] == "fails" and any("a support was added" in r["words"] for r in rows)


def test_differences_are_settled_one_by_one(client, part, filled, stands, engineer, monkeypatch):
    light = case(force("top", "2 N", (1, 0, 0)), name="push", requirement="hold")
    load(stands, loads={"held": [{"id": "h", "on": "base", "how": "fixed"}], "cases": [light]})
    solved(monkeypatch, engineer, part, own=True)
    bring(client, filled, prepared_file(filled, 2, extra=range(10, 30)))
    kept = PreparedFile.objects.get()
    ended(kept)
    assert choose(client, stands, filled).status_code == 201
    url = f"/api/batch/prepared/{kept.id}"
    rows = client.get(url).json()["result"]["differences"]
    differing = [i for i, r in enumerate(rows) if r["state"] != "good"]
    good = next(i for i, r in enumerate(rows) if r["state"] == "good")
    accept = lambda number, reason: client.post(
        f"{url}/accept", {"difference": number, "reason": reason}, content_type="application/json"
    )
    line = f"{len(differing)} difference{'s' if len(differing) > 1 else ''} of its file"
    assert stage_of(client, part, "batch") == {"state": "open", "line": f"2 together: {line}"}
    assert accept(good, "it is good").status_code == accept(99, "what is it").status_code == 422
    assert accept(differing[0], " ").json()["code"] == "reason_needed"
    for number in differing:
        told = accept(number, "a trial").json()["result"]["differences"][number]["accepted"]
        assert (told["by"], told["reason"]) == (engineer.shown_name, "a trial")
    assert stage_of(client, part, "batch")["line"] == "2 together"
    assert accept(differing[0], None).json()["result"]["differences"][differing[0]]["accepted"] is None
    assert "1 difference of its file" in stage_of(client, part, "batch")["line"]


@pytest.mark.parametrize("data, code", [(b"", "empty_file"), (b"PK\x03\x04 no moves at all", None)])
def test_what_is_no_prepared_file_is_refused_in_words(client, part, filled, stands, data, code):
    answer = bring(client, filled, data)
    if code:
        assert answer.status_code == 422 and answer.json()["code"] == code
        return
    with pytest.raises(bridge.InputError) as refused:
        run_here(PreparedFile.objects.get().work)
    assert refused.value.hint


def test_a_part_with_a_chosen_batch_can_be_thrown_away(client, part, filled, stands):
    assert choose(client, stands, filled).status_code == 201
    client.delete(f"/api/sheets/{part.sheet_id}")
    part.sheet.refresh_from_db()
    assert throw_away(part.sheet.struck + timedelta(days=31)) == 1
    assert not BatchChoice.objects.exists() and not BatchWelds.objects.exists()


def test_of_a_prepared_file_nothing_is_left_with_the_part(client, part, filled, stands, engineer):
    bring(client, filled, prepared_file(filled, 1), copies=1)
    digest = PreparedFile.objects.get().source_id
    client.delete(f"/api/sheets/{part.sheet_id}")
    part.sheet.refresh_from_db()
    throw_away(part.sheet.struck + timedelta(days=31))
    assert not PreparedFile.objects.exists() and not Blob.objects.filter(digest=digest).exists()


# ------------------------------------------------------------------ several kinds


def test_another_part_stands_on_the_same_plate_and_takes_its_time(client, part, filled, stands, engineer, pieces):
    work = enqueue_intake(engineer, SimpleUploadedFile("peg.stl", stl_bytes()), "Peg plate", "auto")
    other = create_part(work, pieces)
    complete_part(work, other, pieces["features"])
    given = stands.get()["process"]["given"]
    view = DirectedJob(Part.objects.get(id=part.id))
    BatchAnalysis.objects.create(
        part=other, process=view.process, inputs=filled.inputs, digest="x" * 64, work=filled.work,
        result=filled.result, layers=filled.layers,
    )  # fmt: skip
    assert given["material"] == "petg"
    others = [{"id": "o", "part": str(other.id), "copies": 2}]
    assert stands.put(plate={"own": 3, "others": others}).status_code == 200
    assert look(client, part)["analysis"]["stale_because"] == ["other parts on the plate"]
    computed(BATCH, engineer, part)
    got = look(client, part)["analysis"]["mixed"]
    assert got["names"] == ["Gauge plate", "Peg plate"] and [len(rows) for rows in got["items"]] == [3, 2]
    five = point(client, filled, "together", 5).json()
    assert got["print_s"] == pytest.approx(five["print_s"], rel=0.02), "two of the same are five in all"
    assert got["weld"] == pytest.approx(five["weld"], abs=0.01) and got["reserve"] is None
    stands.put(plate={"own": 3, "others": []})
    assert computed(BATCH, engineer, part).result.get("mixed") is None


def test_hardware_makes_a_batch_hold_as_far_as_its_weld_lets_it():
    plain = {"reserve": 0.8, "low": 0.6}
    assert with_hardware(None, (1.4, 1.2), 0.9, 0.8) == (None, None), "an unknown reserve stays unknown"
    assert with_hardware(plain, None, 0.9, 0.8) == (0.8, 0.6)
    assert with_hardware(plain, (1.4, 1.2), 0.9, 0.8) == pytest.approx((1.26, 0.96))
    assert with_hardware(plain, (0.7, 0.5), 1.0, 1.0) == (0.8, 0.6), "steel that makes it worse is not counted"
