"""Remedies on the server: worked out, left out step by step, taken as a revision that settles findings by itself."""

from base64 import b64decode

import numpy as np
import pytest
from conftest import client_of, computed, person, run_here
from test_needs import Job, face
from test_overhangs import SIDEWAYS, checked, choose

from hewel_engine.io.packing import unpack_solid
from hewel_engine.io.reading import take_in
from parts import bridge as parts_bridge
from parts.actions import complete_part, create_part
from parts.models import Part
from remedies import bridge
from remedies.models import Proposal
from remedies.stage import AFTER_REMEDIES, REMEDIES, protected_of, supports_wanted
from stages.stage import calculate
from store import actions as store
from studies.view import DirectedJob
from work.models import Work


@pytest.fixture
def job(client, part, study):
    return Job(client, part)


@pytest.fixture
def standing(client, job, part, study):
    """The plate on its edge: a wall stands out of it, and its bore lies."""
    choose(client, job, study, SIDEWAYS)
    part.refresh_from_db()
    return part


def worked_out(user, part, steps=None) -> Proposal:
    return computed(REMEDIES, user, part, steps)


def look(client, part) -> dict:
    answer = client.get(f"/api/remedies/of/{part.id}")
    assert answer.status_code == 200, answer.content
    return answer.json()


def taken(client, proposal) -> Part:
    """The revision that a proposal makes, read in as the worker does."""
    answer = client.post(f"/api/remedies/{proposal.id}/take")
    assert answer.status_code == 202, answer.content
    work = Work.objects.get(id=answer.json()["id"])
    before = Part.objects.get(id=work.arguments["revises"])
    known = {"solid": store.get(before.solid), "view": store.get(before.view), "regions": []}
    events = parts_bridge.intake(store.get(proposal.file), "mm", proposal.process, known)
    pieces = {e[1]: e[2] for e in events if e[0] == "result"}
    part = create_part(work, pieces)
    complete_part(work, part, pieces["features"])
    return Part.objects.get(id=part.id)


def test_what_is_worked_out_needs_no_support(client, standing, engineer):
    proposal = worked_out(engineer, standing)
    result = look(client, standing)["proposal"]
    assert result["before"]["wanting"] >= 1 and result["after"]["wanting"] == 0 and result["left"] == []
    assert {row["key"] for row in result["applied"]} >= {"webs"}, "thin walls, and no whole wedge"
    assert 0 < result["changed"] < 0.15 and result["questions"] == []
    added = sum(r["volume_added_mm3"] - r["volume_removed_mm3"] for r in result["applied"])
    assert result["after"]["volume_mm3"] - result["before"]["volume_mm3"] == pytest.approx(added, rel=1e-4)
    assert result["after"]["grams"] > result["before"]["grams"] and result["after"]["seconds"] > 0
    assert result["after"]["reserve"] is None, "there are no loads"
    assert not result["stale_because"] and result["taken"] is None
    view = client.get(f"/api/remedies/{proposal.id}/content/view/{result['view']}")
    assert view.content[:4] == b"HWV2"


def test_the_same_is_not_worked_out_twice_and_another_limit_makes_it_stale(client, job, standing, engineer):
    proposal = worked_out(engineer, standing)
    assert calculate(REMEDIES, engineer, DirectedJob(standing)) == proposal
    other = {"base": job.get()["version"], "limit": 60}
    answer = client.post(f"/api/studies/of/{standing.id}", other, content_type="application/json")
    assert answer.status_code == 202, answer.content
    assert look(client, standing)["proposal"]["stale_because"]


def test_a_step_that_is_switched_off_is_left_out(client, standing, engineer):
    whole = worked_out(engineer, standing)
    steps = look(client, standing)["proposal"]["steps"]
    assert steps and all(s["on"] for s in steps)
    steps[0]["on"] = False
    answer = client.post(f"/api/remedies/of/{standing.id}", {"steps": steps}, content_type="application/json")
    assert answer.status_code == 202
    less = worked_out(engineer, standing, steps)
    assert len(less.result["applied"]) == len(whole.result["applied"]) - 1
    shown = look(client, standing)["proposal"]
    assert [s["on"] for s in shown["steps"]] == [False] + [True] * (len(steps) - 1)


