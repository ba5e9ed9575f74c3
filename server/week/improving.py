"""The solver behind the week: ordered whenever something changes that it could do better, one search at a time."""

from django.conf import settings
from django.utils import timezone

from accounts.models import User
from accounts.roles import require
from week.models import BetterWeek
from week.view import WeekView
from work.actions import call_off, enqueue
from work.computations import Computation
from work.models import Work

KIND = "week"


def search(user: User) -> Work | None:
    """Somebody wants it searched, late or not."""
    require(user, "edit")
    return improve(user, asked=True)


def improve(user: User, asked: bool = False) -> Work | None:
    """A search for the situation as it is now; whatever still runs for an earlier one is called off. Where nothing is
    late there is nothing to gain that people would wait for, unless it is ``asked`` for.
    """
    for row in Work.objects.filter(workshop=user.workshop_id, kind=KIND, state__in=Work.OPEN):
        call_off(row)
    view = WeekView(user.workshop, timezone.now())
    if not view.week.runs or (view.week.lateness == 0 and not asked):
        return None
    return enqueue(user, KIND, {}, "the week")


def _given(work: Work) -> dict:
    view = WeekView(work.workshop, timezone.now())
    return {
        "week": view.week, "machines": view.planned_on(), "crew": view.crew, "now": view.seconds(view.now),
        "kept": view.kept, "seconds": settings.WEEK_SECONDS, "zero": view.zero.timestamp(),
        "situation": view.situation,
    }  # fmt: skip


def _keep(work: Work, name: str, value: dict) -> None:
    BetterWeek.objects.update_or_create(workshop=work.workshop, defaults=value)


COMPUTATIONS = (
    Computation(kind=KIND, function="week.bridge.improve", arguments=_given, priority=5, limit=300, keep=_keep),
)
