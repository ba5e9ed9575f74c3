"""Walls: measuring them, seeing their zones."""

from uuid import UUID

from django.http import HttpRequest

from hewel.refusal import Problem
from stages.routes import stage_router
from stages.stage import result_of
from studies.view import view_of
from walls import queries
from walls.schemas import LinesOut, SizeIn, SizeOut, WallsOut
from walls.stage import WALLS

router = stage_router(WALLS, view_of, queries.walls_out, WallsOut)


@router.get("/{result_id}/layer/{number}", response={200: LinesOut, 404: Problem}, operation_id="get_layer_lines")
def get_layer_lines(request: HttpRequest, result_id: UUID, number: int):
    """What the nozzle draws of one layer."""
    return queries.lines_of(result_of(WALLS, request.user, result_id), number)


@router.post("/of/{part_id}/size", response={200: SizeOut, 404: Problem, 422: Problem}, operation_id="calculate_size")
def calculate_size(request: HttpRequest, part_id: UUID, asked: SizeIn):
    """An arm, a panel or a boss sized by calculation, for the job's process and direction. Changes nothing."""
    return queries.sized(view_of(request.user, part_id), asked.dict())
