"""Remedies: working them out, seeing what they change, taking them as a revision."""

from uuid import UUID

from django.http import HttpRequest
from ninja import Status

from hewel.refusal import Problem
from hewel.responses import BYTES, download
from remedies import actions, bridge, queries
from remedies.schemas import AfterRemediesOut, LookOut, OrderIn, RemediesOut, RemedyOut, Step
from remedies.stage import AFTER_REMEDIES, REMEDIES
from stages.routes import stage_router
from stages.stage import calculate, result_of
from studies.view import DirectedJob, view_of
from work.api import WorkOut


def _steps(view: DirectedJob, payload: OrderIn) -> list[dict] | None:
    return payload.steps and [s.model_dump() for s in payload.steps]


router = stage_router(REMEDIES, view_of, queries.remedies_out, RemediesOut, OrderIn, _steps)


@router.post(
    "/of/{part_id}/look",
    response={200: LookOut, 404: Problem, 409: Problem, 422: Problem},
    operation_id="look_at_remedy",
)
def look_at_remedy(request: HttpRequest, part_id: UUID, step: Step):
    """What one remedy would add and take away, with the numbers set so; nothing is kept or proved."""
    return actions.look(view_of(request.user, part_id), step.model_dump())


@router.get("", response=list[RemedyOut], operation_id="get_remedy_catalogue")
def get_remedy_catalogue(request: HttpRequest):
    """Every remedy by its key, with its title."""
    return bridge.catalogue()


@router.get("/after/{part_id}", response={200: AfterRemediesOut, 404: Problem}, operation_id="get_afterwards")
def get_afterwards(request: HttpRequest, part_id: UUID):
    """What remedies come to in the best directions."""
    return queries.afterwards_out(view_of(request.user, part_id))


@router.post(
    "/after/{part_id}",
    response={202: AfterRemediesOut, 403: Problem, 404: Problem, 409: Problem, 422: Problem},
    operation_id="work_afterwards_out",
)
def work_afterwards_out(request: HttpRequest, part_id: UUID):
    """Works remedies out in the best directions and ranks them by what is left."""
    calculate(AFTER_REMEDIES, request.user, view_of(request.user, part_id))
    return Status(202, queries.afterwards_out(view_of(request.user, part_id)))


@router.post(
    "/{result_id}/take",
    response={202: WorkOut, 403: Problem, 404: Problem, 409: Problem},
    operation_id="take_remedies",
)
def take_remedies(request: HttpRequest, result_id: UUID):
    """Makes a revision of the part as the proposal left it."""
    return Status(202, actions.take(request.user, result_of(REMEDIES, request.user, result_id)))


@router.get("/{result_id}/changes", operation_id="get_changes", openapi_extra=BYTES)
def get_changes(request: HttpRequest, result_id: UUID):
    """The changes in words, with places and dimensions, for whoever owns the CAD model."""
    text = queries.changes_text(result_of(REMEDIES, request.user, result_id))
    return download(text, "text/plain; charset=utf-8", "changes.txt")
