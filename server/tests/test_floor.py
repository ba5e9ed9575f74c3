"""At the machines: plates are started, followed, counted; what fails is planned anew; travellers are ticked."""

import io
import json
from datetime import timedelta
from http.server import ThreadingHTTPServer
from threading import Thread

import pytest
from conftest import client_of, person, run_here
from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone
from PIL import Image
from pypdf import PdfReader
from test_batch import filled, job, quick, stands  # noqa: F401 (fixtures)
from test_week import chosen, hands, order, week  # noqa: F401 (fixtures)

from farm.actions import amend
from floor import following
from floor.following import follow
from floor.traveller import fits_words
from hardware import queries as hardware
from hewel_engine.io.threemf import read_3mf
from sheets.models import Sheet
from simulated_farm.__main__ import Running, handler
from week.models import BetterWeek, Order, Print
from work.models import Work

State = Print.State


@pytest.fixture
def ordered(client, chosen, hands):  # noqa: F811
    """Five good parts, two on a plate: three plates."""
    return Order.objects.get(id=order(client, chosen).json()["orders"][0]["id"])


def reach(user, how: str) -> None:
    """All machines of the model are reached so."""
    sheet = Sheet.objects.get(kind="farm-machine")
    given = sheet.content["record"]
    values = {n: {"typed": r.get("typed", r["value"])} for n, r in given["values"].items()}
    units = [u | {"reached": how} for u in given["machines"]]
    amend(user, sheet.id, sheet.version, {"name": given["name"], "values": values, "machines": units})


class Simulated:
    """The farm that ships, behind its own door, its clock in the test's hand."""

    def __init__(self, folder, settings):
        self.running = Running(folder / "farm.json", 0.0, 1, 0.0)
        settings.FARM_TOKEN = "known"
        self.server = ThreadingHTTPServer(("127.0.0.1", 0), handler(self.running, "known"))
        settings.FARM_ADDRESS = f"http://127.0.0.1:{self.server.server_port}"
        Thread(target=self.server.serve_forever, daemon=True).start()

    def go_on(self, seconds: float) -> None:
        with self.running.lock:
            self.running.farm.advance(seconds)
        follow(timezone.now())

    def stop(self) -> None:
        self.server.shutdown()
        self.server.server_close()


@pytest.fixture
def farm(engineer, ordered, tmp_path, settings):
    reach(engineer, "simulated")
    found = Simulated(tmp_path, settings)
    yield found
    found.stop()


def machines(client) -> list[str]:
    return [m["key"] for m in week(client)["machines"]]


def start(client, given, number=0, machine=None):
    url = f"/api/floor/plates/{given.id}/{number}/prints"
    body = {"machine": machine or machines(client)[0]}
    return client.post(url, body, content_type="application/json")


def say(client, p, what):
    return client.post(f"/api/floor/prints/{p.id}/command", {"what": what}, content_type="application/json")


def count(client, p, good, bad):
    return client.post(f"/api/floor/prints/{p.id}/count", {"good": good, "bad": bad}, content_type="application/json")


def test_a_plate_is_started_followed_and_counted(client, ordered, farm):
    assert start(client, ordered).json()["print"]["state"] == "sent"
    follow(timezone.now())
    farm.go_on(1.0)
    p = Print.objects.get()
    assert p.state == State.HEATING and p.layers == ordered.plates[0]["layers"] > 10
    farm.go_on(ordered.plates[0]["seconds"] / 2)
    run = next(r for r in week(client)["runs"] if r["print"])
    assert run["print"]["state"] == "printing" and 0 < run["print"]["layer"] < run["print"]["layers"]
    assert count(client, p, 2, 0).json()["code"] == "not_now", "it still prints"
    farm.go_on(ordered.plates[0]["seconds"])
    p.refresh_from_db()
    assert p.state == State.FINISHED and p.cleared is None
    assert count(client, p, 2, 1).json()["code"] == "bad_value"
    assert count(client, p, 1, 1).status_code == 200
    follow(timezone.now())
    p.refresh_from_db()
    assert p.state == State.DONE and p.cleared and farm.running.farm.machines[p.machine].phase == "idle"
    got = week(client)
    assert (got["orders"][0]["good"], got["orders"][0]["bad"], got["orders"][0]["printed"]) == (1, 1, 1)
    assert got["log"][0]["words"].startswith("taken off: 1 good, 1 bad")
    assert {e["words"].split(",")[0] for e in got["log"]} >= {
        "heats",
        "prints",
        "is finished and waits to be taken off",
    }


