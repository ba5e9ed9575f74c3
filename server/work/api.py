"""Looking at long work, and cancelling it."""

from datetime import datetime
from typing import Literal
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema

from hewel.refusal import Problem
from work import actions, queries

router = Router(tags=["work"])


class WorkOut(Schema):
    id: UUID
    kind: str
    state: str
    done: int
    total: int
    doing: str
    problem: Problem | None
    result: dict | None
    note: str
    created: datetime


class QueueRow(Schema):
    id: UUID
    words: str
    """What kind of work it is."""
    kind: str
    title: str
    """What it is of."""
    part: UUID | None
    by: str
    state: str
    doing: str
    done: int
    total: int
    lane: Literal["quick", "long"]
    place: int | None
    """In the line before the workers of its lane, other workshops' work counted; None where it is not known or runs."""
    created: datetime
    started: datetime | None


@router.get("", response=list[QueueRow], operation_id="list_queue")
def list_queue(request: HttpRequest):
    """The workshop's open work, in the order in which it is taken."""
    return queries.queue_of(request.user)


@router.get("/{work_id}", response={200: WorkOut, 404: Problem}, operation_id="get_work")
def get_work(request: HttpRequest, work_id: UUID):
    return actions.find(request.user, work_id)


@router.post(
    "/{work_id}/cancel", response={200: WorkOut, 403: Problem, 404: Problem, 409: Problem}, operation_id="cancel_work"
)
def cancel_work(request: HttpRequest, work_id: UUID):
    return actions.cancel(request.user, work_id)
