"""Hardware: working it out, reading it, taking the cut part as a revision, the list for the shelf."""

from uuid import UUID

from django.http import HttpRequest
from django.utils.text import slugify
from ninja import Status

from hardware import actions, queries
from hardware.schemas import BoltFits, HardwareStateOut, HoldingWay
from hardware.stage import HARDWARE
from hewel.refusal import Problem
from hewel.responses import BYTES, download
from stages.routes import stage_router
from stages.stage import result_of
from studies.view import view_of
from work.api import WorkOut

router = stage_router(HARDWARE, view_of, queries.hardware_out, HardwareStateOut, drawn=("view", "steel"))


@router.get("/of/{part_id}/fits", response={200: BoltFits | None, 404: Problem}, operation_id="get_bolt_fits")
def get_bolt_fits(request: HttpRequest, part_id: UUID):
    """What holds of the bolts that are drawn, and what else would do; null while they are not in the solution."""
    return queries.fits_out(view_of(request.user, part_id))


@router.get("/of/{part_id}/ways", response={200: list[HoldingWay], 404: Problem}, operation_id="get_ways_to_hold")
def get_ways_to_hold(request: HttpRequest, part_id: UUID):
    """What would make the part hold, side by side."""
    return queries.ways_out(view_of(request.user, part_id))


@router.get("/of/{part_id}/list", operation_id="get_hardware_list", openapi_extra=BYTES)
def get_hardware_list(request: HttpRequest, part_id: UUID):
    """What is to be bought, CSV."""
    view = view_of(request.user, part_id)
    name = slugify(view.part.name) or "part"
    return download(queries.list_csv(view), "text/csv; charset=utf-8", f"{name}-hardware.csv")


@router.post(
    "/{result_id}/take",
    response={202: WorkOut, 403: Problem, 404: Problem, 409: Problem},
    operation_id="take_hardware",
)
def take_hardware(request: HttpRequest, result_id: UUID):
    """Makes a revision of the part with its places cut."""
    return Status(202, actions.take(request.user, result_of(HARDWARE, request.user, result_id)))
