"""Looking at long work, and cancelling it."""

from datetime import datetime
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema

from hewel.refusal import Problem
from work import actions

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
    created: datetime


@router.get("/{work_id}", response={200: WorkOut, 404: Problem}, operation_id="get_work")
def get_work(request: HttpRequest, work_id: UUID):
    return actions.find(request.user, work_id)


@router.post(
    "/{work_id}/cancel", response={200: WorkOut, 403: Problem, 404: Problem, 409: Problem}, operation_id="cancel_work"
)
def cancel_work(request: HttpRequest, work_id: UUID):
    return actions.cancel(request.user, work_id)
