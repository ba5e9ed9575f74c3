"""Long work in its own process: results, refusals, faults, cancelling, memory. And the store beneath it."""

import os
import signal
import subprocess
import sys
import time
from datetime import timedelta
from pathlib import Path

import pytest
from conftest import beside, directions_of, person, stl_bytes
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import OperationalError, connection, transaction
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob

from parts.actions import create_part, enqueue_intake
from parts.models import Part
from store import actions as store
from store.models import Blob, Chunk
from studies.models import Study
from work.actions import KEPT_ENDED, cancel, forget_ended, requeue_stalled, run_in_child_process
from work.child import Child
from work.computations import Computation, computations
from work.models import Work
from work.tasks import compute

SERVER = Path(__file__).resolve().parent.parent
pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def ines():
    return person("ines", "Alder Reach")


def ordered(user) -> Work:
    return Work.objects.create(workshop=user.workshop, by=user, kind="test")


def stand_in(function, **more) -> Computation:
    given = {"arguments": lambda w: {}, "outcome": lambda w: {"ok": 1}} | more
    return Computation(kind="test", function=f"slow_bridge.{function}", priority=0, **given)


def carry(work, function, **arguments):
    seen = []
    keep = lambda w, name, value: seen.append((name, value))
    run_in_child_process(str(work.id), stand_in(function, keep=keep, arguments=lambda w: arguments))
    work.refresh_from_db()
    return seen


def test_from_file_to_candidates_in_processes_of_their_own(ines):
    work = enqueue_intake(ines, SimpleUploadedFile("plate.stl", stl_bytes()), "", "auto")
    compute(work_id=str(work.id))
    work.refresh_from_db()
    assert work.state == "done", work.problem
    part, study = Part.objects.get(), Study.objects.get()
    assert work.result == {"part": str(part.id), "study": str(study.id)} and part.name == "plate"
    compute(work_id=str(study.work_id))
    study.refresh_from_db()
    assert study.sweep_id and len(study.candidates) >= 6 and study.candidates[0]["tipping_deg"] > 5
    more = Work.objects.create(
        workshop=ines.workshop, by=ines, kind="direction", arguments={"study": str(study.id), "up": [0, 0.6, 0.8]}
    )
    compute(work_id=str(more.id))
    study.refresh_from_db()
    assert [c for c in study.candidates if c["source"] == "typed"]


def test_what_stood_in_another_s_way_is_taken_up_again(ines):
    work = Work.objects.create(workshop=ines.workshop, by=ines, kind="intake")

    def in_the_way(*_):
        raise OperationalError("deadlock detected")

    run_in_child_process(str(work.id), stand_in("count", keep=in_the_way, arguments=lambda w: {"n": 1}))
    work.refresh_from_db()
    assert work.open and requeue_stalled() == 1
    work.refresh_from_db()
    assert work.state == "waiting" and work.attempt == 2


def test_a_sweep_that_came_in_with_the_file_never_replaces_that_of_its_own_study(ines, pieces):
    work = enqueue_intake(ines, SimpleUploadedFile("plate.stl", stl_bytes()), "Plate", "auto")
    study = directions_of(ines, create_part(work, pieces))
    Work.objects.filter(id=work.id).update(state="running", result={"study": str(study.id)})
    work.refresh_from_db()
    work.found = {}
    for sweep in (b"of the file", b"of the file, once more"):
        computations()["intake"].keep(work, "sweep", sweep)
    study.refresh_from_db()
    assert store.get(study.sweep) == b"of the file"


def test_a_bad_file_leaves_nothing_but_its_refusal(ines):
    work = enqueue_intake(ines, SimpleUploadedFile("bad.stl", b" " * 80 + b"\xff\xff\xff\x7f" + b"x" * 500), "", "auto")
    compute(work_id=str(work.id))
    work.refresh_from_db()
    assert work.state == "refused" and work.problem["code"] == "truncated"
    assert (Part.objects.count(), Blob.objects.count(), Chunk.objects.count()) == (0, 0, 0)


def test_results_then_done(ines):
    work = ordered(ines)
    assert carry(work, "count", n=3) == [("n", 0), ("n", 1), ("n", 2)]
    assert work.state == "done" and work.result == {"ok": 1} and work.ended


@pytest.mark.parametrize("function, state", [("break_off", "failed"), ("swell", "refused")])
def test_a_fault_ends_the_task_with_words_and_no_traceback(ines, function, state):
    work = ordered(ines)
    carry(work, function)
    assert work.state == state and work.problem["message"] and "Traceback" not in str(work.problem)


