"""The farm's library: records with origins, their history, tables, and the process that comes of them."""

import re

import pytest
from conftest import client_of, person
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client

from farm.actions import begin
from farm.forms import FROM_SHEET, process_choice
from farm.queries import process_of
from farm.tables import _text, plain


def post(client, kind, record):
    return client.post(f"/api/farm?kind={kind}", record, content_type="application/json")


def put(client, row, record, base=None):
    body = {"base": base or row["version"], "record": record}
    return client.put(f"/api/farm/{row['id']}", body, content_type="application/json")


MACHINE = {
    "name": "Weir 220",
    "values": {"flow_limit": {"typed": "20", "origin": "maker"}, "nozzle": {"typed": "0.016 in", "origin": "maker"}},
    "machines": [{"id": "a", "name": "Bench left"}, {"id": "b", "name": "Bench right", "in_service": False}],
}


def test_a_record_keeps_origin_range_and_what_was_typed(client):
    row = post(client, "machine", MACHINE).json()
    nozzle, bed = row["values"]["nozzle"], row["values"]["bed_x"]
    assert nozzle["value"] == pytest.approx(0.4064) and nozzle["typed"] == "0.016 in" and nozzle["origin"] == "maker"
    assert bed == {
        "value": 220.0,
        "origin": "handbook",
        "low": None,
        "high": None,
        "note": "",
        "typed": None,
        "given": False,
    } | dict.fromkeys(FROM_SHEET)
    assert [m["in_service"] for m in row["record"]["machines"]] == [True, False]


def test_a_material_falls_back_to_its_grade(client):
    given = {
        "name": "Reed ASA",
        "grade": "asa",
        "values": {"z_t": {"typed": "19 MPa", "origin": "coupon", "low": "17", "high": "21", "note": "5 bars"}},
    }
    row = post(client, "material", given).json()
    assert row["values"]["z_t"]["value"] == 19 and row["values"]["z_t"]["low"] == 17
    assert row["values"]["x_t"]["value"] == 40 and row["values"]["x_t"]["origin"] == "handbook"


@pytest.mark.parametrize(
    "kind, record, words",
    [
        ("machine", {"name": ""}, "name"),
        ("machine", {"name": "x", "values": {"flow_limit": {"typed": "12 apples"}}}, "apples"),
        ("machine", {"name": "x", "values": {"flow_limit": {"typed": "-3"}}}, "cannot be -3"),
        ("machine", {"name": "x", "values": {"colour": {"typed": "1"}}}, "no field"),
        ("machine", {"name": "x", "values": {"chamber": {"typed": "warm"}}}, "cannot be 'warm'"),
        ("material", {"name": "x", "grade": "oak"}, "no generic grade"),
        (
            "material",
            {"name": "x", "values": {"z_t": {"typed": "30", "low": "31", "high": "40"}}},
            "outside its own range",
        ),
        ("profile", {"name": "x", "values": {"variable_lines": {"typed": "maybe"}}}, "cannot be"),
    ],
)
def test_what_a_record_cannot_say(client, kind, record, words):
    answer = post(client, kind, record)
    assert answer.status_code == 422 and words in str(answer.json()), answer.content
    assert client.get("/api/farm").json()["records"] == []


def test_every_change_is_kept_with_who_before_and_after_and_can_be_undone(client, engineer):
    row = post(client, "machine", MACHINE).json()
    put(client, row, MACHINE | {"values": {"flow_limit": {"typed": "24", "origin": "own"}}})
    history = client.get(f"/api/sheets/{row['id']}/history").json()
    assert history["editions"][0]["words"] == "flow limit, nozzle" and history["editions"][0]["by"] == "Ines"
    log = client.get("/api/people/log").json()[0]
    assert "flow_limit" in str(log["before"]) and "20" in str(log["before"]) and "24" in str(log["after"])
    client.post(f"/api/sheets/{row['id']}/take-back", {"number": 2}, content_type="application/json")
    (now,) = client.get("/api/farm").json()["records"]
    assert now["values"]["flow_limit"]["value"] == 20
    client.delete(f"/api/sheets/{row['id']}")
    farm = client.get("/api/farm").json()
    assert farm["records"] == [] and farm["struck"][0]["record"]["name"] == "Weir 220"
    client.post(f"/api/sheets/{row['id']}/bring-back")
    assert len(client.get("/api/farm").json()["records"]) == 1


def test_two_records_of_a_kind_have_two_names(client):
    post(client, "machine", MACHINE)
    assert post(client, "machine", {"name": "weir 220"}).json()["code"] == "name_taken"
    assert post(client, "profile", {"name": "weir 220"}).status_code == 201


def test_two_people_change_two_numbers_of_one_record(client):
    row = post(client, "machine", MACHINE).json()
    other = client_of(person("piet", "Alder Reach"))
    change = lambda **values: MACHINE | {"values": MACHINE["values"] | {k: {"typed": v} for k, v in values.items()}}
    assert put(client, row, change(gantry="25"), 1).status_code == 200
    assert put(other, row, change(head_radius="50"), 1).status_code == 200
    (now,) = client.get("/api/farm").json()["records"]
    assert now["values"]["gantry"]["value"] == 25 and now["values"]["head_radius"]["value"] == 50
    assert put(other, row, change(gantry="31"), 1).status_code == 409