def test_what_fails_is_planned_anew_and_its_machine_waits_until_it_is_cleared(client, ordered, farm):
    client.put("/api/week/plan", {}, content_type="application/json")
    start(client, ordered)
    follow(timezone.now())
    farm.running.farm.happen(Print.objects.get().machine, "detached")
    farm.go_on(ordered.plates[0]["seconds"] / 3)
    p = Print.objects.get()
    assert p.state == State.FAILED and "come off the plate" in p.words
    got = week(client)
    again = [r for r in got["runs"] if r["number"] == 0 and not r["print"]]
    held = [r for r in got["runs"] if r["print"] and r["print"]["state"] == "failed"]
    assert len(again) == len(held) == 1, "the plate is planned anew, and what lies there has to be cleared away"
    assert again[0]["machine"] != held[0]["machine"] or again[0]["start_s"] >= held[0]["free_s"] - 1
    assert 0 in {m["number"] for m in got["told"]["moved"]}, "it is no longer where people were told"
    assert start(client, ordered, 1, p.machine).json()["code"] == "taken"
    assert say(client, p, "clear").status_code == 200
    follow(timezone.now())
    assert start(client, ordered, 0, p.machine).status_code == 201
    assert start(client, ordered, 0, machines(client)[1]).json()["code"] == "taken", "a plate is printed once"


def test_a_stop_waits_until_somebody_says_go_on(client, ordered, farm):
    ordered.plates = [row | {"stops": [[60.0, 120.0, "a nut goes in"]]} for row in ordered.plates]
    ordered.save()
    start(client, ordered)
    follow(timezone.now())
    farm.go_on(ordered.plates[0]["seconds"])
    p = Print.objects.get()
    assert (p.state, p.words, p.stops_done) == (State.WAITING, "a nut goes in", 0)
    assert say(client, p, "pause").json()["code"] == "not_now"
    assert say(client, p, "continue").json()["print"]["wish"] == "continue"
    follow(timezone.now())
    farm.go_on(1.0)
    p.refresh_from_db()
    assert (p.state, p.wish, p.stops_done) == (State.PRINTING, "", 1)
    say(client, p, "cancel")
    follow(timezone.now())
    farm.go_on(1.0)
    p.refresh_from_db()
    assert p.state == State.CANCELLED


def test_a_look_that_was_broken_off_starts_nothing_twice(client, ordered, farm, monkeypatch):
    start(client, ordered)
    p, told = Print.objects.get(), []
    place = farm.running.farm.place
    farm.running.farm.place = lambda *words: (told.append(words[1]), place(*words))
    with monkeypatch.context() as m:
        m.setattr(following, "_give", lambda *a: (_ for _ in ()).throw(RuntimeError("killed")))
        with pytest.raises(RuntimeError):
            follow(timezone.now())
    assert told == []
    give = following.ADAPTERS["simulated"].give

    def cut(machine, ticket):
        give(machine, ticket)
        raise RuntimeError("killed after the machine had it")

    with monkeypatch.context() as m:
        m.setattr(following.ADAPTERS["simulated"], "give", cut)
        with pytest.raises(RuntimeError):
            follow(timezone.now())
    farm.go_on(30.0)
    follow(timezone.now())
    assert told == [str(p.id)], "the next look finds it there already"
    p.refresh_from_db()
    assert p.state in (State.HEATING, State.PRINTING)


def test_a_farm_that_is_away_changes_nothing(client, ordered, farm):
    start(client, ordered)
    follow(timezone.now())
    farm.go_on(30.0)
    farm.stop()
    follow(timezone.now())
    follow(timezone.now())
    p = Print.objects.get()
    assert p.silent and p.state in (State.HEATING, State.PRINTING)
    assert [e.words for e in p.events.all()].count("the machine does not answer") == 1
    assert next(r for r in week(client)["runs"] if r["print"])["print"]["silent"]