def test_a_process_that_dies_is_no_verdict_until_it_died_three_times(ines):
    work = Work.objects.create(workshop=ines.workshop, by=ines, kind="intake")
    for attempt in (1, 2, 3):
        carry(work, "die")
        assert (work.state, work.attempt) == ("running", attempt), "it will be taken up again"
        requeue_stalled()
        work.refresh_from_db()
        # The queue's entry that stands for it is done with, as the worker that took it would have it.
        ProcrastinateJob.objects.filter(id=work.job).update(status="failed")
    assert work.state == "failed" and work.problem["message"]


def test_content_that_is_damaged_in_the_store_fails_the_task_in_words(ines):
    work = enqueue_intake(ines, SimpleUploadedFile("plate.stl", stl_bytes()), "", "auto")
    Chunk.objects.update(data=b"other content")
    with pytest.raises(ValueError, match="damaged"):
        compute(work_id=str(work.id))
    work.refresh_from_db()
    assert work.state == "failed"
    assert "fault of ours" in work.problem["message"]


def test_cancelling_before_it_begins(ines):
    work = ordered(ines)
    cancel(ines, work.id)
    assert carry(work, "count", n=2) == [] and work.state == "cancelled"


def test_cancelling_ends_the_process_within_a_second(ines):
    work = ordered(ines)

    def later():
        for _ in range(200):
            time.sleep(0.05)
            if Work.objects.get(id=work.id).doing == "turning":
                break
        cancel(ines, work.id)
        asked.append(time.monotonic())

    asked: list[float] = []
    thread = beside(later)
    carry(work, "turn", seconds=60)
    ended = time.monotonic()
    thread.join()
    assert work.state == "cancelled" and ended - asked[0] < 1.5


def left_behind(work: Work, job: str = "doing") -> None:
    """As a worker leaves it that was killed a minute ago."""
    with connection.cursor() as cursor:
        cursor.execute("update procrastinate_jobs set status = %s where id = %s", [job, work.job])
    Work.objects.filter(id=work.id).update(state="running", seen=timezone.now() - timedelta(seconds=60))


def test_work_left_behind_is_taken_up_again_but_not_for_ever(ines):
    work = enqueue_intake(ines, SimpleUploadedFile("plate.stl", stl_bytes()), "", "auto")
    assert requeue_stalled() == 0
    jobs = {work.job}
    for attempt in (2, 3):
        left_behind(work)
        assert requeue_stalled() == 1
        work.refresh_from_db()
        assert (work.state, work.attempt) == ("waiting", attempt)
        jobs.add(work.job)
    assert len(jobs) == 3
    left_behind(work)
    assert requeue_stalled() == 0
    work.refresh_from_db()
    assert work.state == "failed"
    assert work.problem["hint"]


def test_work_that_waits_its_turn_is_left_alone(ines):
    work = enqueue_intake(ines, SimpleUploadedFile("plate.stl", stl_bytes()), "", "auto")
    Work.objects.filter(id=work.id).update(seen=timezone.now() - timedelta(hours=1))
    assert requeue_stalled() == 0


def test_an_overtaken_attempt_stores_nothing(ines):
    work = ordered(ines)
    done = []

    def overtake(w, name, value):
        Work.objects.filter(id=w.id).update(attempt=2, state="waiting")

    more = {"arguments": lambda w: {"n": 2}, "keep": overtake, "outcome": lambda w: done.append(w) or {}}
    run_in_child_process(str(work.id), stand_in("count", **more))
    work.refresh_from_db()
    assert (work.state, work.result, done) == ("waiting", None, [])


def worker(env, log):
    command = [sys.executable, str(SERVER / "manage.py"), "run_worker"]
    return subprocess.Popen(command, env=env, stdout=log, stderr=log, start_new_session=True)


def test_a_second_worker_takes_up_what_a_killed_one_had_in_hand(ines, pieces, tmp_path):
    work = enqueue_intake(ines, SimpleUploadedFile("plate.stl", stl_bytes()), "Plate", "auto")
    with transaction.atomic():
        study = directions_of(ines, create_part(work, pieces))
    with connection.cursor() as cursor:  # only the study is in the queue
        cursor.execute("delete from procrastinate_jobs where id = %s", [work.job])
    db = connection.settings_dict
    words = {"host": "HOST", "port": "PORT", "user": "USER", "password": "PASSWORD", "dbname": "NAME"}
    env = os.environ | {
        "HEWEL_DATABASE": " ".join(f"{k}={db[v]}" for k, v in words.items()),
        "HEWEL_WORK_STALE": "2",
    }
    Work.objects.filter(id=work.id).update(state="done")

    def until(condition, seconds=60):
        for _ in range(seconds * 20):
            if condition():
                return
            time.sleep(0.05)
        raise AssertionError((tmp_path / "log").read_text()[-2000:])

    def state():
        return Work.objects.get(id=study.work_id).state

    with open(tmp_path / "log", "w") as log:
        first = worker(env, log)
        try:
            until(lambda: state() == "running")
            os.killpg(first.pid, signal.SIGKILL)
            first.wait()
            assert state() == "running"
            second, third = worker(env, log), worker(env, log)
            try:
                until(lambda: state() == "done")
            finally:
                for process in (second, third):
                    os.killpg(process.pid, signal.SIGKILL)
                    process.wait()
        finally:
            if first.poll() is None:
                os.killpg(first.pid, signal.SIGKILL)
    study.refresh_from_db()
    assert study.work.attempt == 2
    assert len(study.candidates) >= 6


