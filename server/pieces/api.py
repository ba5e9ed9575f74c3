"""Pieces: working a part out as several, seeing them together and apart, making them parts of their own."""

from uuid import UUID

from django.http import HttpRequest
from django.utils.text import slugify
from needs import queries as needs
from ninja import Router, Status

from hewel.answers import BYTES, download, for_good
from hewel.refusal import Problem, Refused
from parts import queries as parts
from pieces import actions, queries
from pieces.schemas import DivideIn, PiecesOut
from store import actions as store
from work.api import WorkOut

router = Router(tags=["pieces"])


@router.get("/of/{part_id}", response={200: PiecesOut, 404: Problem}, operation_id="get_pieces")
def get_pieces(request: HttpRequest, part_id: UUID):
    return queries.pieces_out(parts.part_of(request.user, part_id))


@router.post(
    "/of/{part_id}",
    response={202: PiecesOut, 403: Problem, 404: Problem, 409: Problem, 422: Problem},
    operation_id="work_pieces_out",
)
def work_pieces_out(request: HttpRequest, part_id: UUID, said: DivideIn):
    """Works the part out as several pieces: split, a feature apart, a plate put in."""
    part = parts.part_of(request.user, part_id)
    actions.order_division(request.user, part, said.model_dump())
    return Status(202, queries.pieces_out(part))


@router.post(
    "/{division_id}/take",
    response={202: list[WorkOut], 403: Problem, 404: Problem, 409: Problem},
    operation_id="take_pieces",
)
def take_pieces(request: HttpRequest, division_id: UUID):
    """Makes every piece a part of its own."""
    return Status(202, actions.take(request.user, queries.division_of(request.user, division_id)))


@router.get("/{division_id}/list", operation_id="get_piece_list", openapi_extra=BYTES)
def get_piece_list(request: HttpRequest, division_id: UUID):
    """Pieces and pauses in words."""
    text = queries.list_text(queries.division_of(request.user, division_id))
    return download(text, "text/plain; charset=utf-8", "pieces.txt")


@router.get("/{division_id}/file", operation_id="get_piece_file", openapi_extra=BYTES)
def get_piece_file(request: HttpRequest, division_id: UUID):
    """Every copy of every piece side by side in its printing pose, 3MF."""
    division = queries.division_of(request.user, division_id)
    needs.require_release(request.user, division.part)
    if division.file is None:
        raise Refused("not_ready", "There are no pieces yet.", "Work the pieces out first.", 409)
    name = slugify(division.part.name) or "part"
    return download(store.get(division.file), "model/3mf", f"{name}-pieces.3mf")


@router.get("/{division_id}/view/{digest}", operation_id="get_division_view", openapi_extra=BYTES)
def get_division_view(request: HttpRequest, division_id: UUID, digest: str):
    """All pieces put together, for drawing."""
    division = queries.division_of(request.user, division_id)
    if division.view is None or division.view.digest != digest:
        raise Refused("not_found", "These pieces have no such drawing.", "Load the page again.", 404)
    return for_good(store.get(division.view))
