"""Who is taken when: first answers before long work, workshops in turn, nothing for ever."""

from datetime import timedelta

import pytest
from conftest import client_of, directions_of, person, stl_bytes
from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob
from test_strength import load

from hewel.refusal import Refused
from parts.actions import enqueue_intake
from stages.view import JobView
from strength.actions import calculate_strength, first_answer
from work.actions import _look_up, enqueue
from work.models import Work


def brought_in(user, name="Plate") -> Work:
    return enqueue_intake(user, SimpleUploadedFile("plate.stl", stl_bytes()), name, "auto")


def line(lane: str) -> list[str]:
    """Whose work the workers of a lane take, in their order."""
    jobs = ProcrastinateJob.objects.filter(status="todo", queue_name=lane)
    order = [j.id for j in sorted(jobs, key=lambda j: (-j.priority, j.id))]
    by_job = {w.job: w.by.username for w in Work.objects.select_related("by")}
    return [by_job[job] for job in order]


@pytest.fixture
def job(client, part, study):
    from test_needs import Job

    return Job(client, part)


def test_first_answers_do_not_stand_behind_long_work(job, part, engineer):
    load(job)
    part.refresh_from_db()
    first_answer(engineer, part)
    assert Work.objects.get(kind="check").lane == "quick" == brought_in(engineer).lane
    calculate_strength(engineer, JobView(part), [[0, 0, 1]])
    full = Work.objects.filter(kind="check").latest("created")
    assert full.lane == "long" and not full.arguments["coarse"]
    assert Work.objects.get(kind="stand").lane == "long"
    assert enqueue(engineer, "intake", {"later": True}).lane == "long", "nobody waits for it"
    assert directions_of(engineer, part).work.lane == "quick"


def test_workshops_take_turns(engineer):
    wim = person("wim", "Otter Weir")
    for _ in range(4):
        brought_in(engineer)
    brought_in(wim)
    brought_in(wim)
    assert line("quick") == ["ines", "wim", "ines", "wim", "ines", "ines"]


def test_the_queue_tells_place_and_whose_it_is(client, engineer):
    wim = person("wim", "Otter Weir")
    brought_in(wim)
    mine = brought_in(engineer, "Gauge plate")
    going = brought_in(engineer, "Sill")
    Work.objects.filter(id=going.id).update(state="running", started=timezone.now(), doing="reading")
    ProcrastinateJob.objects.filter(id=going.job).update(status="doing")
    rows = client.get("/api/work").json()
    assert [(r["title"], r["state"], r["place"]) for r in rows] == [
        ("Sill", "running", None),
        ("Gauge plate", "waiting", 2),
    ]
    assert rows[0]["words"] == "import" and rows[0]["doing"] == "reading" and rows[1]["by"] == "Ines"
    assert [r["title"] for r in client_of(wim).get("/api/work").json()] == ["Plate"], "nobody sees another's"
    assert client.post(f"/api/work/{mine.id}/cancel").status_code == 200
    assert [r["title"] for r in client.get("/api/work").json()] == ["Sill"]


def test_the_same_file_is_noticed(client, engineer, part):
    again = brought_in(engineer, "Plate once more")
    assert again.note == f"The same file is here already, as “{part.name}”."
    other = person("wim", "Otter Weir")
    assert brought_in(other).note == "", "what another workshop has is nobody's business"


def test_what_takes_too_long_says_so_before_and_is_broken_off(engineer):
    work = brought_in(engineer)
    Work.objects.filter(id=work.id).update(state="running")
    work.refresh_from_db()
    work.started = timezone.now() - timedelta(seconds=900)
    _look_up(work, ("doing", 1, 4, "cutting"), 1000)
    work.refresh_from_db()
    assert work.doing == "cutting (broken off in 2 min)"
    work.started = timezone.now() - timedelta(seconds=1001)
    with pytest.raises(Refused, match="longer than the 16 minutes"):
        _look_up(work, ("doing", 1, 4, "cutting"), 1000)
