"""What stages have in common: a result is ordered once, kept by the latest attempt only, and says what has changed."""

from dataclasses import replace

import pytest
from conftest import stage_of
from test_needs import Job, case, face, force

from hewel.refusal import Refused
from stages.inputs import INPUTS, changed
from stages.stage import calculate, keep, result_of
from store import actions as store
from store.models import Blob
from studies.view import DirectedJob
from walls.stage import WALLS
from work.actions import _Overtaken, call_off
from work.models import Work

TURNED = {"up": [0, 1, 0]}
PROBE = replace(WALLS, key="probe", inputs=lambda view, asked: {"up": [0, 0, 1]} if asked is None else asked)
"""A stage on the table of walls, with a direction that a test gives it."""


@pytest.fixture
def job(client, part, study):
    return Job(client, part)


def running(result) -> Work:
    Work.objects.filter(id=result.work_id).update(state=Work.State.RUNNING)
    return Work.objects.get(id=result.work_id)


def test_the_same_is_ordered_once_and_again_only_when_it_was_broken_off(engineer, part, study):
    first = calculate(PROBE, engineer, DirectedJob(part))
    assert calculate(PROBE, engineer, DirectedJob(part)) == first and first.work.arguments == {"result": str(first.id)}
    assert calculate(PROBE, engineer, DirectedJob(part), TURNED) != first
    call_off(first.work)
    assert calculate(PROBE, engineer, DirectedJob(part)) != first


def test_of_a_stage_that_is_asked_for_only_the_newest_is_used_again(engineer, part, study):
    asked = replace(PROBE, asked="up", inputs=lambda view, up: {"up": up})
    first, second = (calculate(asked, engineer, DirectedJob(part), up) for up in ([0, 0, 1], [0, 1, 0]))
    assert calculate(asked, engineer, DirectedJob(part), [0, 1, 0]) == second
    third = calculate(asked, engineer, DirectedJob(part), [0, 0, 1])
    assert third not in (first, second) and DirectedJob(part).result(asked) == third


def test_content_that_is_replaced_goes_and_only_the_latest_attempt_keeps(engineer, part, study):
    result = calculate(PROBE, engineer, DirectedJob(part))
    work = running(result)
    keep(PROBE, work, "result", {"zones": []})
    for data in (b"first", b"second"):
        keep(PROBE, work, "view", data)
    result.refresh_from_db()
    assert store.get(result.view) == b"second" and result.result == {"zones": []}
    assert not Blob.objects.filter(size=len(b"first")).exists()
    Work.objects.filter(id=work.id).update(attempt=2)
    with pytest.raises(_Overtaken):
        keep(PROBE, work, "result", {"zones": [1]})
    result.refresh_from_db()
    assert result.result == {"zones": []}


def test_what_has_changed_is_said_in_words(client, engineer, job, part, study):
    result = calculate(WALLS, engineer, DirectedJob(part))
    view = lambda: DirectedJob(type(part).objects.get(id=part.id))
    assert view().changed(WALLS, result) == []
    base = {"plane": {"point": [0, 0, -3], "normal": [0, 0, 1], "tol": 0.05}}
    job.put(regions={"rows": [face("base", base)]})
    job.put(loads=job.get()["job"]["loads"] | {"cases": [case(force("base", "9 N"))]})
    assert view().changed(WALLS, result) == ["loads"]
    renamed = case(force("base", "9 N"), name="called otherwise")
    again = calculate(WALLS, engineer, view())
    job.put(loads=job.get()["job"]["loads"] | {"cases": [renamed]})
    assert view().changed(WALLS, again) == [], "what a case is called changes nothing"
    client.post(
        f"/api/studies/of/{part.id}", {"base": job.get()["version"], "layer": 0.3}, content_type="application/json"
    )
    assert view().changed(WALLS, again) == ["layer height 0.2 → 0.3"]
    assert stage_of(client, part, "walls")["state"] == "stale"


def test_what_an_earlier_result_did_not_know_is_left_aside_and_a_direction_to_a_tenth_of_a_degree_is_one():
    assert changed({"up": [0, 0, 1]}, {"up": [0, 0, 1], "service": {"factor": 2}}) == []
    assert changed({"up": [0, 0, 1]}, {"up": [1e-4, 0, 1]}) == []
    assert changed({"up": [0, 0, 1], "bond": 1.0}, {"up": [0, 1, 0], "bond": 0.8}) == ["direction", "weld of the batch"]
    assert changed({"up": [0, 0, 1]}, {"up": None}) == [], "while directions are studied none is known"
    assert all(known.words for known in INPUTS.values())


def test_a_result_of_another_workshop_is_not_found(engineer, stranger, part, study):
    result = calculate(PROBE, engineer, DirectedJob(part))
    assert result_of(PROBE, engineer, result.id) == result
    with pytest.raises(Refused, match="result"):
        result_of(PROBE, stranger, result.id)


def test_an_open_part_is_refused_before_anything_is_kept(engineer, part, study):
    part.facts = part.facts | {"watertight": False}
    with pytest.raises(Refused, match="no other side"):
        calculate(PROBE, engineer, DirectedJob(part))
    assert not WALLS.rows(part).exists()