def test_a_machine_reached_by_files_gets_its_ticket_and_says_how_it_is(client, engineer, ordered, tmp_path, settings):
    reach(engineer, "folder")
    settings.MACHINE_FOLDERS = str(tmp_path)
    start(client, ordered)
    follow(timezone.now())
    (folder,) = tmp_path.iterdir()
    p = Print.objects.get()
    ticket = json.loads((folder / f"{p.id}.json").read_text())
    assert ticket["seconds"] == ordered.plates[0]["seconds"] and ticket["stops"] == []
    triangles, _ = read_3mf((folder / f"{p.id}.3mf").read_bytes())
    assert len(triangles) % 2 == 0 and triangles[..., 2].min() == pytest.approx(0, abs=1e-6)
    status = folder / "status.json"
    status.write_text(json.dumps({"ticket": str(p.id), "phase": "printing", "layer": 7, "layers": 9, "left_s": 60}))
    follow(timezone.now())
    p.refresh_from_db()
    assert (p.state, p.layer, p.left_s) == (State.PRINTING, 7, 60.0)
    for junk in (
        b"{",
        b"[]",
        b'{"phase": "dancing"}',
        b'{"phase": "printing", "left_s": "soon"}',
        b'{"phase": "printing", "layer": Infinity}',
        b"\xff" * 99,
    ):
        status.write_bytes(junk)
        follow(timezone.now())
        p.refresh_from_db()
        assert p.silent and p.state == State.PRINTING, junk
    say(client, p, "pause")
    status.write_text(json.dumps({"ticket": str(p.id), "phase": "printing", "left_s": 50}))
    follow(timezone.now())
    assert json.loads((folder / f"{p.id}.command.json").read_text())["what"] == "pause"


def test_by_hand_a_plate_goes_by_the_clock_and_what_is_missing_is_printed_on_one_more(client, ordered):
    keys = machines(client)
    for number, (good, bad) in enumerate([(2, 0), (2, 0), (0, 2)]):
        assert start(client, ordered, number, keys[0]).json()["print"]["state"] == "printing"
        p = Print.objects.latest("started")
        if number == 0:
            assert say(client, p, "pause").json()["print"]["state"] == "paused"
            assert say(client, p, "continue").json()["print"]["state"] == "printing"
        assert count(client, p, good, bad).status_code == 200
    (row,) = week(client)["orders"]
    assert (row["good"], row["bad"], row["plates"], row["planned"]) == (4, 2, 4, 4), "one part is missing"
    start(client, ordered, 3, keys[1])
    count(client, Print.objects.latest("started"), 2, 0)
    (row,) = week(client)["orders"]
    assert row["plates"] == row["printed"] == 4 and row["good"] == 6 and week(client)["runs"] == []


def test_a_plate_passes_the_gate_or_stays_here(client, ordered, chosen, stands, engineer):  # noqa: F811
    url = f"/api/floor/plates/{ordered.id}/0/file"
    answer = client.get(url)
    triangles, _ = read_3mf(answer.content)
    facets = len(triangles)
    assert facets % 2 == 0 and answer.content == client.get(url).content
    assert "plate-1-" in answer["Content-Disposition"]
    low, high = triangles.reshape(-1, 3).min(axis=0), triangles.reshape(-1, 3).max(axis=0)
    bed = ordered.choice.analysis.inputs["bed"]
    assert (low >= -1e-6).all() and high[0] <= bed["bed_x"] and high[1] <= bed["bed_y"]
    viewer = person("vera", "Alder Reach")
    viewer.role = "viewer"
    viewer.save()
    assert client_of(viewer).get(url).status_code == 403 == start(client_of(viewer), ordered).status_code
    assert stands.put(need={"use": "injury"}).status_code == 200
    assert client.get(url).json()["code"] == start(client, ordered).json()["code"] == "not_acknowledged"
    assert stands.put(need={"use": "ordinary"}).status_code == 200
    assert stands.put(plate={"spacing": 9}).status_code == 200
    assert client.get(url).json()["code"] == start(client, ordered).json()["code"] == "stale"
    assert Print.objects.count() == 0


