"""Coupons: sheets of readings, what they give, taking it into the record, what is missing; runs of a stand."""

import threading
from datetime import date
from http.server import ThreadingHTTPServer

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone

from coupons import queries
from farm.actions import begin
from farm.queries import Farm, process_of
from hewel_engine.trials.catalogue import SHEETS
from needs.queries import acknowledged
from simulated_stand.__main__ import Stand, handler

JSON = "application/json"


def bars(*values: float, key="tensile_z", plates="12", **more) -> dict:
    rows = [
        {"id": f"r{i}", "plate": plates[i % len(plates)],
         "values": {"width": "8 mm", "thickness": 6, "force": f"{48 * v:.1f} N", "broke": "waist"}}
        for i, v in enumerate(values)
    ]  # fmt: skip
    return {"key": key, "material": "petg", "rows": rows} | more


def begun(client, given: dict) -> dict:
    answer = client.post("/api/coupons", given, content_type=JSON)
    assert answer.status_code == 201, answer.content
    return answer.json()


def amended(client, sheet: dict, given: dict):
    return client.put(f"/api/coupons/{sheet['id']}", {"base": sheet["version"], "coupon": given}, content_type=JSON)


@pytest.fixture
def machine(engineer):
    return str(begin(engineer, "machine", {"name": "Weir one"}).id)


def test_readings_give_a_number_at_once_and_it_is_taken_into_the_record(client, engineer, machine):
    sheet = begun(client, bars(machine=machine))
    assert sheet["found"] == [] and sheet["why"] is None
    sheet = amended(client, sheet, bars(24, 25, 26, 25, 24, machine=machine)).json()
    (found,) = sheet["found"]
    assert found["name"] == "z_t" and found["value"] == pytest.approx(24.8, abs=0.2) and found["plates"] == 2
    assert found["held"] is None and not found["taken"]
    where = queries.combined({"machine": machine, "material": "petg", "profile": None})
    before = process_of(engineer.workshop, where)["numbers"]["own"]
    assert "z_t" not in before
    answer = client.post(f"/api/coupons/{sheet['id']}/take", {"names": ["z_t"]}, content_type=JSON)
    assert answer.status_code == 200, answer.content
    own = process_of(engineer.workshop, where)["numbers"]["own"]["z_t"]
    assert own["origin"] == "coupon" and own["count"] == 5 and own["low"] < own["value"] < own["high"]
    told = client.get(f"/api/coupons/{sheet['id']}").json()["found"][0]
    assert told["held"] == own["value"] and told["taken"]
    record = next(r for r in client.get("/api/farm").json()["records"] if r["kind"] == "capability")
    reading = record["values"]["z_t"]
    assert reading["sheet"] == sheet["id"] and reading["plates"] == 2
    assert reading["measured"] == timezone.localdate().isoformat()


def test_taking_a_second_number_leaves_the_first_and_a_csv_loses_neither(client, engineer, machine):
    for key, field in (("tensile_z", "z_t"), ("tensile_x", "x_t")):
        sheet = begun(client, bars(24, 25, 26, 25, 24, key=key, machine=machine))
        assert client.post(f"/api/coupons/{sheet['id']}/take", {"names": [field]}, content_type=JSON).status_code == 200
    records = [r for r in client.get("/api/farm").json()["records"] if r["kind"] == "capability"]
    assert len(records) == 1 and {n for n, v in records[0]["values"].items() if v["given"]} == {"z_t", "x_t"}
    table = client.get("/api/farm/table?kind=capability").content
    file = SimpleUploadedFile("t.csv", table, content_type="text/csv")
    assert client.post("/api/farm/table?kind=capability", {"file": file}).status_code == 200
    (again,) = [r for r in client.get("/api/farm").json()["records"] if r["kind"] == "capability"]
    assert again["values"]["z_t"]["plates"] == 2 and again["version"] == records[0]["version"]


def test_what_was_printed_with_compensation_on_stays_apart(client, machine):
    sheet = begun(client, bars(24, 25, 26, 25, 24, machine=machine, compensated=True))
    answer = client.post(f"/api/coupons/{sheet['id']}/take", {"names": ["z_t"]}, content_type=JSON)
    assert answer.status_code == 422 and "compensation" in answer.json()["message"]