def test_numbers_set_by_hand_are_kept_and_used(client, standing, engineer):
    whole = worked_out(engineer, standing)
    shown = look(client, standing)["proposal"]
    number, row = next((i, r) for i, r in enumerate(shown["applied"]) if r["key"] == "webs")
    lean, thick, pitch = row["parameters"]
    assert (thick["value"], pitch["value"]) == pytest.approx((0.9, 10.0))
    assert (lean["name"], lean["unit"], lean["value"], lean["high"]) == ("lean_deg", "°", 45, 45)
    steps = shown["steps"]
    steps[number]["set"] = {"lean_deg": 30.0}
    proposal = worked_out(engineer, standing, steps)
    row = proposal.result["applied"][number]
    assert row["parameters"][0]["value"] == 30
    assert row["volume_added_mm3"] > 1.05 * whole.result["applied"][number]["volume_added_mm3"]
    assert taken(client, proposal).recipe["steps"][number]["set"] == {"lean_deg": 30.0}


@pytest.mark.parametrize(
    ("numbers", "given"), [({"lean_deg": 70.0}, "not between 5 and 45"), ({"x": 1.0}, "no number")]
)
def test_numbers_that_cannot_be_are_refused(client, standing, engineer, numbers, given):
    worked_out(engineer, standing)
    steps = look(client, standing)["proposal"]["steps"]
    steps[0] |= {"key": "gusset", "set": numbers}
    answer = client.post(f"/api/remedies/of/{standing.id}", {"steps": steps}, content_type="application/json")
    assert answer.status_code == 422 and given in answer.json()["message"]
    answer = client.post(f"/api/remedies/of/{standing.id}/look", steps[0], content_type="application/json")
    assert answer.status_code == 200 and given in answer.json()["why"]


def test_a_remedy_is_looked_at_before_it_is_worked_out(client, standing, engineer):
    proposal = worked_out(engineer, standing)
    step = next(s for s in look(client, standing)["proposal"]["steps"] if s["key"] == "webs")
    seen = []
    for numbers in ({}, {"lean_deg": 30.0}):
        answer = client.post(
            f"/api/remedies/of/{standing.id}/look", step | {"set": numbers}, content_type="application/json"
        )
        assert answer.status_code == 200, answer.content
        seen.append(answer.json())
    done = next(r for r in proposal.result["applied"] if r["key"] == "webs")
    assert seen[0]["words"] == done["words"] and seen[0]["why"] is None
    assert seen[0]["volume_added_mm3"] == pytest.approx(done["volume_added_mm3"], rel=1e-3)
    assert seen[1]["volume_added_mm3"] > 1.05 * seen[0]["volume_added_mm3"]
    corners = np.frombuffer(b64decode(seen[0]["adds"]), "<f4").reshape(-1, 3, 3)
    low, high = np.array(proposal.part.facts["bbox_mm"])
    assert len(corners) > 3 and (corners > low - 20).all() and (corners < high + 20).all()
    stray = step | {"centre_mm": [500.0, 0, 0]}
    answer = client.post(f"/api/remedies/of/{standing.id}/look", stray, content_type="application/json").json()
    assert "only shows once" in answer["why"] and answer["adds"] == ""


def test_another_remedy_can_be_chosen_for_the_same_place(client, job, standing, engineer):
    worked_out(engineer, standing)
    result = look(client, standing)
    assert "membrane" in result["choices"]["bridge"] and result["choices"]["bore_roof"] == [
        "capped_teardrop",
        "teardrop",
    ]
    assert job.put(need=job.get()["job"]["need"] | {"policy": "none"}).status_code == 200
    part = Part.objects.get(id=standing.id)
    assert "pillar" not in look(client, part)["choices"]["ledge"]
    pillar = {"key": "pillar", "kind": "ledge", "centre_mm": result["proposal"]["steps"][0]["centre_mm"], "on": True}
    assert "wants no supports" in worked_out(engineer, part, [pillar]).result["unfit"][0]["why"]


