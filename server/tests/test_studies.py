"""Studies and choices through the API."""

from io import BytesIO

import pytest
from conftest import directions_of
from pypdf import PdfReader

from hewel_engine.processes import Process
from studies import bridge
from studies.models import Choice, Study
from studies.stage import merge
from work.models import Work


def post(client, url, body):
    return client.post(url, body, content_type="application/json")


def test_study_and_sweep(client, study):
    got = client.get(f"/api/studies/{study.id}").json()
    assert got["swept"] and len(got["candidates"]) >= 6
    assert got["process"] == {
        "limit": 45.0,
        "layer": 0.2,
        "width": 0.45,
        "perimeters": 3,
        "infill": 0.2,
        "material": "petg",
        "clean_bridge": 10.0,
        "rough_bridge": 20.0,
    }
    sweep = client.get(f"/api/studies/{study.id}/sweep").json()
    assert len(sweep["ups"]) >= 2562 and all(len(v) == len(sweep["ups"]) for v in sweep["fields"].values())


def test_sweep_not_there_yet(client, engineer, part):
    fresh = directions_of(engineer, part)
    answer = client.get(f"/api/studies/{fresh.id}/sweep")
    assert answer.status_code == 404 and answer.json()["code"] == "not_swept"


def test_choice_keeps_reason_numbers_and_alternatives(client, engineer, study):
    best = study.candidates[0]
    answer = post(
        client,
        f"/api/studies/{study.id}/choice",
        {"base": 1, "up": best["up"], "reason": " Flat down, nothing hangs. "},
    )
    assert answer.status_code == 201 and answer.json()["by"] == "Ines"
    choice = Choice.objects.get()
    assert choice.reason == "Flat down, nothing hangs." and choice.measures == best
    assert len(choice.alternatives) == len(study.candidates) - 1 and best not in choice.alternatives
    assert client.get(f"/api/parts/{study.part_id}").json()["choice"]["reason"] == choice.reason


def test_a_later_choice_stands_and_the_first_stays_on_record(client, study):
    for i in (0, 1):
        post(
            client,
            f"/api/studies/{study.id}/choice",
            {"base": i + 1, "up": study.candidates[i]["up"], "reason": f"reason {i}"},
        )
    assert client.get(f"/api/parts/{study.part_id}").json()["choice"]["reason"] == "reason 1"
    assert [c["reason"] for c in client.get(f"/api/studies/{study.id}").json()["choices"]] == ["reason 1", "reason 0"]


@pytest.mark.parametrize(
    "body, code",
    [
        ({"up": [0, 0, 1], "reason": "  "}, "reason_needed"),
        ({"up": [0.6, 0, 0.8], "reason": "looks fine"}, "not_examined"),
        ({"up": [0, 0, 0], "reason": "looks fine"}, "bad_options"),
    ],
)
def test_what_cannot_be_chosen(client, study, body, code):
    answer = post(client, f"/api/studies/{study.id}/choice", {"base": 1} | body)
    assert answer.status_code == 422 and answer.json()["code"] == code
    assert Choice.objects.count() == 0


def test_asking_about_a_typed_direction(client, study):
    answer = post(client, f"/api/studies/{study.id}/directions", {"up": [0, 3, 4]})
    assert answer.status_code == 202
    work = Work.objects.get(id=answer.json()["id"])
    assert work.arguments["up"] == pytest.approx([0, 0.6, 0.8])
    assert post(client, f"/api/studies/{study.id}/directions", {"up": [0, 0, 0]}).status_code == 422


def test_a_typed_direction_joins_the_ranking(pieces, studied):
    process = Process().as_dict()
    events = list(bridge.direction(pieces["solid"], pieces["view"], None, [0, 3, 4], process, studied["candidates"]))
    ((_, name, ranked),) = [e for e in events if e[0] == "result"]
    assert name == "candidates" and len(ranked) == len(studied["candidates"]) + 1
    assert sorted(c["rank"] for c in ranked) == list(range(1, len(ranked) + 1))
    ((mine),) = [c for c in ranked if c["source"] == "typed"]
    assert mine["up"] == pytest.approx([0, 0.6, 0.8]) and mine["time_s"] > 0


def test_another_study_with_other_settings(client, part, study):
    answer = post(
        client, f"/api/studies/of/{part.id}", {"base": 1, "limit": 60, "layer": 0.3, "width": 0.5, "material": "asa"}
    )
    assert answer.status_code == 202 and answer.json()["process"]["limit"] == 60
    assert Study.objects.filter(part=part).count() == 2
    assert answer.json()["digest"] != study.digest
    assert client.get(f"/api/parts/{part.id}").json()["study"] == answer.json()["id"]


@pytest.mark.parametrize("body", [{"limit": 95}, {"layer": 0}, {"material": "oak"}, {"limit": "steep"}])
def test_settings_out_of_bounds(client, part, study, body):
    answer = post(client, f"/api/studies/of/{part.id}", {"base": 1} | body)
    assert answer.status_code == 422 and Study.objects.count() == 1


def test_the_comparison_prints_on_one_page(client, part, study):
    best, second = study.candidates[:2]
    desk = {"base": 1, "sections": {"desk": {"weights": {"height": 5}, "pins": [best["up"], second["up"]]}}}
    client.put(f"/api/parts/{part.id}/job", desk, content_type="application/json")
    reason = "Flat <b>down</b> & firm."
    post(client, f"/api/studies/{study.id}/choice", {"base": 2, "up": best["up"], "reason": reason})
    answer = client.get(f"/api/studies/{study.id}/comparison")
    assert answer.status_code == 200 and answer["Content-Type"] == "application/pdf"
    (page,) = PdfReader(BytesIO(answer.content)).pages
    text = " ".join(page.extract_text().split())
    for given in ("Gauge plate", reason, "Side by side", "height 5", "limit 45°", "Alder Reach"):
        assert given in text, given
    fonts = {str(f.get_object()["/BaseFont"]) for f in page["/Resources"]["/Font"].values()}
    assert any("Archivo" in f for f in fonts) and any("Figures" in f for f in fonts), fonts


def test_nothing_is_printed_before_there_is_something(client, engineer, part):
    fresh = directions_of(engineer, part)
    assert client.get(f"/api/studies/{fresh.id}/comparison").json()["code"] == "not_swept"


def test_a_direction_asked_for_meanwhile_is_never_lost(study):
    """Two workers on one study: whichever is done last, both answers stand, ranked together."""
    first, *others = study.candidates
    asked = first | {"up": [0.6, 0.0, 0.8], "source": "typed"}
    merge(Study.objects.get(id=study.id), "candidates", [*study.candidates, asked])
    merge(Study.objects.get(id=study.id), "candidates", [first | {"height_mm": 99.0}, *others])
    study.refresh_from_db()
    assert len(study.candidates) == len(others) + 2
    assert sorted(c["rank"] for c in study.candidates) == list(range(1, len(others) + 3))
    again = next(c for c in study.candidates if c["up"] == first["up"])
    assert again["height_mm"] == 99.0, "what was worked out anew replaces what was there"
    assert any(c["up"] == asked["up"] for c in study.candidates)