def test_one_that_lies_apart_is_told_until_somebody_keeps_it(client, machine):
    given = bars(24, 25, 26, 25, 24, 80, machine=machine)
    sheet = begun(client, given)
    assert sheet["apart"] == [5] and "does not count" in " ".join(sheet["says"])
    given["rows"][5]["keep"] = True
    assert amended(client, sheet, given).json()["found"][0]["count"] == 6


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"values": {"width": "eight mm"}}, "Reading 1, width"),
        ({"values": {"wings": 3}}, "no column"),
        ({"values": {"width": "8 kg"}}, "Reading 1"),
        ({"id": "bad id!"}, ""),
    ],
)
def test_a_reading_that_cannot_be_is_refused_and_nothing_is_lost(client, machine, change, words):
    sheet = begun(client, bars(24, 25, machine=machine))
    given = bars(24, 25, machine=machine)
    given["rows"][0] |= change
    answer = amended(client, sheet, given)
    assert answer.status_code == 422 and words in answer.content.decode()
    assert len(client.get(f"/api/coupons/{sheet['id']}").json()["rows"]) == 2


def test_a_half_typed_row_says_what_is_missing_and_is_kept(client, machine):
    given = bars(24, machine=machine)
    del given["rows"][0]["values"]["force"]
    sheet = begun(client, given)
    assert sheet["found"] == [] and "Reading 1: force at break is missing" in sheet["why"]


def test_only_its_own_coupon_records_and_numbers(client, stranger, machine, engineer):
    sheet = begun(client, bars(24, 25, machine=machine))
    assert amended(client, sheet, bars(24, key="walls", machine=machine) | {"rows": []}).status_code == 422
    other = str(begin(stranger, "machine", {"name": "Elsewhere"}).id)
    assert client.post("/api/coupons", bars(24, machine=other), content_type=JSON).status_code == 422
    asked = client.post(f"/api/coupons/{sheet['id']}/take", {"names": ["x_t"]}, content_type=JSON)
    assert asked.status_code == 422
    assert client.post("/api/coupons", bars(24, key="stones", machine=machine), content_type=JSON).status_code == 422


def test_what_is_missing_old_or_thin_is_told_with_the_jobs_that_lean_on_it(client, engineer, part, machine):
    state = client.get("/api/coupons").json()
    assert {k["key"] for k in state["kinds"]} == set(SHEETS)
    assert state["coverage"] == [] and state["without_machine"] == 1, "no coupon counts where no machine is named"
    job = part.job["process"] | {"machine": machine}
    part.sheet.content = part.sheet.content | {"process": job}
    part.sheet.save()
    (own,) = client.get("/api/coupons").json()["coverage"]
    assert own["jobs"] == 1 and {n["state"] for n in own["numbers"]} == {"missing"}
    values = {
        "z_t": {"typed": 25, "origin": "coupon", "plates": 1, "measured": "2026-11-01"},
        "x_t": {"typed": 40, "origin": "coupon", "plates": 3, "measured": "2019-01-01"},
        "bulge": {"typed": 0.2, "origin": "own"},
    }
    begin(engineer, "capability", {"name": "c", "machine": machine, "material": "petg", "values": values})
    farm = Farm(engineer.workshop)
    rows = queries.coverage(queries.leaning(engineer), farm, date(2026, 12, 1))
    found = {n["name"]: n for c in rows for n in c["numbers"]}
    assert (found["z_t"]["state"], found["x_t"]["state"], found["x_a"]["state"]) == ("thin", "old", "missing")
    assert found["z_t"]["age_days"] == 30 and "bulge" not in found


def test_a_coupons_file_leaves_by_the_gate(client, machine):
    answer = client.get(f"/api/coupons/file/walls?machine={machine}&material=petg&kind=stl&mark=W1")
    assert answer.status_code == 200 and len(answer.content) > 1000
    assert client.get("/api/coupons/file/stones").status_code == 422
    assert client.get("/api/coupons/view/walls").status_code == 200
    assert acknowledged({"need": {"use": "ordinary"}, "caution": None})


# ------------------------------------------------------------------ the stand


@pytest.fixture
def stand(settings):
    server = ThreadingHTTPServer(("127.0.0.1", 0), handler(Stand(1, 5000.0), "word"))
    threading.Thread(target=server.serve_forever, daemon=True).start()
    settings.STAND_ADDRESS, settings.STAND_TOKEN = f"http://127.0.0.1:{server.server_port}", "word"
    yield server
    server.shutdown()
    server.server_close()


