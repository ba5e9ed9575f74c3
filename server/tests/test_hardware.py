"""Hardware: cut and proved, counted in the reserve, read anew for every torque, taken as a revision."""

import csv
import io

import pytest
from conftest import client_of, computed, person, run_here, stage_of
from test_needs import Job, case, face, force
from test_strength import BASE, TOP, solved

from batch.queries import pauses_of
from desk.rail import rail
from farm.actions import amend, begin
from hardware import queries
from hardware.models import HardwareAnalysis
from hardware.stage import HARDWARE
from hewel.refusal import Refused
from overhangs.stage import OVERHANGS
from parts.models import Part
from sheets.models import Sheet
from studies.view import DirectedJob
from work.models import Work

BOLT = {
    "id": "a",
    "name": "left bolt",
    "kind": "bolt",
    "size": "M3",
    "at": [10, 8, 24],
    "axis": [0, 0, -1],
    "washer": "none",
}
OTHER = BOLT | {"id": "b", "name": "right bolt", "at": [10, -8, 24]}


@pytest.fixture(autouse=True)
def small(settings):
    settings.STRENGTH_CUBES = 9_000


@pytest.fixture
def job(client, part, study):
    return Job(client, part)


def written(job, rows=(BOLT, OTHER), **more):
    regions = {"rows": [face("base", BASE), face("top", TOP)]}
    loads = {
        "held": [{"id": "h", "on": "base", "how": "fixed"}],
        "cases": [case(force("top", "400 N", (0, 0, 1)), name="pull")],
    }
    answer = job.put(regions=regions, loads=loads, hardware={"rows": list(rows)} | more)
    assert answer.status_code == 200, answer.content
    return answer.json()


def worked(engineer, part) -> HardwareAnalysis:
    return computed(HARDWARE, engineer, part)


def seen(client, part) -> dict:
    answer = client.get(f"/api/hardware/of/{part.id}")
    assert answer.status_code == 200, answer.content
    return answer.json()


def test_an_empty_list_says_so_and_orders_nothing(client, part, job):
    assert stage_of(client, part, "hardware") == {"state": "empty", "line": "none"}
    told = seen(client, part)
    assert told["analysis"] is None and "M5" in told["offered"]["bolt"] and "5x5" in told["offered"]["key"]
    answer = client.post(f"/api/hardware/of/{part.id}")
    assert answer.status_code == 422 and answer.json()["code"] == "no_hardware"


@pytest.mark.parametrize(
    ("row", "words"),
    [
        (BOLT | {"sunk": "-2 mm"}, "below zero"),
        (BOLT | {"axis": [0, 0, 0]}, "cannot be 0, 0, 0"),
        (BOLT | {"kind": "key", "size": "5x5"}, "other end"),
        (BOLT | {"torque": "nan N·m"}, ""),
        (BOLT | {"at": [float("1e9"), 0, 0]}, ""),
        (BOLT | {"kind": "chain"}, ""),
    ],
)
def test_what_cannot_be_written_is_refused_and_nothing_is_lost(job, row, words):
    written(job)
    answer = job.put(hardware={"rows": [OTHER, row]})
    assert answer.status_code == 422 and words in answer.content.decode()
    assert [r["id"] for r in job.get()["job"]["hardware"]["rows"]] == ["a", "b"]