def test_a_recipe_says_what_no_longer_fits(client, standing, engineer):
    stray = {"key": "gusset", "kind": "ledge", "centre_mm": [500.0, 0, 0], "on": True}
    result = worked_out(engineer, standing, [stray]).result
    assert result["applied"] == [] and "found there any more" in result["unfit"][0]["why"]
    assert result["left"], "what hangs still hangs"


def test_the_edges_on_the_plate_are_a_step_like_any_other(client, standing, engineer):
    steps = [{"key": "foot_chamfer", "kind": "plate", "centre_mm": [0.0, 0, 0], "on": True}]
    answer = client.post(f"/api/remedies/of/{standing.id}", {"steps": steps}, content_type="application/json")
    assert answer.status_code == 202, answer.content
    worked_out(engineer, standing, steps)
    (row,) = look(client, standing)["proposal"]["applied"]
    assert row["key"] == "foot_chamfer" and row["volume_removed_mm3"] > 0 == row["volume_added_mm3"]


def test_taken_as_a_revision_findings_settle_by_themselves(client, job, standing, engineer):
    analysis = checked(standing, engineer)
    assert any(r["needs_support"] for r in analysis.truth["regions"])
    proposal = worked_out(engineer, standing)
    revision = taken(client, proposal)
    assert revision.revision == 2 and revision.before == standing
    assert revision.recipe["steps"] == look(client, standing)["proposal"]["steps"]
    assert revision.facts["volume_mm3"] == pytest.approx(proposal.result["after"]["volume_mm3"], rel=1e-6)
    up, chosen = DirectedJob(revision).direction
    assert up == proposal.up and not chosen, "the direction it was adapted for, until somebody chooses"
    again = checked(revision, engineer)
    assert not any(r["needs_support"] for r in again.truth["regions"])
    result = client.get(f"/api/overhangs/of/{revision.id}").json()["analysis"]
    assert {g["state"] for g in result["gone"]} == {"remedied"}
    rows = look(client, revision)["revisions"]
    assert [(r["revision"], r["steps"], r["here"]) for r in rows] == [
        (1, None, False),
        (2, len(proposal.result["applied"]), True),
    ]
    assert rows[1]["wanting"] == 0 < rows[0]["wanting"]
    assert look(client, standing)["proposal"]["taken"] == str(revision.id)


def test_branches_have_numbers_of_their_own(client, standing, engineer):
    first = taken(client, worked_out(engineer, standing))
    steps = first.recipe["steps"]
    second = taken(client, worked_out(engineer, standing, steps[:1] + [s | {"on": False} for s in steps[1:]]))
    assert (first.revision, second.revision) == (2, 3) and second.before == standing
    assert [r["revision"] for r in look(client, second)["revisions"]] == [1, 2, 3]


def test_the_changes_are_told_in_words(client, standing, engineer):
    proposal = worked_out(engineer, standing)
    text = client.get(f"/api/remedies/{proposal.id}/changes").content.decode()
    for row in proposal.result["applied"]:
        assert row["words"] in text
    assert "Overhang limit 45°" in text and "(-1, 0, 0)" in text


def test_the_changed_part_is_a_closed_file(standing, engineer):
    proposal = worked_out(engineer, standing)
    got = take_in(store.get(proposal.file), "auto")
    assert got.mesh.closed and got.warnings == []
    assert got.mesh.volume == pytest.approx(proposal.result["after"]["volume_mm3"], rel=1e-6)


def test_a_protected_face_is_left_alone(client, job, standing, engineer):
    """The plate's side below the wall that stands out: a gusset would lie on it."""
    before = worked_out(engineer, standing)
    low = {"plane": {"point": [0, 0, 3], "normal": [0, 0, 1], "tol": 0.05}}
    touching = {"rows": [{"id": "t", "on": "seal", "duty": "no_scar"}]}
    assert job.put(regions={"rows": [face("seal", low)]}, touching=touching).status_code == 200
    standing = Part.objects.get(id=standing.id)
    assert protected_of(standing)
    assert look(client, standing)["proposal"]["stale_because"], "another face is protected now"
    after = worked_out(engineer, standing)
    assert "webs" in {r["key"] for r in before.result["applied"]}
    given = [w for row in after.result["left"] for w in row["why"]]
    down = lambda result: sum(r["volume_added_mm3"] for r in result["applied"] if r["key"] in ("gusset", "webs"))
    assert down(after.result) < down(before.result) or after.result["left"]
    assert any("must stay as it is" in w for w in given) or after.result["applied"]


