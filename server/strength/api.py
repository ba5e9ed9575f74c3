"""Strength: checking, the net of reserves, one direction's cases, layers, field and reckoning."""

from uuid import UUID

from django.http import HttpRequest, HttpResponse
from django.utils.text import slugify
from ninja import Router, Status

from hewel.answers import BYTES, download, for_good
from hewel.refusal import Problem, Refused
from parts import queries as parts
from stages.stage import result_of
from stages.view import JobView
from store import actions as store
from strength import actions, printing, queries
from strength.schemas import CheckIn, NetOut, StandLog, StandOut, StrengthOut, UpIn
from strength.stage import STRENGTH

router = Router(tags=["strength"])


def _view(user, part_id: UUID) -> JobView:
    return JobView(parts.part_of(user, part_id))


@router.get("/of/{part_id}", response={200: StrengthOut, 404: Problem}, operation_id="get_strength")
def get_strength(request: HttpRequest, part_id: UUID):
    return queries.strength_out(_view(request.user, part_id))


@router.post(
    "/of/{part_id}",
    response={202: StrengthOut, 403: Problem, 404: Problem, 409: Problem, 422: Problem},
    operation_id="check_strength",
)
def check_strength(request: HttpRequest, part_id: UUID, said: CheckIn):
    """Checks the job's loads, unless that has been done; ``ups`` are told in full."""
    actions.order_check(request.user, _view(request.user, part_id), said.ups, said.coarse)
    return Status(202, queries.strength_out(_view(request.user, part_id)))


@router.get("/{check_id}/net", response={200: NetOut, 404: Problem}, operation_id="get_reserve_net")
def get_reserve_net(request: HttpRequest, check_id: UUID):
    check = result_of(STRENGTH, request.user, check_id)
    if check.net_id is None:
        raise Refused("not_checked", "The first answer is still being reckoned.", "Ask again in a moment.", 404)
    return queries.net_out(check)


@router.post(
    "/{check_id}/stands",
    response={202: StandOut, 403: Problem, 404: Problem, 409: Problem, 422: Problem},
    operation_id="solve_direction",
)
def solve_direction(request: HttpRequest, check_id: UUID, said: UpIn):
    """Solves one more direction with its own layers."""
    stand = actions.order_stand(request.user, result_of(STRENGTH, request.user, check_id), said.up, said.again)
    return Status(202, _stand_out(request.user, stand.id))


@router.get("/stands/{stand_id}", response={200: StandOut, 404: Problem}, operation_id="get_stand")
def get_stand(request: HttpRequest, stand_id: UUID):
    return _stand_out(request.user, stand_id)


def _stand_out(user, stand_id: UUID) -> dict:
    stand = queries.stand_of(user, stand_id)
    return queries.stand_out(JobView(stand.of.part), stand)


def _told(user, stand_id):
    stand = queries.stand_of(user, stand_id)
    if queries.told_of(stand) is None:
        raise Refused("not_checked", "This direction is still being reckoned.", "Ask again in a moment.", 404)
    return stand


@router.get("/stands/{stand_id}/log", response={200: StandLog, 404: Problem}, operation_id="get_stand_log")
def get_stand_log(request: HttpRequest, stand_id: UUID):
    """Demand and capacity of every layer, case by case."""
    return queries.log_out(_told(request.user, stand_id))


@router.post(
    "/stands/{stand_id}/explore",
    response={202: StandOut, 403: Problem, 404: Problem},
    operation_id="explore_infill",
)
def explore_infill(request: HttpRequest, stand_id: UUID):
    """Perimeters against infill on this part, standing so."""
    actions.order_exploration(request.user, queries.stand_of(request.user, stand_id))
    return Status(202, _stand_out(request.user, stand_id))


@router.post(
    "/stands/{stand_id}/field", response={202: StandOut, 403: Problem, 404: Problem}, operation_id="order_stress_field"
)
def order_stress_field(request: HttpRequest, stand_id: UUID):
    """Has the stress field written for other viewers."""
    actions.order_field(request.user, queries.stand_of(request.user, stand_id))
    return Status(202, _stand_out(request.user, stand_id))


def _file(data: bytes, kind: str, name: str) -> HttpResponse:
    return download(data, kind, name)


@router.get("/stands/{stand_id}/field", operation_id="get_stress_field", openapi_extra=BYTES)
def get_stress_field(request: HttpRequest, stand_id: UUID):
    """The stress field as a VTK unstructured grid."""
    stand = queries.stand_of(request.user, stand_id)
    if stand.field is None:
        raise Refused("not_written", "The stress field is not written yet.", "Order it first, then fetch it.", 404)
    return _file(store.get(stand.field), "model/vnd.vtu", f"{slugify(stand.of.part.name) or 'part'}-stress.vtu")


@router.get("/stands/{stand_id}/volume/{digest}", operation_id="get_stress_volume", openapi_extra=BYTES)
def get_stress_volume(request: HttpRequest, stand_id: UUID, digest: str):
    """The share of the strength used all over the part, for drawing."""
    stand = queries.stand_of(request.user, stand_id)
    if stand.volume_id is None or stand.volume_id != digest:
        raise Refused("not_found", "This direction has no such field.", "Reload the page.", 404)
    return for_good(store.get(stand.volume))


@router.get("/stands/{stand_id}/reckoning", operation_id="print_reckoning", openapi_extra=BYTES)
def print_reckoning(request: HttpRequest, stand_id: UUID):
    """The reckoning of one direction as a page that a colleague can follow by hand."""
    stand = _told(request.user, stand_id)
    answer = HttpResponse(printing.reckoning(stand), content_type="application/pdf")
    name = slugify(stand.of.part.name) or "part"
    answer["Content-Disposition"] = f'inline; filename="{name}-strength.pdf"'
    return answer