def test_bolts_are_cut_counted_and_read(client, engineer, part, job):
    written(job)
    analysis = worked(engineer, part)
    assert analysis.view_id and analysis.steel_id and analysis.file_id and analysis.points_id
    told = seen(client, part)["analysis"]
    assert [r["why"] for r in told["rows"]] == [None, None] and told["cuts"] == 2 and told["gained_mm3"] < -200
    (pull,) = told["told"]["cases"]
    assert pull["clamped"] >= pull["plain"] and pull["low"] < pull["clamped"] < pull["high"]
    assert pull["alone"]["count"] == 2 and pull["alone"]["reserve"] > 0
    bolts = told["told"]["bolts"]
    assert len({b["torque_nmm"] for b in bolts}) == 1, "one wrench, one setting"
    assert all(0.8 < b["torque_nmm"] / b["most_torque_nmm"] <= 1 and not b["typed"] for b in bolts)
    assert all(max(b["head_mpa"], b["nut_mpa"]) <= b["limit_mpa"] for b in bolts)
    assert told["told"]["preload"]["reserve"] > 1
    items = {(line["item"], line["count"], line["length_mm"]) for line in told["shopping"]}
    assert ("socket head screw, 8.8", 2, 30) in items and ("square nut, thin", 2, None) in items
    assert stage_of(client, part, "hardware")["line"].startswith("2 placed, reserve ")


def test_a_look_while_the_loads_are_solved_is_not_kept_for_the_answer(client, engineer, part, job):
    written(job)
    analysis = worked(engineer, part)
    whole = analysis.result
    HardwareAnalysis.objects.filter(id=analysis.id).update(result=whole | {"solved": None}, points=None)
    assert seen(client, part)["analysis"]["told"] is None
    HardwareAnalysis.objects.filter(id=analysis.id).update(result=whole, points=analysis.points)
    assert seen(client, part)["analysis"]["told"] is not None


def test_torque_and_temperature_are_read_without_another_solution(client, engineer, part, job):
    written(job)
    analysis = worked(engineer, part)
    first = seen(client, part)["analysis"]["told"]
    written(job, (BOLT | {"torque": "0.05 N·m"}, OTHER | {"torque": "0.05 N·m"}))
    second = seen(client, part)["analysis"]
    assert second["id"] == str(analysis.id) and second["stale_because"] == []
    assert second["told"]["bolts"][0]["typed"] and second["told"]["bolts"][0]["left_n"] < first["bolts"][0]["left_n"]
    written(job, (BOLT, OTHER), cold="-20 °C", relaxation=0.3)
    third = seen(client, part)["analysis"]["told"]
    assert third["bolts"][0]["left_n"] < first["bolts"][0]["left_n"]
    moved = BOLT | {"at": [10, 6, 24]}
    written(job, (moved, OTHER))
    assert seen(client, part)["analysis"]["stale_because"] == ["hardware"]
    assert stage_of(client, part, "hardware") == {"state": "stale", "line": "hardware changed"}


def test_what_fits_and_what_else_would_do(client, engineer, part, job):
    written(job)
    assert client.get(f"/api/hardware/of/{part.id}/fits").json() is None, "nothing is solved yet"
    worked(engineer, part)
    fits = client.get(f"/api/hardware/of/{part.id}/fits").json()
    sizes = {row["size"]: row for row in fits["sizes"]}
    assert next(iter(sizes)) == "M3" and sizes["M6"]["left_n"] > sizes["M3"]["left_n"]
    assert [row["count"] for row in fits["counts"]] == [1], "two are drawn"
    assert fits["counts"][0]["names"][0] in (BOLT["name"], OTHER["name"])
    said = fits["holds"] or fits["wanted"]
    assert said is None or said["size"] in sizes
    if fits["holds"]:
        assert fits["holds"]["reserve"] >= 1 and set(fits["holds"]["ids"]) <= {"a", "b"}
    torque = fits["least_torque_nmm"]
    assert torque is None or all(t >= 0 for t in torque)
    assert client.get(f"/api/hardware/of/{part.id}/ways").json() == [], "no strength check answers yet"
    file = client.get(f"/api/hardware/of/{part.id}/list")
    rows = list(csv.reader(io.StringIO(file.content.decode())))
    assert rows[0] == ["count", "item", "size", "length_mm", "torque_nm", "note"]
    assert rows[1][:4] == ["2", "socket head screw, 8.8", "M3", "30"]


