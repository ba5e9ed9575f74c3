"""Ordering, running and cancelling long work."""

import logging
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime, timedelta
from threading import Event, Thread
from uuid import UUID

from django.conf import settings
from django.db import OperationalError, connection, transaction
from django.dispatch import Signal
from django.utils import timezone
from procrastinate.contrib.django.django_connector import DjangoConnector
from procrastinate.contrib.django.models import ProcrastinateJob
from procrastinate.jobs import Job
from procrastinate.manager import JobManager

from accounts.models import User
from accounts.roles import require
from audit.actions import record
from hewel.refusal import Refused, not_found
from store.actions import not_pointed_to
from work.child import Child
from work.computations import Computation, computations, follow_ups
from work.models import Work

log = logging.getLogger(__name__)
MOST_ATTEMPTS = 3  # a task that ends its worker every time is at fault itself
TASK = "work.compute"
"""The queue knows one task; which computation it is says the row."""
TOLD_BEFORE = 0.2
"""Share of its time limit before which work says how long it still may take."""
MOST_TURNS = 40
LATER = 60
"""What nobody waits for (arguments marked ``later``: the demo's own parts) comes after all that people ask for."""
LOOK_UP = 0.25  # seconds between looks at whether somebody cancelled
SIGN_OF_LIFE = timedelta(seconds=1)
"""Time after which a worker that has nothing new to say writes that it is there."""
POLITE, PATIENT = 3, 15
"""How nice work is to what else computes: quick work, which somebody waits for, and long work, which gives way to it
(a process of the greater niceness gets a fifteenth of a core that both want); to web pages both do.
"""


def enqueue(user: User, kind: str, arguments: dict, title: str = "", part: UUID | None = None, note: str = "") -> Work:
    """A row that people see, and a job that a worker takes; both or neither. ``title``: what it is of, in words;
    ``part``: whose page shows what comes of it; ``note``: what whoever orders it should know at once.
    """
    with transaction.atomic():
        work = Work.objects.create(
            workshop=user.workshop,
            by=user,
            kind=kind,
            arguments=arguments,
            title=title[:120],
            part=part,
            note=note[:200],
        )
        _queue(work)
    return work


over = Signal()
"""``work`` has ended, however; sent by the worker that had it."""


def _queue(work: Work) -> None:
    """Queues through Django's own connection, a worker's too, so that row and job are committed together."""
    computation, later = computations()[work.kind], bool(work.arguments.get("later"))
    lane = "quick" if computation.quick(work) and not later else "long"
    # Workshops take turns: each further piece of one workshop's work stands a step behind the others'.
    waiting = Work.objects.filter(workshop=work.workshop_id, state=Work.State.WAITING, lane=lane)
    turn = waiting.exclude(id=work.id).count()
    work.lane = lane
    entry = Job(
        queue=lane,
        lock=None,
        queueing_lock=None,
        task_name=TASK,
        task_kwargs={"work_id": str(work.id)},
        priority=computation.priority - min(turn, MOST_TURNS) - (LATER if later else 0),
    )
    work.job = JobManager(DjangoConnector()).defer_job(entry).id
    work.save(update_fields=["job", "lane"])


def requeue_stalled() -> int:
    """Orders anew what no living worker has in hand: its worker was killed, or stopped in the middle. How many."""
    stale = Work.objects.filter(
        state__in=Work.OPEN,
        seen__lt=timezone.now() - timedelta(seconds=settings.WORK_STALE),
    )
    taken = 0
    for work_id in stale.values_list("id", flat=True):
        with transaction.atomic():
            work = stale.select_for_update(skip_locked=True).filter(id=work_id).first()
            if work is None or ProcrastinateJob.objects.filter(id=work.job, status="todo").exists():
                continue
            if work.attempt >= MOST_ATTEMPTS:
                _end(work, Work.State.FAILED, problem=_defect())
                continue
            work.state, work.seen, work.attempt = Work.State.WAITING, timezone.now(), work.attempt + 1
            work.save(update_fields=["state", "seen", "attempt"])
            _queue(work)
            log.warning("work %s is taken up again, attempt %d", work.id, work.attempt)
            taken += 1
    return taken


