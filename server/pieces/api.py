"""Pieces: working a part out as several, seeing them together and apart, making them parts of their own."""

from uuid import UUID

from django.http import HttpRequest
from django.utils.text import slugify
from ninja import Status

from hewel.refusal import Problem, Refused
from hewel.responses import BYTES, download
from needs import queries as needs
from pieces import actions, queries
from pieces.schemas import DivideIn, PiecesOut
from pieces.stage import PIECES
from stages.routes import stage_router
from stages.stage import result_of
from studies.view import DirectedJob, view_of
from work.api import WorkOut


def _understood(view: DirectedJob, payload: DivideIn) -> dict:
    return payload.model_dump()


router = stage_router(PIECES, view_of, queries.pieces_out, PiecesOut, DivideIn, _understood)


@router.post(
    "/{result_id}/take",
    response={202: list[WorkOut], 403: Problem, 404: Problem, 409: Problem},
    operation_id="take_pieces",
)
def take_pieces(request: HttpRequest, result_id: UUID):
    """Makes every piece a part of its own."""
    return Status(202, actions.take(request.user, result_of(PIECES, request.user, result_id)))


@router.get("/{result_id}/list", operation_id="get_piece_list", openapi_extra=BYTES)
def get_piece_list(request: HttpRequest, result_id: UUID):
    """Pieces and pauses in words."""
    text = queries.list_text(result_of(PIECES, request.user, result_id))
    return download(text, "text/plain; charset=utf-8", "pieces.txt")


@router.get("/{result_id}/file", operation_id="get_piece_file", openapi_extra=BYTES)
def get_piece_file(request: HttpRequest, result_id: UUID):
    """Every copy of every piece side by side in its printing pose, 3MF."""
    division = result_of(PIECES, request.user, result_id)
    needs.require_release(request.user, division.part)
    if division.file is None:
        raise Refused("not_ready", "There are no pieces yet.", "Work the pieces out first.", 409)
    name = slugify(division.part.name) or "part"
    return download(queries.printable(division), "model/3mf", f"{name}-pieces.3mf")