def test_a_technician_ticks_the_traveller_also_later(client, ordered, engineer):
    hand = person("piet", "Alder Reach")
    hand.role = "technician"
    hand.save()
    other, url = client_of(hand), f"/api/floor/plates/{ordered.id}/0"
    got = other.get(url).json()
    keys = [s["key"] for s in got["steps"]]
    assert keys[:4] == ["load", "clean", "file", "start"] and keys[-1] == "count" and "break" in keys
    assert "g" in next(s["words"] for s in got["steps"] if s["key"] == "weigh")
    late = (timezone.now() - timedelta(hours=3)).isoformat()
    body = {"ticks": [{"step": "load", "at": late}, {"step": "clean", "at": "2031-01-01T00:00:00Z"}]}
    for _ in range(2):  # sent twice: the connection was lost before the answer came
        told = other.post(f"{url}/ticks", body, content_type="application/json").json()
    ticked = {s["key"]: s["ticked"] for s in told["steps"] if s["ticked"]}
    assert set(ticked) == {"load", "clean"} and ticked["load"]["by"] == "Piet"
    assert ticked["load"]["at"][:16] == late[:16].replace("+00:00", "") and ticked["clean"]["at"] < "2031"
    undone = {"ticks": [{"step": "load", "at": late, "done": False}]}
    told = other.post(f"{url}/ticks", undone, content_type="application/json").json()
    assert {s["key"] for s in told["steps"] if s["ticked"]} == {"clean"}
    wrong = {"ticks": [{"step": "dance", "at": late}]}
    assert other.post(f"{url}/ticks", wrong, content_type="application/json").json()["code"] == "not_found"
    assert start(other, ordered).status_code == 201, "a technician starts plates"


def test_hardware_stands_on_the_traveller_with_its_torque(client, ordered, monkeypatch):
    told = lambda: {s["key"]: s for s in client.get(f"/api/floor/plates/{ordered.id}/0").json()["steps"]}
    assert "steel" not in told()
    monkeypatch.setattr(hardware, "lines_for_machine", lambda view: ["4 × screw M5 × 45 mm, tightened with 0.42 N·m"])
    step = told()["steel"]
    assert step["words"] == "Fit the hardware" and "0.42 N·m" in step["detail"]
    keys = list(told())
    assert keys.index("take-off") < keys.index("steel") < keys.index("weigh") < keys.index("break")


def test_a_first_piece_is_tried_at_the_faces_that_touch():
    names = [{"id": "a", "name": "Pivot bore"}, {"id": "b", "name": "the lid's rim"}, {"id": "c", "name": "Front"}]
    touch = lambda on, duty, fit=None, mate="": {"on": on, "duty": duty, "fit": fit, "mate": mate}
    rows = [
        touch("a", "mating", "sliding", "the axle"),
        touch("b", "sealing"),
        touch("c", "seen"),
        touch("gone", "seen"),
    ]
    words = fits_words({"regions": {"rows": names}, "touching": {"rows": rows}})
    assert words == (
        "At Pivot bore: the axle slides with less than 2 N, and does not rattle. "
        "No line or seam that runs across the lid's rim, no scar and no open line at Front."
    )
    assert fits_words({"regions": {"rows": names}, "touching": {"rows": []}}) == "It goes onto its mate."


def test_the_traveller_on_paper_has_two_pages_at_most(client, ordered):
    answer = client.get(f"/api/floor/plates/{ordered.id}/0/paper")
    pages = PdfReader(io.BytesIO(answer.content)).pages
    text = "".join(p.extract_text() for p in pages)
    assert len(pages) <= 2 and "Weigh one" in text and "plate 1 of 3" in text


def test_at_a_pause_the_section_is_drawn(client, ordered):
    ordered.plates = [row | {"stops": [[60.0, 120.0, "a nut goes in at 3.0 mm", 3.0]]} for row in ordered.plates]
    ordered.save()
    (seat,) = client.get(f"/api/floor/plates/{ordered.id}/0/seats").json()
    assert (seat["step"], seat["height_mm"]) == ("stop-1", 3.0)
    left, top, wide, high = map(float, seat["frame"].split())
    rings = [[tuple(map(float, p.split())) for p in r.strip("MZ").split("L")] for r in seat["path"].split("Z") if r]
    spots = [p for ring in rings for p in ring]
    assert left == pytest.approx(min(p[0] for p in spots) - 1, abs=0.02)
    assert top == pytest.approx(min(p[1] for p in spots) - 1, abs=0.02) and wide > 2 and high > 2
    area = lambda ring: 0.5 * sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(ring, ring[1:] + ring[:1], strict=True))
    assert abs(sum(area(r) for r in rings)) > 100, "a layer of the part, less what is open in it"
    page = client.get(f"/api/floor/plates/{ordered.id}/0/paper")
    assert len(PdfReader(io.BytesIO(page.content)).pages) <= 2


