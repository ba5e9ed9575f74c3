"""Once the directions of a part are known, its layers are checked and its walls measured without anybody looking."""

import pytest
from conftest import directions_of

from desk.looks import LOOKS
from parts.models import Part
from work.actions import follow_ups, order_follow_ups
from work.models import Work


def follow(work: Work) -> list[tuple[str, bool]]:
    """Kinds of what is waiting after the work has been followed up, and whether nobody waits for it."""
    for follow_up in follow_ups(work.kind):
        follow_up(work)
    waiting = Work.objects.filter(state=Work.State.WAITING).exclude(id=work.id).exclude(kind="intake")
    return sorted((w.kind, bool(w.arguments.get("later"))) for w in waiting)


def test_a_part_has_its_first_looks_once(part, study, engineer):
    work = directions_of(engineer, part).work
    assert follow(work) == [("gauge", False), ("walk", False)]
    assert follow(work) == [("gauge", False), ("walk", False)], "once is enough"


def test_nobody_waits_for_the_looks_at_the_demo(part, study, engineer):
    work = directions_of(engineer, part).work
    work.arguments |= {"later": True}
    assert follow(work) == [("gauge", True), ("walk", True)]


def test_another_direction_is_looked_at_as_soon_as_it_is_chosen(client, part, study, engineer):
    follow(directions_of(engineer, part).work)
    first = {stage.key: stage.rows(part).first().up for stage in LOOKS}
    other = next(c for c in study.candidates if c["up"] != first["walls"])
    base = client.get(f"/api/parts/{part.id}").json()["version"]
    body = {"base": base, "up": other["up"], "reason": "it stands better"}
    answer = client.post(f"/api/studies/{study.id}/choice", body, content_type="application/json")
    assert answer.status_code in (200, 201), answer.content
    assert all(stage.rows(part).first().up == other["up"] for stage in LOOKS) and len(first) == 2


@pytest.mark.parametrize("change", ["open", "binned"])
def test_what_has_no_inside_or_is_in_the_bin_is_not_looked_at(part, study, engineer, change):
    work = directions_of(engineer, part).work
    if change == "open":
        Part.objects.filter(id=part.id).update(facts=part.facts | {"watertight": False})
    else:
        part.sheet.struck = part.sheet.created
        part.sheet.save()
    assert follow(work) == []


def test_other_work_has_no_follow_up():
    assert follow_ups("intake") == [] and follow_ups("study")


def test_whoever_has_lost_the_right_meanwhile_orders_nothing_and_breaks_nothing(part, study, engineer):
    work = directions_of(engineer, part).work
    engineer.role = "viewer"
    engineer.save()
    order_follow_ups(Work.objects.get(id=work.id), work.kind)
    assert not Work.objects.filter(state=Work.State.WAITING).exclude(id=work.id).exclude(kind="intake")
