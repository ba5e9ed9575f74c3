"""Walls on the server: measured once, kept by what they depend on, drawn with their zones."""

from datetime import timedelta

import pytest
from conftest import client_of, computed, person
from django.utils import timezone
from test_farm import post
from test_needs import Job, case, force, loaded

from hewel_engine.io.packing import unpack_solid
from hewel_engine.walls.thickness import thickness_of
from parts.actions import throw_away
from stages.stage import calculate
from store import actions as store
from store.models import Blob
from studies.view import DirectedJob
from walls.models import WallAnalysis
from walls.stage import WALLS


@pytest.fixture
def job(client, part, study):
    return Job(client, part)


def measured(user, part) -> WallAnalysis:
    return computed(WALLS, user, part)


def look(client, part) -> dict:
    answer = client.get(f"/api/walls/of/{part.id}")
    assert answer.status_code == 200, answer.content
    return answer.json()["analysis"]


def test_walls_are_measured_and_drawn(client, job, part, engineer):
    assert look(client, part) is None
    answer = client.post(f"/api/walls/of/{part.id}", content_type="application/json")
    assert answer.status_code == 202 and not answer.json()["analysis"]["done"]
    measured(engineer, part)
    result = look(client, part)
    assert result["done"] and not result["stale_because"]
    heavy = max(result["zones"], key=lambda z: z["area_mm2"])
    assert heavy["kind"] == "heavy" and heavy["thickness_mm"] == pytest.approx(6, rel=0.03), "plate and wall are 6 mm"
    assert (heavy["better"], heavy["because"], heavy["reserve"]) == ([], "loads", None), "a bore goes through it"
    found = thickness_of(unpack_solid(store.get(part.solid)))
    assert result["min_thickness_mm"] == pytest.approx(found.thinnest[0])
    view = client.get(f"/api/walls/{result['id']}/content/view/{result['view']}")
    assert view.status_code == 200 and view.content[:4] == b"HWV2"
    assert client.get(f"/api/walls/{result['id']}/content/view/{'0' * 64}").status_code == 404


def test_loads_say_how_thin_a_wall_may_be(client, job, part, engineer):
    measured(engineer, part)
    loaded(job, cases=[case(force(amount="1 N"))])
    part.sheet.refresh_from_db()
    stale = look(client, part)
    assert stale["stale_because"] and stale["stale_because"] == ["loads"]
    measured(engineer, part)
    heavy = max(look(client, part)["zones"], key=lambda z: z["area_mm2"])
    assert heavy["kind"] == "heavy" and heavy["reserve"] > 5 and heavy["because"] is None
    (better,) = heavy["better"]
    assert better["advised"] and better["grams"] < 0 and better["seconds"] < 0
    lost = (heavy["thickness_mm"] - better["mm"]) * heavy["area_mm2"] * 1.27e-3
    assert -better["grams"] == pytest.approx(lost, rel=1e-6), "PETG"
    share = better["mm"] / heavy["thickness_mm"]
    assert better["holds"] == pytest.approx([share**2, share]), "thinner: bent it loses more than stretched"
    given = job.put(service={"factor": 4})
    assert given.status_code == 200, given.content
    part.sheet.refresh_from_db()
    assert look(client, part)["stale_because"] == ["circumstances of use"]
    half = heavy["reserve"]
    measured(engineer, part)
    again = max(look(client, part)["zones"], key=lambda z: z["area_mm2"])
    assert again["reserve"] == pytest.approx(half * 1.5 / 4, rel=1e-3), "the required factor is in it"
    loaded(job, cases=[case(force(amount="4 kN"))])
    part.sheet.refresh_from_db()
    measured(engineer, part)
    weak = max(look(client, part)["zones"], key=lambda z: z["area_mm2"])
    assert weak["reserve"] < 1 and (weak["better"], weak["because"]) == ([], "weak")


def test_the_same_is_not_measured_twice_and_another_line_makes_it_stale(client, job, part, engineer):
    first = measured(engineer, part)
    assert calculate(WALLS, engineer, DirectedJob(part)) == first
    given = {"base": job.get()["version"], "width": 0.6}
    assert client.post(f"/api/studies/of/{part.id}", given, content_type="application/json").status_code == 202
    part.refresh_from_db()
    part.sheet.refresh_from_db()
    result = look(client, part)
    assert result["stale_because"] and result["stale_because"] == ["line width 0.45 → 0.6"]
    second = measured(engineer, part)
    assert second != first and not look(client, part)["stale_because"]
    assert second.result["comb"]["widths_mm"][0] == pytest.approx(0.6)