def test_a_child_that_is_killed_is_noticed():
    with Child(1 << 30) as child:
        child.run("slow_bridge", "turn", {"seconds": 60})
        events = child.events(0.1)
        assert next(e for e in events if e)[0] == "doing"
        child.process.kill()
        assert next(e for e in events if e)[0] == "lost"


def test_one_that_has_ended_before_it_is_told_what_to_do_is_noticed():
    with Child(1 << 30) as child:
        child.process.kill()
        child.process.join()
        child.run("slow_bridge", "turn", {"seconds": 60})
        assert next(e for e in child.events(0.1) if e)[0] == "lost"


def test_a_large_part_that_is_still_being_loaded_is_not_taken_for_abandoned(ines, settings):
    """While its arguments are fetched the worker can tell nothing; others must see all the same that it is at work."""
    settings.WORK_STALE = 0.4
    work = ordered(ines)

    def arguments(w):
        seen = lambda: Work.objects.values_list("seen", flat=True).get(id=w.id)
        signs, until = {seen()}, time.monotonic() + 30
        while len(signs) < 4 and time.monotonic() < until:
            signs.add(seen())
            assert requeue_stalled() == 0
        assert len(signs) == 4, "no sign of life"
        return {"n": 1}

    run_in_child_process(str(work.id), stand_in("count", arguments=arguments))
    work.refresh_from_db()
    assert (work.state, work.attempt) == ("done", 1) and work.result == {"ok": 1}


@pytest.mark.parametrize("size", [0, 1, store.CHUNK - 1, store.CHUNK, 2 * store.CHUNK + 7])
def test_store_gives_back_what_it_was_given(size):
    data = bytes(i * 31 % 251 for i in range(1000)) * (size // 1000 + 1)
    blob = store.put(data[:size])
    assert store.get(blob) == data[:size] and blob.size == size
    assert [len(c.data) for c in blob.chunks.order_by("place")][:-1] == [store.CHUNK] * max(0, blob.chunks.count() - 1)


def test_content_stays_for_whoever_is_about_to_point_to_it():
    blob = store.put(b"the same of two parts")
    with transaction.atomic():
        store.put(b"the same of two parts")
        beside(lambda: store.forget(blob.digest)).join()
    assert Blob.objects.filter(digest=blob.digest).exists()
    assert store.unused(timezone.now()) == [blob.digest]
    store.forget(blob.digest)
    assert not Blob.objects.exists()


def test_content_that_is_just_being_taken_away_is_kept_anew():
    blob = store.put(b"gone and come back")
    with transaction.atomic():
        store.forget(blob.digest)
        again = beside(lambda: store.put(b"gone and come back"))
        waiting = "select count(*) from pg_locks where not granted"
        with connection.cursor() as cursor:
            while cursor.execute(waiting).fetchone()[0] == 0:
                assert again.is_alive(), "it waits for the end of this transaction"
    again.join()
    assert store.get(Blob.objects.get()) == b"gone and come back"


def test_store_notices_damage():
    blob = store.put(b"sound content")
    Chunk.objects.filter(blob=blob).update(data=b"other content")
    with pytest.raises(ValueError, match="damaged"):
        store.get(blob)


def test_what_nobody_waits_for_comes_after_what_people_ask_for(engineer, part):
    priority = lambda study: ProcrastinateJob.objects.get(id=study.work.job).priority
    asked = directions_of(engineer, part)
    cancel(engineer, asked.work_id)
    demo = directions_of(engineer, part, later=True)
    assert priority(demo) < priority(asked)


def test_work_that_ended_long_ago_goes_unless_a_result_is_known_by_it(ines, pieces):
    came = enqueue_intake(ines, SimpleUploadedFile("plate.stl", stl_bytes()), "Gauge plate", "auto")
    study = directions_of(ines, create_part(came, pieces))
    known, unknown, young, waiting = study.work, ordered(ines), ordered(ines), ordered(ines)
    now = timezone.now()
    old = Work.objects.filter(id__in=[known.id, unknown.id])
    old.update(state=Work.State.DONE, ended=now - KEPT_ENDED - timedelta(days=1))
    Work.objects.filter(id=young.id).update(state=Work.State.DONE, ended=now)
    before = set(Work.objects.values_list("id", flat=True))
    assert forget_ended(now) == 1
    assert before - set(Work.objects.values_list("id", flat=True)) == {unknown.id} and waiting.id in before