def test_other_ways_stand_beside_it_with_what_they_cost(client, engineer, part, job, monkeypatch):
    written(job)
    worked(engineer, part)
    solved(monkeypatch, engineer, part)
    ways = client.get(f"/api/hardware/of/{part.id}/ways").json()
    rows = {w["key"]: w for w in ways}
    assert ways[0]["key"] == "as_it_is" and {"material", "hardware"} <= rows.keys()
    assert rows["as_it_is"]["cost"] == 0 and rows["hardware"]["minutes"] == 3
    assert "2 × socket head screw" in rows["hardware"]["shelf"] and rows["hardware"]["mass_g"] < 0
    assert rows["hardware"]["cost"] == pytest.approx(3 / 60 * 30, abs=0.2), "hands, less the plastic of the holes"


def test_what_does_not_fit_is_said_and_holds_a_revision_back(client, engineer, part, job):
    written(job, (BOLT, OTHER | {"at": [12, -8, 24]}))
    analysis = worked(engineer, part)
    rows = seen(client, part)["analysis"]["rows"]
    assert rows[0]["where"] and "over the edge" in rows[1]["why"]
    assert stage_of(client, part, "hardware") == {"state": "fails", "line": "1 of 2 do not fit"}
    answer = client.post(f"/api/hardware/{analysis.id}/take")
    assert answer.status_code == 409 and answer.json()["code"] == "does_not_fit"


def test_a_revision_has_its_places_and_books_its_pause(client, engineer, part, job):
    written(job, (BOLT | {"pocket": "closed", "cover": "1.2 mm", "at": [-2, -9, 3]},))
    analysis = worked(engineer, part)
    (row,) = analysis.result["rows"]
    assert row["where"], row["why"]
    pause = row["where"]["pause_mm"]
    answer = client.post(f"/api/hardware/{analysis.id}/take")
    assert answer.status_code == 202, answer.content
    work = Work.objects.get(id=answer.json()["id"])
    run_here(work)
    work.refresh_from_db()
    revised = Part.objects.get(id=work.result["part"])
    assert seen(client, part)["taken"] == str(revised.id)
    (kept,) = revised.job["hardware"]["rows"]
    assert kept["cut"]["where"]["pause_mm"] == pause and revised.recipe["steps"][0]["axis"] == [0, 0, -1]
    view = DirectedJob(revised)
    (stop,) = pauses_of(view)
    assert stop["height_mm"] == pause and stop["cold"] and "left bolt" in stop["words"]
    hangs = [r for r in computed(OVERHANGS, engineer, revised).truth["regions"] if abs(r["z_mm"] - pause) < 0.4]
    assert hangs and all(r["carried"] and not r["needs_support"] for r in hangs), "the nut carries its pocket's ceiling"
    again = computed(HARDWARE, engineer, revised)
    assert again.result["rows"][0]["where"] == row["where"] and again.file_id is None, "nothing is cut twice"
    assert again.result["volume_mm3"] == pytest.approx(revised.facts["volume_mm3"], rel=1e-6)
    assert queries.lines_for_machine(DirectedJob(revised))[0].startswith("1 × socket head screw, 8.8 M3")
    assert client.post(f"/api/hardware/{again.id}/take").status_code == 409


def test_inserts_are_reckoned_by_their_card(client, engineer, part, job):
    insert = {"id": "i", "name": "insert", "kind": "insert", "size": "M2", "at": [10, 8, 24], "axis": [0, 0, -1]}
    written(job, (insert | {"pull": "60 N"},))
    worked(engineer, part)
    told = seen(client, part)["analysis"]
    assert told["told"] is None and told["rows"][0]["doubts"], "sizes of inserts are no standard"
    rows, factor = told["cards"]["i"]["rows"], 1.5
    assert rows[0]["what"] == "pull-out" and rows[0]["reserve"] == pytest.approx(rows[0]["bears"] / (60 * factor))