def test_a_fault_is_recorded_with_its_photo(client, ordered):
    start(client, ordered)
    p, url = Print.objects.get(), f"/api/floor/prints/{Print.objects.get().id}"
    assert client.post(f"{url}/fault", {"words": " "}).json()["code"] == "reason_needed"
    page = SimpleUploadedFile("a.jpg", b"<svg onload=alert(1)>")
    assert client.post(f"{url}/fault", {"words": "warped", "photo": page}).json()["code"] == "unknown_format"
    drawn = io.BytesIO()
    Image.new("RGB", (40, 30), (90, 60, 30)).save(drawn, "PNG")
    picture = drawn.getvalue()
    told = client.post(f"{url}/fault", {"words": "corner lifted", "photo": SimpleUploadedFile("a.png", picture)}).json()
    assert told["photo"] and told["print"]["state"] == "failed" and told["print"]["words"] == "corner lifted"
    shown = client.get(f"{url}/photo")
    assert Image.open(io.BytesIO(shown.content)).size == (40, 30) and shown["Content-Type"] == "image/jpeg"
    assert say(client, p, "clear").status_code == 200 and start(client, ordered).status_code == 201


def test_an_order_is_not_withdrawn_from_under_its_print(client, ordered):
    start(client, ordered)
    assert client.delete(f"/api/week/orders/{ordered.id}").json()["code"] == "printing"
    count(client, Print.objects.get(), 2, 0)
    assert client.delete(f"/api/week/orders/{ordered.id}").status_code == 200


def test_a_plan_that_people_were_told_holds_and_what_moves_is_named(client, ordered):
    before = client.put("/api/week/plan", {}, content_type="application/json").json()
    assert before["told"]["moved"] == [] and before["told"]["by"] == "Ines"
    north = before["machines"][0]["key"]
    moved = week(client, f"?without={north}")["told"]["moved"]
    assert {m["number"] for m in moved} == {r["number"] for r in before["runs"] if r["machine"] == north}
    assert all(m["was"].startswith("north, ") and m["now"].startswith("south, ") for m in moved)
    assert week(client)["told"]["moved"] == []
    told = client.put("/api/week/what-if", {"people": 2}, content_type="application/json").json()["told"]
    assert told["moved"] == [], "with other hands people are told a plan anew"


def test_what_the_solver_found_is_taken_while_nothing_has_changed(client, ordered):
    assert client.post("/api/week/search").status_code == 202
    run_here(Work.objects.get(kind="week", state="waiting"), seconds=0.2)
    got = week(client)
    better = got["better"]
    assert better["late_s"] <= better["now_s"] + 1 and better["bound_s"] <= better["late_s"]
    looked = week(client, "?better=true")
    assert len(looked["runs"]) == 3
    taken = client.put("/api/week/plan", {"better": True}, content_type="application/json").json()
    assert taken["told"]["moved"] == []
    client.post("/api/week/orders", {"part": str(ordered.part_id), "quantity": 1}, content_type="application/json")
    BetterWeek.objects.update(at=timezone.now())
    assert week(client)["better"] is None, "it was found for other orders"
    answer = client.put("/api/week/plan", {"better": True}, content_type="application/json")
    assert answer.json()["code"] == "changed"


def test_printing_an_order_otherwise_is_laid_beside_the_plan(client, ordered):
    half = week(client, f"?half={ordered.id}")
    assert {r["copies"] for r in half["runs"]} == {1} and len(half["runs"]) > 3
    turn = week(client, f"?in_turn={ordered.id}")
    assert {r["copies"] for r in turn["runs"]} <= {1, 2} and week(client)["orders"][0]["plates"] == 3
    start(client, ordered)
    assert len(week(client, f"?half={ordered.id}")["orders"]) == 1, "what is being printed stays as it is"


def test_hands_moments_go_into_a_calendar(client, ordered):
    text = client.get("/api/week/calendar").content.decode()
    visits = sum(len(r["visits"]) for r in week(client)["runs"])
    assert text.count("BEGIN:VEVENT") == visits > 3 and "SUMMARY:north: start" in text
    assert text.count("UID:") == visits == len({row for row in text.splitlines() if row.startswith("UID:")})


def test_a_stranger_reaches_no_plate(stranger, client, ordered):
    other = client_of(stranger)
    start(client, ordered)
    p = Print.objects.get()
    assert other.get(f"/api/floor/plates/{ordered.id}/0").status_code == 404
    assert say(other, p, "cancel").status_code == 404 == count(other, p, 1, 1).status_code
    assert start(other, ordered, 1, p.machine).status_code == 404
