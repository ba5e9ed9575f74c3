"""Guessing first: questions come from what is calculated, only a first guess counts, the answer is told afterwards."""

import pytest
from conftest import person
from things import LEDGE, TRUTH, plate_of

from overhangs.stage import OVERHANGS
from practice import questions
from practice.models import Guess
from practice.queries import exercises, firsts, scores
from stages.stage import calculate
from studies.view import DirectedJob
from work.models import Work


def post(client, part, kind, picked):
    body = {"picked": picked}
    return client.post(f"/api/practice/{part.id}/{kind}", body, content_type="application/json")


def test_the_best_direction_is_the_first_of_the_ranking(client, part, study):
    told = client.get(f"/api/practice/{part.id}/direction").json()
    assert len(told["choices"]) == len(set(told["choices"])) == questions.MOST
    assert told["choices"] == sorted(told["choices"]) and "answer" not in told
    best = min(study.candidates, key=lambda c: c["rank"])
    right = questions.direction_words(best["up"])
    wrong = next(w for w in told["choices"] if w != right)
    first = post(client, part, "direction", wrong)
    assert first.status_code == 201 and not first.json()["right"] and first.json()["answer"] == right
    assert all("mm³ of support" in c["told"] for c in first.json()["choices"]) and first.json()["rule"]
    assert post(client, part, "direction", right).json()["right"]


def test_only_the_first_guess_counts_and_everybody_has_a_score(client, part, study, engineer):
    colleague = person("uta", engineer.workshop.name)
    for user, picked in ((engineer, "b"), (engineer, "a"), (colleague, "a")):
        Guess.objects.create(user=user, part=part, kind="layer", picked=picked, answer="a")
    Guess.objects.create(user=person("otto", "Other Works"), part=part, kind="layer", picked="a", answer="a")
    assert firsts(Guess.objects.filter(user=engineer)) == {engineer: {(part.id, "layer"): False}}
    assert [(s["name"], s["right"], s["of"], s["mine"]) for s in scores(engineer)] == [
        ("Uta", 1, 1, False),
        ("Ines", 0, 1, True),
    ]


def test_what_is_no_choice_or_cannot_be_asked_is_refused_in_words(client, part, study):
    assert post(client, part, "direction", "sideways").status_code == 422
    for kind, status in (("hanging", 409), ("layer", 409), ("batch", 409), ("colour", 404)):
        answer = client.get(f"/api/practice/{part.id}/{kind}")
        assert answer.status_code == status and answer.json()["hint"], kind
    assert not Guess.objects.exists()


@pytest.fixture
def hung(part, study, engineer):
    """A part with a ledge that hangs and a bridge that prints."""
    bridge = LEDGE | {
        "kind": "bridge", "needs_support": False, "span_mm": 4.0, "reach_mm": 4.0, "allowed_mm": 9.0, "z_mm": 7.0,
    }  # fmt: skip
    found = calculate(OVERHANGS, engineer, DirectedJob(part))
    found.facets, found.truth = part.view, TRUTH | {"regions": [LEDGE, bridge]}
    found.save()
    Work.objects.update(state=Work.State.DONE)
    return part


def test_the_place_that_hangs_is_asked_among_those_that_print(client, hung):
    told = client.get(f"/api/practice/{hung.id}/hanging").json()
    assert told["choices"] == ["ledge, 3.0 mm, 3.0 mm up", "bridge, 4.0 mm, 7.0 mm up"]
    given = post(client, hung, "hanging", told["choices"][0]).json()
    assert given["right"] and given["rule"] == questions.HANGS["ledge"] and given["stage"] == "overhangs"
    assert given["choices"][1]["told"].startswith("Bridge of 4.0 mm")


@pytest.mark.parametrize("z, right", [(0.0, 0), (2.3, 1), (9.0, 3)])
def test_the_weakest_layer_lies_in_a_quarter_of_the_height(hung, monkeypatch, z, right):
    worst = {"reserve": 0.8, "z_mm": z, "name": "hangs", "mode": "interlayer_tension", "sentence": "splits there"}
    monkeypatch.setattr(questions.strength, "answering", lambda view, up: True)
    monkeypatch.setattr(questions.strength, "cases_out", lambda view, analysis: [worst])
    monkeypatch.setattr(questions.strength, "worst_of", lambda rows: rows[0])
    found = questions.layer(DirectedJob(hung))
    words = [c.words for c in found.choices]
    assert words[0] == "0 to 2 mm above the plate" and found.answer == words[right]
    assert found.choices[right].told == "It splits there." and found.rule == questions.PARTS[True]


def test_how_many_is_what_is_proposed(engineer, part, study):
    analysis = plate_of(engineer, part)
    Work.objects.update(state=Work.State.DONE)
    view = DirectedJob(part)
    rows, taken, words = questions.Batches(view, analysis).judged()
    found = questions.batch(view)
    assert found.answer == questions.words_of(rows[taken]["mode"], rows[taken]["copies"])
    assert 2 <= len(found.choices) <= questions.MOST and len({c.words for c in found.choices}) == len(found.choices)
    assert next(c.told for c in found.choices if c.words == found.answer) == words[taken]


def test_a_bench_takes_kinds_in_turn_from_parts_that_have_answered(engineer, part, study):
    part.standing = {"direction": "open", "overhangs": "settled", "strength": "stale", "batch": "empty"}
    part.save(update_fields=["standing"])
    assert [(e["kind"], e["right"]) for e in exercises(engineer)] == [("direction", None), ("hanging", None)]
    part.standing = {}
    part.save(update_fields=["standing"])
    assert exercises(engineer) == []
