"""What hangs, layer by layer: checking, findings, the layer log, settling."""

from typing import Annotated
from uuid import UUID

from django.http import HttpRequest
from ninja import Query
from pydantic import Field

from hewel.refusal import Problem
from overhangs import actions, queries
from overhangs.schemas import LogOut, OverhangsOut, SettleIn
from overhangs.stage import OVERHANGS
from stages.routes import stage_router
from stages.stage import result_of
from studies.view import view_of

router = stage_router(OVERHANGS, view_of, queries.overhangs_out, OverhangsOut, drawn=("facets", "outlines"))


@router.post(
    "/{result_id}/settle",
    response={200: OverhangsOut, 403: Problem, 404: Problem, 409: Problem, 422: Problem},
    operation_id="settle_findings",
)
def settle_findings(request: HttpRequest, result_id: UUID, payload: SettleIn):
    analysis = result_of(OVERHANGS, request.user, result_id)
    actions.settle(request.user, analysis, payload.base, payload.findings, payload.state, payload.reason)
    return queries.overhangs_out(view_of(request.user, analysis.part_id))


@router.get(
    "/{result_id}/log", response={200: LogOut, 404: Problem, 409: Problem, 422: Problem}, operation_id="get_layer_log"
)
def get_layer_log(request: HttpRequest, result_id: UUID, copies: Annotated[int, Query(), Field(ge=1, le=1000)] = 1):
    """Every layer's section, lines and time with so many copies printed together."""
    return queries.log_out(result_of(OVERHANGS, request.user, result_id), copies)