def test_walls_follow_the_rule_and_the_nozzle_of_the_farm(client, part, study, engineer):
    machine = post(client, "machine", {"name": "Broad", "values": {"nozzle": {"typed": "0.6 mm"}}}).json()["id"]
    profile = post(client, "profile", {"name": "By the nozzle", "values": {"rule": {"typed": "nozzle"}}}).json()["id"]
    given = {"base": 1, "machine": machine, "profile": profile}
    answer = client.post(f"/api/studies/of/{part.id}", given, content_type="application/json")
    assert answer.status_code == 202, answer.content
    part.refresh_from_db()
    comb = measured(engineer, part).result["comb"]
    assert comb["widths_mm"] == pytest.approx([0.6 * n for n in range(1, 7)]), "whole numbers of nozzles"


def test_an_open_part_is_refused_in_words(client, part, study):
    part.facts = part.facts | {"watertight": False}
    part.save()
    answer = client.post(f"/api/walls/of/{part.id}", content_type="application/json")
    assert answer.status_code == 422 and "no other side" in answer.json()["message"]


def test_strangers_see_nothing_and_readers_order_nothing(client, part, study, stranger, engineer):
    analysis = measured(engineer, part)
    other = client_of(stranger)
    assert other.get(f"/api/walls/of/{part.id}").status_code == 404
    assert other.get(f"/api/walls/{analysis.id}/content/view/{analysis.view_id}").status_code == 404
    assert client_of(person("someone", "Reed yard")).post(f"/api/walls/of/{part.id}").status_code == 404


def test_what_was_measured_goes_with_the_part(client, part, study, engineer):
    kept = measured(engineer, part).view_id
    part.sheet.struck, part.sheet.struck_by = timezone.now() - timedelta(days=40), engineer
    part.sheet.save()
    throw_away(timezone.now())
    assert not Blob.objects.filter(digest=kept).exists() and not WallAnalysis.objects.exists()


def test_what_else_wants_sizing_is_told_where_it_is(client, job, part, engineer):
    measured(engineer, part)
    result = look(client, part)
    corner = next(p for p in result["places"] if p["kind"] == "corner")
    assert corner["key"] == "rounded_corner" and corner["turn_deg"] == pytest.approx(90, abs=1)
    given = {
        "steps": [{"key": corner["key"], "kind": "corner", "centre_mm": corner["centre_mm"], "set": {"radius_mm": 2}}]
    }
    answer = client.post(f"/api/remedies/of/{part.id}", given, content_type="application/json")
    assert answer.status_code == 202, answer.content


def test_each_layer_is_drawn_as_the_nozzle_lays_it(client, job, part, engineer):
    analysis = measured(engineer, part)
    layers = look(client, part)["layers"]
    count = len(layers["slit_mm2"])
    assert count == len(layers["bare_mm2"]) > 10 and 0 <= layers["worst_layer"] < count
    layer = client.get(f"/api/walls/{analysis.id}/layer/5").json()
    assert len(layer["lines"]) == 3 and all(len(loop) % 2 == 0 for line in layer["lines"] for loop in line)
    assert layer["slit_mm2"] == pytest.approx(layers["slit_mm2"][5], rel=1e-3)
    assert client.get(f"/api/walls/{analysis.id}/layer/{count}").status_code == 404
    assert client.get(f"/api/walls/{analysis.id}/layer/-1").status_code == 404


def test_another_direction_is_measured_as_soon_as_it_is_chosen(client, job, part, study, engineer):
    measured(engineer, part)
    given = {"base": job.get()["version"], "up": [1, 0, 0], "reason": "on its end"}
    chosen = client.post(f"/api/studies/{study.id}/choice", given, content_type="application/json")
    assert chosen.status_code == 201, chosen.content
    now = look(client, part)
    assert now["up"] == [1, 0, 0] and now["work"]["state"] == "waiting" and now["stale_because"] == []


def test_a_piece_is_sized_by_calculation(client, job, part):
    given = {
        "kind": "arm",
        "load_n": 30,
        "factor": 2,
        "span_mm": 60,
        "width_mm": 20,
        "thickness_mm": 3,
        "along": [1, 0, 0],
    }
    size = lambda **more: client.post(f"/api/walls/of/{part.id}/size", given | more, content_type="application/json")
    result = size().json()
    bent = result["bent"]
    assert result["boss"] is None and bent["ways"]["lines"]["reserve"] >= 1
    assert bent["ways"]["as_it_is"]["size_mm"] == 3 and bent["most_load_n"] > 0
    assert size(kind="panel", sag_mm=0.5).json()["bent"]["rib_pitch_mm"] > 0
    boss = size(kind="boss", hole_mm=4).json()["boss"]
    assert boss["outside_mm"] > 4 and boss["carries_n"] >= 30 and boss["engagement_mm"] == 8
    assert size(load_n=0).status_code == 422 and size(factor=0.5).status_code == 422
    refused = size(along=[0, 0, 0])
    assert refused.status_code == 422 and "direction" in refused.json()["message"].lower()
