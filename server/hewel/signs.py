"""What somebody who keeps Hewel running looks at: whether it works, and figures in the open text format of metrics."""

import os
import shutil
import time
from datetime import timedelta
from pathlib import Path

from django.conf import settings
from django.db import DatabaseError
from django.db.models import Count
from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from django.utils.crypto import constant_time_compare
from django.views.decorators.http import require_safe
from procrastinate.contrib.django.models import ProcrastinateWorker

from work.models import Work

LANES = ("quick", "long")
ALIVE = timedelta(seconds=40)
"""A worker that has given no sign for so long is none."""
STARTED = timezone.now()
"""Of this server: its workers are started beside it and give no sign at once."""
LEAST_FREE = 2 * 2**30
"""Bytes on the disc below which it says so."""
OLDEST_BACKUP = timedelta(hours=26)
LONGEST_QUICK = 120
"""Seconds that a first answer may wait before that is worth saying."""


def _waited(lane: str) -> float:
    """Seconds that the oldest waiting work of a lane has waited."""
    rows = Work.objects.filter(lane=lane, state=Work.State.WAITING).order_by("created")
    oldest = rows.values_list("created", flat=True).first()
    return (timezone.now() - oldest).total_seconds() if oldest else 0.0


def _workers() -> int:
    return ProcrastinateWorker.objects.filter(last_heartbeat__gt=timezone.now() - ALIVE).count()


def _free() -> int:
    return shutil.disk_usage(settings.WEB_DIST).free


def _backup_age() -> float | None:
    """Seconds since the newest backup; None where there is none, or nobody keeps this server who would make them."""
    folder = os.environ.get("HEWEL_BACKUPS")
    ages = [time.time() - f.stat().st_mtime for f in Path(folder).glob("*.hewel")] if folder else []
    return min(ages, default=None)


def _figures() -> dict[str, float]:
    """Names as they stand in the metrics. Raises DatabaseError."""
    out: dict[str, float] = {"hewel_workers": _workers(), "hewel_disc_free_bytes": _free()}
    out |= {f'hewel_oldest_waiting_seconds{{lane="{lane}"}}': _waited(lane) for lane in LANES}
    if (age := _backup_age()) is not None:
        out["hewel_backup_age_seconds"] = age
    open_work = {f'hewel_work{{lane="{lane}",state="{state}"}}': 0.0 for lane in LANES for state in Work.OPEN}
    ended = {f'hewel_work_ended_total{{state="{state}"}}': 0.0 for state in (Work.State.DONE, *Work.BROKEN_OFF)}
    for lane, state, count in Work.objects.order_by().values_list("lane", "state").annotate(Count("id")):
        if state in Work.OPEN:
            open_work[f'hewel_work{{lane="{lane}",state="{state}"}}'] = count
        else:
            ended[f'hewel_work_ended_total{{state="{state}"}}'] += count
    return out | open_work | ended


def troubles() -> list[str]:
    """What is worth saying. Raises DatabaseError."""
    said, free, waited = [], _free(), _waited("quick")
    if not _workers() and timezone.now() - STARTED > ALIVE:
        said.append("no worker gives a sign of life: nothing is calculated")
    if free < LEAST_FREE:
        said.append(f"only {free / 2**30:.1f} GiB are free on the disc")
    if (age := _backup_age()) is not None and age > OLDEST_BACKUP.total_seconds():
        said.append(f"the last backup is {age / 3600:.0f} hours old")
    if waited > LONGEST_QUICK:
        said.append(f"a first answer has been waiting for {waited:.0f} s")
    return said


def _told(words: str, status: int = 200) -> HttpResponse:
    """Whoever started this server knows it by the name it was given."""
    headers = {"Hewel-Instance": os.environ.get("HEWEL_INSTANCE", "")}
    return HttpResponse(words + "\n", status=status, content_type="text/plain", headers=headers)


@require_safe
def healthy(request: HttpRequest) -> HttpResponse:
    """“ok” while the page can be answered, with what is worth knowing below; 503 without a database."""
    try:
        lines = ["ok", *troubles()]
    except DatabaseError:
        return _told("the database does not answer", status=503)
    return _told("\n".join(lines))


@require_safe
def metrics(request: HttpRequest) -> HttpResponse:
    """Figures for whoever asks from this machine, or with the token that was set for it."""
    token = os.environ.get("HEWEL_METRICS_TOKEN", "")
    given = request.headers.get("Authorization", "").removeprefix("Bearer ")
    near = request.META.get("REMOTE_ADDR") in ("127.0.0.1", "::1") and "X-Forwarded-For" not in request.headers
    if not near and not (token and constant_time_compare(given, token)):
        return HttpResponse(
            "metrics are for this machine, or need their token\n", status=403, content_type="text/plain"
        )
    lines = [f"{name} {value:g}" for name, value in _figures().items()]
    return HttpResponse("\n".join(lines) + "\n", content_type="text/plain; version=0.0.4")
