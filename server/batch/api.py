"""The batch: filling the plate, its curves, one number of copies, where copies stand, choosing."""

from typing import Literal
from uuid import UUID

from django.http import HttpRequest
from ninja import File, Form, Status
from ninja.files import UploadedFile

from batch import actions, bridge, prepared, queries
from batch.schemas import (
    AcceptIn,
    BatchChoiceIn,
    BatchOut,
    BatchPoint,
    FirstPrice,
    LayoutIn,
    PreparedOut,
    PutBackIn,
    WrongOut,
)
from batch.stage import BATCH
from hewel.refusal import Problem
from stages.routes import stage_router
from stages.stage import result_of
from studies.view import view_of

router = stage_router(BATCH, view_of, queries.batch_out, BatchOut, drawn=())


@router.get("/first/{part_id}", response={200: FirstPrice | None, 404: Problem}, operation_id="get_first_price")
def get_first_price(request: HttpRequest, part_id: UUID):
    """What one copy by itself takes and costs as the part stands; null while that is not known."""
    return queries.first_price(view_of(request.user, part_id))


@router.get(
    "/{result_id}/point", response={200: BatchPoint, 404: Problem, 422: Problem}, operation_id="get_batch_point"
)
def get_batch_point(
    request: HttpRequest, result_id: UUID, copies: int = 1, mode: Literal["together", "sequential"] = "together"
):
    """One number of copies: its reserve, what decides it, what a part costs, where the copies stand."""
    analysis = result_of(BATCH, request.user, result_id)
    return queries.point_out(view_of(request.user, analysis.part_id), analysis, mode, copies)


@router.post(
    "/{result_id}/layout", response={200: list[WrongOut], 404: Problem, 422: Problem}, operation_id="check_layout"
)
def check_layout(request: HttpRequest, result_id: UUID, layout: LayoutIn):
    """What of copies that stand so does not stand clear. Changes nothing."""
    analysis = result_of(BATCH, request.user, result_id)
    queries.laid_of(analysis)
    return bridge.misplaced(analysis.result, layout.items, analysis.inputs["bed"], layout.mode)


ANSWERS = {200: BatchOut, 201: BatchOut, 403: Problem, 404: Problem, 409: Problem, 422: Problem}


@router.post("/{result_id}/choice", response=ANSWERS, operation_id="choose_batch")
def choose_batch(request: HttpRequest, result_id: UUID, choice: BatchChoiceIn):
    analysis = result_of(BATCH, request.user, result_id)
    view = view_of(request.user, analysis.part_id)
    file = None if choice.prepared is None else prepared.of_user(request.user, choice.prepared)
    actions.choose(
        request.user, view, analysis, choice.base, choice.mode, choice.copies, choice.reason, choice.items, file
    )
    return Status(201, queries.batch_out(view_of(request.user, analysis.part_id)))


@router.post(
    "/prepared",
    response={202: PreparedOut, 403: Problem, 404: Problem, 413: Problem, 422: Problem},
    operation_id="read_prepared",
)
def read_prepared(
    request: HttpRequest,
    file: File[UploadedFile],
    plate: Form[UUID],
    copies: Form[int],
    mode: Form[Literal["together", "sequential"]] = "together",
):
    """Reads a prepared file beside so many copies of a plate. The file itself is not kept."""
    analysis = result_of(BATCH, request.user, plate)
    view = view_of(request.user, analysis.part_id)
    kept = prepared.take_in(request.user, view, analysis, file, mode, copies)
    return Status(202, prepared.prepared_out(view, kept))


@router.get("/prepared/{file_id}", response={200: PreparedOut, 404: Problem}, operation_id="get_prepared")
def get_prepared(request: HttpRequest, file_id: UUID):
    kept = prepared.of_user(request.user, file_id)
    return prepared.prepared_out(view_of(request.user, kept.analysis.part_id), kept)


@router.post(
    "/prepared/{file_id}/accept",
    response={200: PreparedOut, 403: Problem, 404: Problem, 422: Problem},
    operation_id="accept_difference",
)
def accept_difference(request: HttpRequest, file_id: UUID, payload: AcceptIn):
    """Settles a difference between a prepared file and its plate, or takes that back."""
    kept = prepared.of_user(request.user, file_id)
    prepared.accept(request.user, kept, payload.difference, payload.reason)
    return prepared.prepared_out(view_of(request.user, kept.analysis.part_id), kept)


@router.post("/of/{part_id}/put-back", response=ANSWERS, operation_id="put_back_batch")
def put_back_batch(request: HttpRequest, part_id: UUID, payload: PutBackIn):
    """Takes the choice back; what the plate holds stays known."""
    actions.put_back(request.user, view_of(request.user, part_id), payload.base)
    return queries.batch_out(view_of(request.user, part_id))