def pulled(client, sheet: dict, **bar) -> str:
    answer = client.post(f"/api/coupons/{sheet['id']}/pull", bar, content_type=JSON)
    assert answer.status_code == 201, answer.content
    run, count, done = answer.json()["run"], 0, False
    while not done:
        told = client.get(f"/api/coupons/{sheet['id']}/pull/{run}/rows?begin={count}").json()
        count, done = count + len(told["rows"]), told["done"]
    assert count > 500
    return run


def test_a_bar_is_pulled_line_by_line_and_read(client, machine, stand):
    sheet = begun(client, bars(machine=machine))
    steel = client.get(f"/api/coupons/{sheet['id']}/pull/{pulled(client, sheet, steel=True)}?steel=true").json()
    assert 0.5e-4 < steel["give"] < 3.2e-4 and steel["strength_mpa"] is None
    run = pulled(client, sheet, number=2)
    told = client.get(f"/api/coupons/{sheet['id']}/pull/{run}").json()
    assert told["kind"] == "broke" and told["modulus_mpa"] is None and "steel bar first" in " ".join(told["says"])
    given = bars(machine=machine, give=steel["give"], give_off=steel["give_off"])
    sheet = amended(client, sheet, given).json()
    told = client.get(f"/api/coupons/{sheet['id']}/pull/{run}?width=8&thickness=6").json()
    assert told["strength_mpa"] == pytest.approx(told["force_n"] / 48) and told["modulus_mpa"] > 500
    assert 100 < len(told["line"]) <= 1300


def test_a_stand_that_refuses_or_is_away_says_so(client, machine, stand, settings):
    sheet = begun(client, bars(machine=machine))
    bad = client.post(f"/api/coupons/{sheet['id']}/pull", {"fault": "fire"}, content_type=JSON)
    assert bad.status_code == 409 and "no fault" in bad.json()["message"]
    name = f"{sheet['id']}/pull/{sheet['id'].replace('-', '')}"
    assert client.get(f"/api/coupons/{name}/rows").status_code == 409, "the stand knows no such run"
    comb = begun(client, {"key": "walls", "material": "petg", "machine": machine})
    assert client.post(f"/api/coupons/{comb['id']}/pull", {}, content_type=JSON).status_code == 422
    settings.STAND_ADDRESS = "http://127.0.0.1:9"
    away = client.post(f"/api/coupons/{sheet['id']}/pull", {}, content_type=JSON)
    assert away.status_code == 409 and "does not answer" in away.json()["message"]
    settings.STAND_ADDRESS = ""
    assert "No test stand" in client.post(f"/api/coupons/{sheet['id']}/pull", {}, content_type=JSON).json()["message"]
    assert client.get("/api/coupons").json()["stand"] is False


def curve_file(head: str = "Zeit [s];Weg [mm];Kraft [kN]") -> bytes:
    x = np.linspace(0, 3, 400)
    rows = [f"{i / 100:.2f};{s:.4f};{0.3 * s:.5f}".replace(".", ",") for i, s in enumerate(x)]
    rows += [f"{4 + i / 100:.2f};{3 + 1e-4 * i:.4f};0,0" for i in range(30)]
    return "\n".join([head, *rows]).encode()


def test_a_file_of_a_run_is_read_with_its_separators_commas_and_units(client, machine):
    sheet = begun(client, bars(machine=machine, give=1e-4))
    send = lambda data, **more: client.post(
        f"/api/coupons/{sheet['id']}/curve", {"file": SimpleUploadedFile("run.csv", data)} | more
    )
    told = send(curve_file()).json()
    assert (told["stroke"], told["force"], told["columns"][1]) == (1, 2, "Weg [mm]")
    assert told["force_n"] == pytest.approx(900, rel=0.02) and told["kind"] == "broke"
    unknown = send(curve_file("a;b;c")).json()
    assert unknown["stroke"] is None and "Say which columns" in unknown["why"]
    chosen = send(curve_file("a;b;c"), stroke=1, force=2, force_unit="kN").json()
    assert chosen["force_n"] == pytest.approx(900, rel=0.02)
    assert send(curve_file("a;b;c"), stroke=1, force=1).status_code == 422


@pytest.mark.parametrize("data", [b"", b"\x00\x01\x02" * 500, b"no numbers at all\n" * 30, b"1;2\n" * 5, b";" * 5000])
def test_hostile_files_are_refused_or_told(client, machine, data):
    sheet = begun(client, bars(machine=machine))
    file = {"file": SimpleUploadedFile("run.csv", data)}
    answer = client.post(f"/api/coupons/{sheet['id']}/curve", file)
    assert answer.status_code == 422 or answer.json()["why"], answer.content