# ------------------------------------------------------------------ tables


def table(client, kind):
    return client.get(f"/api/farm/table?kind={kind}").content.decode()


def bring(client, kind, text):
    file = SimpleUploadedFile("t.csv", text if isinstance(text, bytes) else text.encode())
    return client.post(f"/api/farm/table?kind={kind}", {"file": file})


def stock(client):
    machine = post(client, "machine", MACHINE | {"note": "=cmd()"}).json()
    material = post(
        client,
        "material",
        {
            "name": "Reed ASA",
            "grade": "asa",
            "values": {"z_t": {"typed": "19", "origin": "coupon", "low": "17", "note": "5 bars, “dry”"}},
        },
    ).json()
    profile = post(
        client,
        "profile",
        {
            "name": "Sturdy",
            "values": {"layer": {"typed": "0.3"}, "rule": {"typed": "plain"}, "variable_lines": {"typed": True}},
        },
    ).json()
    capability = {
        "name": "Weir × Reed",
        "machine": machine["id"],
        "material": material["id"],
        "profile": profile["id"],
        "measured": "2026-10-02",
        "operator": "Piet",
        "count": 5,
    }
    capability["values"] = {
        "limit_hidden": {"typed": "58", "origin": "coupon"},
        "limit_visible": {"typed": "52", "origin": "coupon"},
    }
    return machine, material, profile, post(client, "capability", capability).json()


KINDS = ["machine", "material", "profile", "capability"]


def test_a_coupons_strength_comes_with_the_number_of_its_bars(client, engineer):
    machine, material, profile, _ = stock(client)
    values = {name: {"typed": "30", "origin": "coupon"} for name in ("x_t", "z_t")} | {"z_s": {"typed": "20"}}
    where = {"machine": machine["id"], "material": material["id"], "profile": profile["id"]}
    newer = {"name": "Bars of November", "measured": "2026-11-20", "count": 5, "values": values} | where
    assert post(client, "capability", newer).status_code < 300
    own = process_of(engineer.workshop, process_choice(where | {"grade": "portable"}))["numbers"]["own"]
    assert {name: own[name].get("count") for name in ("x_t", "z_t", "z_s")} == {"x_t": 5, "z_t": 5, "z_s": None}


def test_tables_go_out_and_come_back_the_same(client, stranger):
    stock(client)
    tables = {kind: table(client, kind) for kind in KINDS}
    assert "'=cmd()" in tables["machine"], "a spreadsheet must not run what somebody wrote"
    for kind in KINDS:
        assert bring(client, kind, tables[kind]).json() == {"begun": [], "changed": []}
    other = client_of(stranger)
    for kind in KINDS:
        assert len(bring(other, kind, tables[kind]).json()["begun"]) == 1
    assert {kind: table(other, kind) for kind in KINDS} == tables


def test_a_table_changes_only_what_it_names(client):
    stock(client)
    text = "record,field,value,unit,origin\r\nWeir 220,gantry,1 in,,maker\r\nOther,bed_x,300,mm,maker\r\n"
    assert bring(client, "machine", text).json() == {"begun": ["Other"], "changed": ["Weir 220"]}
    rows = {r["record"]["name"]: r for r in client.get("/api/farm").json()["records"]}
    weir = rows["Weir 220"]["values"]
    assert weir["gantry"]["value"] == pytest.approx(25.4) and weir["flow_limit"]["value"] == 20


@pytest.mark.parametrize(
    "text, words",
    [
        ("a,b\r\n1,2\r\n", "no column “record”"),
        ("record,field,value\r\nX,flow_limit,12\r\nX,flow_limit,many\r\n", "Line 3"),
        ("record,field,value\r\n,flow_limit,12\r\n", "names no record"),
        ("record,field,value\r\nX,colour,red\r\n", "no field"),
        (b"\xff\xfe\x00r", "not UTF-8"),
        ("record,field,value\r\nX,flow_limit,9e9\r\n", "Line 2"),
    ],
)
def test_a_bad_table_changes_nothing_and_names_its_line(client, text, words):
    answer = bring(client, "machine", text)
    assert answer.status_code == 422 and words in answer.json()["message"] and answer.json()["hint"]
    assert client.get("/api/farm").json()["records"] == []


# ------------------------------------------------------------------ the process of a job