def find(user: User, work_id: UUID | str) -> Work:
    work = Work.objects.filter(id=work_id, workshop=user.workshop_id).first()
    if work is None:
        raise not_found("task")
    return work


def cancel(user: User, work_id: UUID | str) -> Work:
    """Asks for an end; a task that has not begun ends at once, a running one within a second."""
    require(user, "edit")
    with transaction.atomic():
        work = Work.objects.select_for_update().filter(id=work_id, workshop=user.workshop_id).first()
        if work is None:
            raise not_found("task")
        if not call_off(work):
            raise Refused("ended", f"This task is already {work.state}.", "Nothing was changed.")
        record(user, "cancelled", work, after={"kind": work.kind})
    return work


@transaction.atomic
def call_off(work: Work) -> bool:
    """Asks for an end, see ``cancel``; False where it has ended already."""
    work.refresh_from_db(from_queryset=Work.objects.select_for_update())
    if not work.open:
        return False
    work.cancel_asked = True
    if work.state == Work.State.WAITING:
        work.state, work.ended = Work.State.CANCELLED, timezone.now()
    work.save(update_fields=["cancel_asked", "state", "ended"])
    return True


def run_in_child_process(work_id: str, computation: Computation) -> None:
    """Runs the bridge function of a computation in a process of its own and keeps the row up to date."""
    with transaction.atomic():
        work = Work.objects.select_for_update().get(id=work_id)
        if not work.open:
            return
        work.found = {}
        work.state, work.doing, work.seen = Work.State.RUNNING, "starting", timezone.now()
        work.started = work.seen
        work.save(update_fields=["state", "doing", "seen", "started"])
    try:
        with Child(settings.TASK_MEMORY, POLITE if work.lane == "quick" else PATIENT) as child:
            with _alive(work):
                module, function = computation.function.rsplit(".", 1)
                child.run(module, function, computation.arguments(work))
            for event in child.events(LOOK_UP):
                _take_in(work, event, computation)
    except _Cancelled:
        _end(work, Work.State.CANCELLED)
    except _Overtaken:
        log.warning("work %s went on elsewhere", work.id)
    except Refused as error:
        _end(work, Work.State.REFUSED, problem=error.as_dict())
    except OperationalError as error:
        # The database was away, or two pieces of work stood in each other's way: neither is a fault of this one.
        connection.close()
        _leave_to_others(work, str(error).splitlines()[0])
    except Exception:
        _end(work, Work.State.FAILED, problem=_defect())
        raise
    finally:
        work.refresh_from_db()
        if not work.open:
            computation.ended(work)
            over.send(Work, work=work)


def _take_in(work: Work, event: tuple | None, computation: Computation) -> None:
    if event is None or event[0] == "doing":
        _look_up(work, event, computation.limit)
    elif event[0] == "result":
        computation.keep(work, event[1], event[2])
    elif event[0] == "done":
        with transaction.atomic():
            if _locked(work) is not None:
                _end(work, Work.State.DONE, result=computation.outcome(work))
                order_follow_ups(work, computation.kind)
    elif event[0] == "lost":
        # Its process was killed, or this worker is being stopped: no fault of the task's.
        _leave_to_others(work, event[1])
    elif event[0] == "refused":
        _end(work, Work.State.REFUSED, problem=event[1])
    else:
        log.error("work %s failed: %s", work.id, event[1])
        _end(work, Work.State.FAILED, problem=_defect())


def _leave_to_others(work: Work, why: str) -> None:
    """The work is taken up again as if its worker had been silent for long; its attempts are counted."""
    log.warning("work %s: %s", work.id, why)
    row = Work.objects.filter(id=work.id, attempt=work.attempt, state=Work.State.RUNNING)
    row.update(seen=timezone.now() - timedelta(seconds=settings.WORK_STALE))