def test_an_insert_of_the_workshop_comes_before_the_table(client, engineer, part, job):
    known = {"outer_diameter": {"typed": "3.4 mm"}, "length": {"typed": 3}}
    begin(engineer, "size", {"name": "M2 short", "values": known})
    insert = {"id": "i", "name": "insert", "kind": "insert", "size": "M2 short", "at": [10, 8, 24], "axis": [0, 0, -1]}
    written(job, (insert,))
    worked(engineer, part)
    assert "no heat set insert M2 short, hole diameter" in seen(client, part)["analysis"]["rows"][0]["why"]
    sheet = Sheet.objects.get(kind="farm-size")
    amend(
        engineer,
        sheet.id,
        sheet.version,
        {"name": "M2 short", "values": known | {"hole_diameter": {"typed": "3.0 mm"}}},
    )
    told = seen(client, part)
    assert told["offered"]["insert"][0] == "M2 short" and told["analysis"]["stale_because"] == ["hardware"]
    worked(engineer, part)
    (row,) = seen(client, part)["analysis"]["rows"]
    assert row["where"]["hole_mm"] == pytest.approx(3.15) and row["doubts"] == [], "it was measured"


def test_a_washer_of_the_workshop_stands_in_for_that_of_the_table(client, engineer, part, job):
    written(job, (BOLT | {"washer": "washer"}, OTHER))
    before = worked(engineer, part).result["steps"]
    washer = {"name": "thick washer", "item": "washer", "size": BOLT["size"]}
    begin(engineer, "size", washer | {"values": {"outer_diameter": {"typed": "8 mm"}, "thickness": {"typed": "2 mm"}}})
    begin(engineer, "size", {"name": "long insert", "size": BOLT["size"], "values": {"length": {"typed": 9}}})
    assert seen(client, part)["analysis"]["stale_because"] == ["hardware"]
    after = worked(engineer, part).result["steps"]
    wide = lambda steps: [step["set"]["seat_mm"] for step in steps]
    assert wide(after) == pytest.approx([8.4, wide(before)[1]]) and wide(before)[0] < 8.4, "of this bolt alone"
    other = {"name": "another", "item": "washer", "size": BOLT["size"], "values": {}}
    with pytest.raises(Refused, match="“thick washer” already says"):
        begin(engineer, "size", other)
    with pytest.raises(Refused, match="A hex bolt has no thickness"):
        begin(engineer, "size", other | {"item": "hex_bolt", "values": {"thickness": {"typed": 1}}})
    with pytest.raises(Refused, match="no item “nail”"):
        begin(engineer, "size", other | {"item": "nail"})


def test_a_viewer_reads_and_orders_nothing(client, engineer, part, job):
    written(job)
    viewer = person("vera", "Alder Reach")
    viewer.role = "viewer"
    viewer.save()
    other = client_of(viewer)
    assert other.get(f"/api/hardware/of/{part.id}").status_code == 200
    assert other.post(f"/api/hardware/of/{part.id}").status_code == 403


@pytest.mark.parametrize(
    ("with_hardware", "state", "line"),
    [
        ((1.9, 1.1), "settled", "1.90 with hardware; without: 0.80"),
        ((1.1, 0.7), "open", "may fail, 1.10 with hardware; without: 0.80"),
        ((0.9, 0.6), "fails", "fails, reserve 0.80"),
        (None, "fails", "fails, reserve 0.80"),
    ],
)
def test_a_part_that_holds_with_its_hardware_has_no_failing_strength(
    monkeypatch, part, study, with_hardware, state, line
):
    monkeypatch.setattr(queries, "reserve_with", lambda view: with_hardware)
    monkeypatch.setattr(
        "strength.queries.state", lambda view: {"state": "fails", "line": "fails, reserve 0.80", "busy": False}
    )
    row = next(r for r in rail(DirectedJob(part)) if r["key"] == "strength")
    assert (row["state"], row["line"]) == (state, line)
