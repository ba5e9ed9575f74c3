"""Fit: the table of touching faces, drawing them, taking the part that comes of it as a revision."""

from uuid import UUID

from django.http import HttpRequest
from ninja import Status

from fit import actions, queries
from fit.schemas import ArmsNet, FitAsked, FitStateOut
from fit.stage import FIT
from hewel.refusal import Problem
from stages.routes import stage_router
from stages.stage import result_of
from studies.view import view_of
from work.api import WorkOut

router = stage_router(
    FIT, view_of, queries.fit_out, FitStateOut, asked=FitAsked, understood=lambda view, payload: payload.rows
)


@router.get("/of/{part_id}/arms", response={200: ArmsNet, 404: Problem}, operation_id="get_arms_net")
def get_arms_net(request: HttpRequest, part_id: UUID):
    """What bends, over all directions."""
    return {"least": queries.arms_net(view_of(request.user, part_id))}


@router.post(
    "/{result_id}/take",
    response={202: WorkOut, 403: Problem, 404: Problem, 409: Problem},
    operation_id="take_fit",
)
def take_fit(request: HttpRequest, result_id: UUID):
    """Makes a revision of the part as it is drawn for its fits."""
    return Status(202, actions.take(request.user, result_of(FIT, request.user, result_id)))
