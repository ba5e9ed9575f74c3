"""Walls: measuring them, seeing their zones."""

from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Status

from hewel.answers import BYTES, for_good
from hewel.refusal import Problem, Refused
from parts import queries as parts
from store import actions as store
from walls import actions, queries
from walls.schemas import LinesOut, ReckonedOut, ReckonIn, WallsOut

router = Router(tags=["walls"])


@router.get("/of/{part_id}", response={200: WallsOut, 404: Problem}, operation_id="get_walls")
def get_walls(request: HttpRequest, part_id: UUID):
    return queries.walls_out(parts.part_of(request.user, part_id))


@router.post(
    "/of/{part_id}",
    response={202: WallsOut, 403: Problem, 404: Problem, 422: Problem},
    operation_id="gauge_walls",
)
def gauge_walls(request: HttpRequest, part_id: UUID):
    """Measures the walls under the job's process, unless that has been done."""
    part = parts.part_of(request.user, part_id)
    actions.order_gauging(request.user, part)
    return Status(202, queries.walls_out(part))


@router.get("/{gauging_id}/view/{digest}", operation_id="get_walls_view", openapi_extra=BYTES)
def get_walls_view(request: HttpRequest, gauging_id: UUID, digest: str):
    """The part with its zones, for drawing."""
    gauging = queries.gauging_of(request.user, gauging_id)
    if gauging.view is None or gauging.view.digest != digest:
        raise Refused("not_found", "This gauging has no such drawing.", "Load the page again.", 404)
    return for_good(store.get(gauging.view))


@router.get("/{gauging_id}/layer/{number}", response={200: LinesOut, 404: Problem}, operation_id="get_layer_lines")
def get_layer_lines(request: HttpRequest, gauging_id: UUID, number: int):
    """What the nozzle draws of one layer."""
    return queries.lines_of(queries.gauging_of(request.user, gauging_id), number)


@router.post("/of/{part_id}/size", response={200: ReckonedOut, 404: Problem, 422: Problem}, operation_id="reckon_size")
def reckon_size(request: HttpRequest, part_id: UUID, asked: ReckonIn):
    """An arm, a panel or a boss sized by reckoning, for the job's process and direction. Changes nothing."""
    return queries.reckoned(parts.part_of(request.user, part_id), asked.dict())
