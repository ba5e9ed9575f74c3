"""The history of a record, and taking edits back."""

from datetime import datetime
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema

from hewel.refusal import Edition, Problem
from sheets import actions, queries

router = Router(tags=["sheets"])


class EditionOut(Schema):
    number: int
    words: str
    takes_back: int | None
    in_force: bool
    by: str
    at: datetime


class HistoryOut(Schema):
    version: int
    struck: datetime | None
    editions: list[EditionOut]


class TakeBack(Schema):
    number: Edition


def _out(sheet) -> dict:
    return {"version": sheet.version, "struck": sheet.struck, "editions": queries.history(sheet)}


@router.get("/{sheet_id}/history", response={200: HistoryOut, 404: Problem}, operation_id="get_history")
def get_history(request: HttpRequest, sheet_id: UUID):
    return _out(queries.sheet_of(request.user, sheet_id))


@router.post(
    "/{sheet_id}/take-back",
    response={200: HistoryOut, 403: Problem, 404: Problem, 409: Problem, 422: Problem},
    operation_id="take_back",
)
def take_back(request: HttpRequest, sheet_id: UUID, body: TakeBack):
    """Undoes one edit; later edits elsewhere stay."""
    return _out(actions.take_back(request.user, sheet_id, body.number))


@router.delete("/{sheet_id}", response={200: HistoryOut, 403: Problem, 404: Problem}, operation_id="strike")
def strike(request: HttpRequest, sheet_id: UUID):
    """Move to the bin, where it stays whole for 30 days."""
    return _out(actions.strike(request.user, sheet_id))


@router.post(
    "/{sheet_id}/bring-back", response={200: HistoryOut, 403: Problem, 404: Problem}, operation_id="bring_back"
)
def bring_back(request: HttpRequest, sheet_id: UUID):
    return _out(actions.bring_back(request.user, sheet_id))