def test_a_job_takes_its_numbers_from_the_records_and_says_from_where(client, part, study):
    machine, material, profile, _capability = stock(client)
    chosen = {
        "base": 1,
        "machine": machine["id"],
        "material": material["id"],
        "profile": profile["id"],
        "grade": "visible",
        "width": 0.5,
    }
    answer = client.post(f"/api/studies/of/{part.id}", chosen, content_type="application/json")
    assert answer.status_code == 202, answer.content
    got = client.get(f"/api/parts/{part.id}").json()["process"]
    assert got["numbers"]["limit"] == 52 and got["numbers"]["layer"] == 0.3 and got["numbers"]["width"] == 0.5
    assert got["origins"]["limit"] == {"origin": "coupon", "record": "capability"}
    assert got["origins"]["flow_limit"] == {"origin": "maker", "record": "machine"}
    assert got["names"] == {
        "machine": "Weir 220",
        "material": "Reed ASA",
        "profile": "Sturdy",
        "capability": "Weir × Reed",
    }
    assert answer.json()["process"]["limit"] == 52


def test_a_job_sets_its_own_perimeters_and_infill(client, part, study):
    address = f"/api/studies/of/{part.id}"
    own = {"base": 1, "perimeters": 5, "infill": 0.05}
    assert client.post(address, own, content_type="application/json").status_code == 202
    got = client.get(f"/api/parts/{part.id}").json()
    assert (got["process"]["numbers"]["perimeters"], got["process"]["numbers"]["infill"]) == (5, 0.05)
    assert got["process"]["origins"]["infill"] == {"origin": "own", "record": "job"}
    refused = client.post(address, {"base": got["version"], "infill": 1.5}, content_type="application/json")
    assert refused.status_code == 422 and "infill" in refused.json()["message"].lower()
    assert client.get(f"/api/parts/{part.id}").json()["process"]["numbers"]["infill"] == 0.05, "nothing is lost"


def test_a_changed_record_makes_stale_what_was_studied_with_it(client, part, study):
    machine, _, profile, _ = stock(client)
    chosen = {"base": 1, "machine": machine["id"], "profile": profile["id"]}
    first = client.post(f"/api/studies/of/{part.id}", chosen, content_type="application/json").json()
    assert not first["stale_because"]
    put(client, profile, {"name": "Sturdy", "values": {"layer": {"typed": "0.25"}}})
    assert client.get(f"/api/studies/{first['id']}").json()["stale_because"]
    put(client, machine, MACHINE | {"note": "moved to the window"})
    client.post(f"/api/sheets/{profile['id']}/take-back", {"number": 2}, content_type="application/json")
    assert not client.get(f"/api/studies/{first['id']}").json()["stale_because"], "undone, and a note changes no number"


def test_a_record_in_the_bin_still_serves_the_job_that_rests_on_it(client, part, study):
    machine, *_ = stock(client)
    client.post(f"/api/studies/of/{part.id}", {"base": 1, "machine": machine["id"]}, content_type="application/json")
    client.delete(f"/api/sheets/{machine['id']}")
    assert client.get(f"/api/parts/{part.id}").json()["process"]["numbers"]["flow_limit"] == 20


def test_a_record_of_another_workshop_cannot_be_chosen(client, part, study, stranger):
    machine = post(client_of(stranger), "machine", MACHINE).json()
    answer = client.post(
        f"/api/studies/of/{part.id}", {"base": 1, "machine": machine["id"]}, content_type="application/json"
    )
    assert answer.status_code == 422 and "no such machine" in answer.json()["message"]


@pytest.mark.parametrize(
    "note",
    ["=1+1", "  @SUM(A1)", "\t-2", "＝1+1", "fine;=cmd()", "two\n+three", "a,＠b", "'quoted", "|=x", "5 - 3", "plain"],
)
def test_no_cell_is_a_formula_whatever_the_separator(note):
    marked = plain(note)
    assert not re.search(r"(^|[;,\t|\r\n])\s*[=+\-@＝＋－＠]", marked), marked
    assert _text(marked) == note.strip()


def test_a_capability_names_its_own_workshops_machine_only(client, stranger):
    theirs = begin(stranger, "machine", {"name": "Their printer"})
    answer = post(client, "capability", {"name": "Measured", "machine": str(theirs.id), "values": {}})
    assert answer.status_code == 422 and "no such machine record" in answer.json()["message"]
    own = post(client, "machine", MACHINE).json()
    assert post(client, "capability", {"name": "Measured", "machine": own["id"], "values": {}}).status_code == 201


def test_the_schema_is_for_members():
    assert Client().get("/api/openapi.json").status_code == 401


@pytest.mark.parametrize("kind", ["machine", "material", "profile", "capability", "size"])
def test_a_record_that_was_read_can_be_written_back_as_it_is(client, engineer, kind):
    """The page sends what it was told, with one number changed."""
    sheet = begin(engineer, kind, {"name": "as it is", "values": {}})
    told = next(r for r in client.get("/api/farm").json()["records"] if r["id"] == str(sheet.id))
    record = {name: value for name, value in told["record"].items() if value is not None} | {"values": {}}
    answer = client.put(
        f"/api/farm/{sheet.id}",
        {"base": told["version"], "record": record | {"note": "changed"}},
        content_type="application/json",
    )
    assert answer.status_code == 200, answer.content
