"""The first answer for all directions is on its way as soon as loads and what holds the part are written."""

import pytest
from conftest import stl_bytes
from django.core.files.uploadedfile import SimpleUploadedFile
from test_needs import Job, case, face, force
from test_strength import BASE, HOLD, KNOCK, PUSH, TOP, load

from parts.actions import complete_part, create_part, enqueue_intake
from stages.view import JobView
from strength.actions import calculate_strength
from work.models import Work


@pytest.fixture
def job(client, part, study):
    return Job(client, part)


def answers(part) -> list[tuple[str, bool]]:
    """State of every check's work, oldest first, and whether it is only the first answer."""
    return [
        (c.work.state, bool(c.work.arguments.get("coarse"))) for c in part.strengthanalysis_results.order_by("created")
    ]


def test_writing_loads_and_what_holds_orders_it(job, part, engineer):
    regions = {"rows": [face("base", BASE), face("top", TOP)]}
    assert job.put(regions=regions, requirements={"rows": [HOLD]}).status_code == 200 and answers(part) == []
    loads = {"held": [], "cases": [PUSH, KNOCK]}
    assert job.put(loads=loads).status_code == 200 and answers(part) == [], "nothing holds it yet"
    assert job.put(loads=loads | {"held": [{"id": "h", "on": "base", "how": "fixed"}]}).status_code == 200
    assert answers(part) == [("waiting", True)]
    assert job.put(need={"quantity": 12}).status_code == 200
    assert answers(part) == [("waiting", True)], "what changes no load orders nothing"
    part.refresh_from_db()
    made = calculate_strength(engineer, JobView(part), [[0, 0, 1]])
    assert made == part.strengthanalysis_results.get() and not made.work.arguments["coarse"], (
        "a full check takes its place"
    )


def test_one_for_loads_that_were_written_over_is_called_off(job, part, client):
    load(job)
    load(job, loads={"held": [{"id": "h", "on": "base", "how": "fixed"}], "cases": [case(force("top", "50 N"))]})
    assert answers(part) == [("cancelled", True), ("waiting", True)]
    part.refresh_from_db()
    number = part.sheet.version
    assert (
        client.post(f"/api/sheets/{part.sheet_id}/take-back", {"number": number}, "application/json").status_code == 200
    )
    assert answers(part)[-1] == ("waiting", True) and len(answers(part)) == 3, "undo brings the first loads back"
    assert Work.objects.filter(kind="check", state="waiting").count() == 1


def test_a_revision_that_carries_its_loads_has_it_from_the_start(job, part, engineer, pieces):
    load(job)
    part.refresh_from_db()
    work = enqueue_intake(engineer, SimpleUploadedFile("plate.stl", stl_bytes()), "", "auto", part)
    fresh = create_part(work, pieces | {"regions": part.job["regions"]["rows"]})
    assert answers(fresh) == [], "its faces are still being looked for"
    complete_part(work, fresh, pieces["features"])
    assert answers(fresh) == [("waiting", True)] and answers(part) == [("waiting", True)]


def test_an_open_surface_carries_nothing(job, part):
    part.facts = part.facts | {"watertight": False}
    part.save(update_fields=["facts"])
    load(job)
    assert answers(part) == []