def test_a_space_that_stays_free_counts_and_makes_what_was_worked_out_stale(client, job, standing, engineer):
    """Below the wall that stands out runs a belt; a mating part of the workshop may sit there as well."""
    worked_out(engineer, standing)
    low, high = np.array(standing.facts["bbox_mm"])
    belt = {"id": "s", "name": "belt", "kind": "box", "low": (low - 5).tolist(), "high": (high + 5).tolist()}
    assert job.put(spaces={"rows": [belt]}).status_code == 200
    standing = Part.objects.get(id=standing.id)
    assert look(client, standing)["proposal"]["stale_because"]
    result = worked_out(engineer, standing).result
    added = [r for r in result["applied"] if r["volume_added_mm3"] > 0.1]
    assert added == [] and any("“belt”" in w for row in result["left"] for w in row["why"])
    drawn = client.get(f"/api/needs/{standing.id}/spaces").json()
    assert {"belt"} == {row["name"] for row in drawn if not row["likely"]} and drawn[0]["corners"]
    beside = belt | {"kind": "body", "part": str(standing.id), "shift": [0, 0, 500], "way": [0, 0, -460]}
    assert job.put(spaces={"rows": [beside]}).status_code == 200
    standing = Part.objects.get(id=standing.id)
    assert look(client, standing)["proposal"]["stale_because"] and worked_out(engineer, standing).result["after"]
    turn = {"about": [0, 0, 500], "axis": [0, 0, 1], "degrees": 90}
    assert job.put(spaces={"rows": [beside | {"way": [0, 0, 0], "turn": turn}]}).status_code == 200
    rows = client.get(f"/api/needs/{standing.id}/spaces").json()
    (turned,) = (np.frombuffer(b64decode(row["corners"]), "<f4") for row in rows if row["name"] == "belt")
    far = np.hypot(*np.abs([low, high]).max(axis=0)[:2])
    assert turned[::3].max() == pytest.approx(far, rel=0.02), "a quarter round it reaches as far as its corners"


@pytest.mark.parametrize(
    ("row", "given"),
    [
        ({"kind": "box", "low": [0, 0, 0]}, "two corners"), ({"kind": "near", "distance": "3 mm"}, "Point at the face"),
        ({"kind": "front", "on": "gone", "distance": "3 mm"}, "acts on no face"),
        ({"kind": "body"}, "Choose the part"),
        ({"kind": "body", "part": "p", "turn": {"about": [0, 0, 0], "axis": [0, 0, 0], "degrees": 9}}, "An axis needs"),
        ({"kind": "box", "low": [0, 0, 0], "high": [0, 1, 1]}, "encloses nothing"),
    ],
)  # fmt: skip
def test_a_space_that_cannot_be_is_refused(job, standing, row, given):
    answer = job.put(spaces={"rows": [{"id": "s", "name": "belt", **row}]})
    assert answer.status_code == 422 and given in answer.json()["message"] + answer.json()["hint"]


def test_how_much_remedies_may_change_is_the_jobs(client, job, standing, engineer):
    before = worked_out(engineer, standing).result
    need = job.get()["job"]["need"]
    assert need["most_change"] == 0.15
    assert job.put(need=need | {"most_change": before["changed"] / 2}).status_code == 200
    result = worked_out(engineer, Part.objects.get(id=standing.id)).result
    assert result["changed"] <= before["changed"] / 2
    assert any("is the most that steps together may" in w for row in result["left"] for w in row["why"])
    better = look(client, standing)["proposal"]["better"]
    assert better["needing_area_mm2"] < 1 and better["words"].startswith("Better: stand it ")
    assert worked_out(engineer, standing, result["applied"]).result["better"] is None, "who asks for steps has decided"


