"""The farm's week: the plan, what would be if, orders, pins, what people were told, the hours of hands."""

from uuid import UUID

from django.http import HttpRequest
from django.utils import timezone
from ninja import Query, Router, Status

from farm.tables import csv_of
from hewel.refusal import Problem, Refused
from hewel.responses import download
from studies.view import view_of
from week import actions, improving, queries
from week.calendar import calendar_of
from week.schemas import HandsIn, HandsOut, PartsOrderIn, PinIn, PlanIn, WeekOut, WhatIfIn
from week.view import WeekView, hands_of
from work.api import WorkOut

router = Router(tags=["week"])
CSV = {"responses": {200: {"description": "CSV", "content": {"text/csv": {"schema": {"type": "string"}}}}}}
ICS = {"responses": {200: {"description": "Calendar", "content": {"text/calendar": {"schema": {"type": "string"}}}}}}
WRITES = {200: WeekOut, 201: WeekOut, 403: Problem, 404: Problem, 409: Problem, 422: Problem}


def _view(request: HttpRequest) -> WeekView:
    return WeekView(request.user.workshop, timezone.now())


def _now(request: HttpRequest) -> dict:
    return queries.week_out(_view(request))


@router.get("", response=WeekOut, operation_id="get_week")
def get_week(
    request: HttpRequest,
    without: Query[list[str]] = [],  # noqa: B006 (a default of the address, never changed)
    people: int | None = None,
    hours: float = 0.0,
    better: bool = False,
    half: Query[list[UUID]] = [],  # noqa: B006
    in_turn: Query[list[UUID]] = [],  # noqa: B006
):
    """The plan as it stands; or as it would be without machines, with other people, with so many hours more a day, with
    orders printed in half as many copies or one after another; or as the solver found it.
    """
    people = None if people is None else min(max(people, 1), 100)
    more = min(max(hours, 0.0), 24.0) if hours == hours else 0.0
    others = {str(i): "half" for i in half} | {str(i): "in_turn" for i in in_turn}
    view = WeekView(request.user.workshop, timezone.now(), without, people, more, better, others)
    return queries.week_out(view)


@router.get("/table", operation_id="get_week_table", openapi_extra=CSV)
def get_week_table(request: HttpRequest):
    return download(csv_of(queries.table_of(_view(request))), "text/csv; charset=utf-8", "week.csv")


@router.get("/calendar", operation_id="get_week_calendar", openapi_extra=ICS)
def get_week_calendar(request: HttpRequest):
    """Every moment that hands are needed, for a calendar."""
    return download(calendar_of(_view(request)), "text/calendar; charset=utf-8", "hands.ics")


@router.put("/plan", response=WRITES, operation_id="take_plan")
def take_plan(request: HttpRequest, payload: PlanIn):
    """The week as it stands, or as the solver found it, is what people are told from now on."""
    actions.take_plan(request.user, payload.better)
    return _now(request)


@router.put("/what-if", response=WRITES, operation_id="take_what_if")
def take_what_if(request: HttpRequest, payload: WhatIfIn):
    """Machines out of service, other people, longer hours: as they were looked at."""
    actions.take_what_if(request.user, payload.without, payload.people, payload.hours)
    return _now(request)


@router.post("/search", response={202: WorkOut, 403: Problem, 409: Problem}, operation_id="search_week")
def search_week(request: HttpRequest):
    """Has the solver look for a better week than the one that stands."""
    found = improving.search(request.user)
    if found is None:
        raise Refused("nothing", "There is nothing to plan.", "Order parts under Batch of a part first.", 409)
    return Status(202, found)


@router.post("/orders", response=WRITES, operation_id="order_parts")
def order_parts(request: HttpRequest, payload: PartsOrderIn):
    """Orders good parts in the batch that the job has chosen."""
    view = view_of(request.user, payload.part)
    actions.order(request.user, view, **payload.model_dump(exclude={"part"}))
    return Status(201, _now(request))


@router.delete("/orders/{order_id}", response=WRITES, operation_id="withdraw_order")
def withdraw_order(request: HttpRequest, order_id: UUID):
    actions.withdraw(request.user, actions.order_of(request.user, order_id))
    return _now(request)


@router.put("/orders/{order_id}/pin", response=WRITES, operation_id="pin_plate")
def pin_plate(request: HttpRequest, order_id: UUID, payload: PinIn):
    """Leaves a plate on a machine from a moment on, or planning free with it again."""
    order = actions.order_of(request.user, order_id)
    actions.pin(request.user, order, payload.number, payload.machine, payload.start)
    return _now(request)


@router.get("/hands", response=HandsOut, operation_id="get_hands")
def get_hands(request: HttpRequest):
    return hands_of(request.user.workshop)


@router.put("/hands", response={200: HandsOut, 403: Problem, 422: Problem}, operation_id="set_hands")
def set_hands(request: HttpRequest, payload: HandsIn):
    actions.set_hands(request.user, payload.days, payload.people)
    return hands_of(request.user.workshop)