def order_follow_ups(work: Work, kind: str) -> None:
    """In one with the end of the work: it is never done without what follows being ordered. Whoever ordered it may have
    lost the right to order more.
    """
    for follow_up in follow_ups(kind):
        try:
            with transaction.atomic():
                follow_up(work)
        except Refused as error:
            log.info("work %s is not followed up: %s", work.id, error)


@contextmanager
def _alive(work: Work) -> Iterator[None]:
    """Signs of life, by a thread with a connection of its own, while a large part is loaded and sent: this one cannot
    give any meanwhile, and the work would be taken for abandoned.
    """
    over = Event()

    def sign() -> None:
        while not over.wait(settings.WORK_STALE / 4):
            Work.objects.filter(id=work.id, attempt=work.attempt).update(seen=timezone.now())
        connection.close()

    thread = Thread(target=sign, daemon=True)
    thread.start()
    try:
        yield
    finally:
        over.set()
        thread.join()


class _Cancelled(Exception):
    pass


class _Overtaken(Exception):
    """Another worker has taken the work up; what this one finds is no longer wanted."""


def _locked(work: Work) -> Work | None:
    """The row, locked until the transaction ends; None where a later attempt has taken the work over."""
    mine = Work.objects.select_for_update().filter(id=work.id, attempt=work.attempt, state=Work.State.RUNNING)
    return mine.first()


@contextmanager
def owned_attempt(work: Work) -> Iterator[Work]:
    """A transaction for storing something on the way; breaks the task off where another worker has taken it over."""
    with transaction.atomic():
        ours = _locked(work)
        if ours is None:
            raise _Overtaken
        yield ours


def tell(work: Work, result: dict) -> None:
    """Says the outcome, or its first part, before the work is done."""
    Work.objects.filter(id=work.id, attempt=work.attempt).update(result=result)


def _defect() -> dict:
    return {
        "code": "defect",
        "message": "The computation broke off through a fault of ours.",
        "hint": "Nothing was lost. Try once more; if it happens again, keep the file for us.",
    }


def _look_up(work: Work, event: tuple | None, limit: int) -> None:
    progress = {} if event is None else dict(zip(("done", "total", "doing"), event[1:], strict=True))
    left = limit - (timezone.now() - work.started).total_seconds()
    if left <= 0:
        raise Refused(
            "too_long",
            f"It took longer than the {limit // 60} minutes that such work may take, and was broken off.",
            "Nothing of before was lost. Try it with a simpler part, or with fewer steps at once.",
        )
    if left < TOLD_BEFORE * limit and "doing" in progress:
        progress["doing"] += f" (broken off in {left / 60:.0f} min)"
    row = Work.objects.filter(id=work.id, attempt=work.attempt, state=Work.State.RUNNING)
    now = timezone.now()
    if any(getattr(work, name) != value for name, value in progress.items()) or now - work.seen > SIGN_OF_LIFE:
        row.update(seen=now, **progress)
        work.seen = now
        for name, value in progress.items():
            setattr(work, name, value)
    cancelled = row.values_list("cancel_asked", flat=True).first()
    if cancelled is None:
        raise _Overtaken
    if cancelled:
        raise _Cancelled


def _end(work: Work, state: str, problem: dict | None = None, result: dict | None = None) -> None:
    outcome = {"result": result} if result is not None else {}
    Work.objects.filter(id=work.id, attempt=work.attempt).update(
        state=state, problem=problem, doing="", ended=timezone.now(), **outcome
    )


KEPT_ENDED = timedelta(days=30)
"""For so long it can be looked up how work ended of which nothing is left."""


def forget_ended(now: datetime) -> int:
    """Removes work that ended long ago, unless a result is known by it. How many."""
    return not_pointed_to(Work.objects.filter(ended__lt=now - KEPT_ENDED)).delete()[0]