def test_the_policy_of_the_job_counts(client, job, standing, engineer):
    worked_out(engineer, standing)
    assert supports_wanted(standing.job)
    assert job.put(need=job.get()["job"]["need"] | {"policy": "none"}).status_code == 200
    part = Part.objects.get(id=standing.id)
    assert not supports_wanted(part.job) and look(client, part)["proposal"]["stale_because"]


def test_who_may_not_edit_may_look(part, study, engineer):
    viewer = person("wim", engineer.workshop.name)
    viewer.role = "viewer"
    viewer.save()
    seen = client_of(viewer)
    assert seen.get(f"/api/remedies/of/{part.id}").status_code == 200
    answer = seen.post(f"/api/remedies/of/{part.id}", {}, content_type="application/json")
    assert answer.status_code == 403


def test_refusals_are_in_words(client, standing, engineer):
    bad = {"steps": [{"key": "nonesuch", "kind": "ledge", "centre_mm": [0, 0, 0]}]}
    answer = client.post(f"/api/remedies/of/{standing.id}", bad, content_type="application/json")
    assert answer.status_code == 422 and "no remedy 'nonesuch'" in answer.json()["message"]
    proposal = calculate(REMEDIES, engineer, DirectedJob(standing))
    assert client.post(f"/api/remedies/{proposal.id}/take").status_code == 409


def test_directions_are_ranked_by_what_is_left_after_remedies(client, part, study, engineer):
    assert after(client, part) == {"work": None, "stale_because": [], "rows": []}
    made = calculate(AFTER_REMEDIES, engineer, DirectedJob(part))
    assert calculate(AFTER_REMEDIES, engineer, DirectedJob(part)) == made, "once is enough"
    solid = store.get(part.solid)
    low = float(unpack_solid(solid).vertices[:, 2].min())
    under = {"box": [[-1e3, -1e3, low - 0.01], [1e3, 1e3, low + 0.01]]}
    heavy = {"fixed": [{"on": under}], "cases": [{"name": "weight", "loads": [{"acceleration_g": [0, 0, -50]}]}]}
    run_here(made.work, ups=made.ups[:4], loads=heavy)
    result = after(client, part)
    assert not result["stale_because"] and len(result["rows"]) == 4
    rows = result["rows"]
    assert [r["rank_after"] for r in rows] == sorted(r["rank_after"] for r in rows)
    assert {r["rank"] for r in rows} == {1, 2, 3, 4} and all(r["words"] and r["up_words"] for r in rows)
    made.refresh_from_db()
    assert made.rows and all(0.2 < row["held"] < 5 for row in made.rows), (
        "what a remedy changes of the reserve, on like grids"
    )
    assert any(row["held"] != 1 for row in made.rows) and all(r["reserve"] is None for r in rows), "there is no check"
    checked = [c | {"reserve": 0.5} for c in made.part.study_results.get().candidates]
    assert [r["reserve"] / 0.5 for r in bridge.placed(checked, made.rows)] == pytest.approx(
        [next(m["held"] for m in made.rows if m["up"] == r["up"]) for r in bridge.placed(checked, made.rows)]
    )
    answer = client.post(f"/api/remedies/after/{part.id}")
    assert answer.status_code == 202
    assert Job(client, part).put(need=Job(client, part).get()["job"]["need"] | {"policy": "none"}).status_code == 200
    assert after(client, Part.objects.get(id=part.id))["stale_because"], "supports count no longer"


def after(client, part) -> dict:
    answer = client.get(f"/api/remedies/after/{part.id}")
    assert answer.status_code == 200, answer.content
    return answer.json()


def test_every_remedy_has_a_title_and_says_what_it_asks_of_a_hand(client):
    rows = {r["key"]: r for r in client.get("/api/remedies").json()}
    assert set(rows) == set(bridge.KEYS) and all(r["title"] for r in rows.values())
    assert "eye protection" in rows["sprue"]["hand"] and rows["gusset"]["hand"] == ""
    assert rows["hollow"]["from_core"] and not rows["ribs"]["from_core"]
