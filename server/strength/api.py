"""Strength: checking, the net of reserves, one direction's cases, layers, field and calculation."""

from uuid import UUID

from django.http import HttpRequest, HttpResponse
from django.utils.text import slugify
from ninja import Router, Status

from hewel.refusal import Problem, Refused
from hewel.responses import BYTES, download, for_good
from parts import queries as parts
from stages.stage import result_of
from stages.view import JobView
from store import actions as store
from strength import actions, printing, queries
from strength.directions import direction_of
from strength.schemas import CheckIn, DirectionAnalysisOut, DirectionLog, NetOut, StrengthOut, UpIn
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
def check_strength(request: HttpRequest, part_id: UUID, payload: CheckIn):
    """Checks the job's loads, unless that has been done; ``ups`` are told in full."""
    actions.calculate_strength(request.user, _view(request.user, part_id), payload.ups, payload.coarse)
    return Status(202, queries.strength_out(_view(request.user, part_id)))


@router.get("/{check_id}/net", response={200: NetOut, 404: Problem}, operation_id="get_reserve_net")
def get_reserve_net(request: HttpRequest, check_id: UUID):
    check = result_of(STRENGTH, request.user, check_id)
    if check.net_id is None:
        raise Refused("not_checked", "The first answer is still being calculated.", "Ask again in a moment.", 404)
    return queries.net_out(check)


@router.post(
    "/{check_id}/directions",
    response={202: DirectionAnalysisOut, 403: Problem, 404: Problem, 409: Problem, 422: Problem},
    operation_id="solve_direction",
)
def solve_direction(request: HttpRequest, check_id: UUID, payload: UpIn):
    """Solves one more direction with its own layers."""
    analysis = actions.calculate_direction(
        request.user, result_of(STRENGTH, request.user, check_id), payload.up, payload.again
    )
    return Status(202, _analysis_out(request.user, analysis.id))


@router.get(
    "/directions/{analysis_id}",
    response={200: DirectionAnalysisOut, 404: Problem},
    operation_id="get_direction_analysis",
)
def get_direction_analysis(request: HttpRequest, analysis_id: UUID):
    return _analysis_out(request.user, analysis_id)


def _analysis_out(user, analysis_id: UUID) -> dict:
    analysis = direction_of(user, analysis_id)
    return queries.direction_out(JobView(analysis.of.part), analysis)


def _solved(user, analysis_id):
    analysis = direction_of(user, analysis_id)
    if queries.solution_of(analysis) is None:
        raise Refused("not_checked", "This direction is still being calculated.", "Ask again in a moment.", 404)
    return analysis


@router.get(
    "/directions/{analysis_id}/log", response={200: DirectionLog, 404: Problem}, operation_id="get_direction_log"
)
def get_direction_log(request: HttpRequest, analysis_id: UUID):
    """Demand and capacity of every layer, case by case."""
    analysis = _solved(request.user, analysis_id)
    return queries.log_out(JobView(analysis.of.part), analysis)


@router.post(
    "/directions/{analysis_id}/explore",
    response={202: DirectionAnalysisOut, 403: Problem, 404: Problem},
    operation_id="explore_infill",
)
def explore_infill(request: HttpRequest, analysis_id: UUID):
    """Perimeters against infill on this part, standing so."""
    actions.calculate_infill(request.user, direction_of(request.user, analysis_id))
    return Status(202, _analysis_out(request.user, analysis_id))


@router.post(
    "/directions/{analysis_id}/field",
    response={202: DirectionAnalysisOut, 403: Problem, 404: Problem},
    operation_id="calculate_stress_field",
)
def calculate_stress_field(request: HttpRequest, analysis_id: UUID):
    """Has the stress field written for other viewers."""
    actions.calculate_field(request.user, direction_of(request.user, analysis_id))
    return Status(202, _analysis_out(request.user, analysis_id))


def _file(data: bytes, kind: str, name: str) -> HttpResponse:
    return download(data, kind, name)


@router.get("/directions/{analysis_id}/field", operation_id="get_stress_field", openapi_extra=BYTES)
def get_stress_field(request: HttpRequest, analysis_id: UUID):
    """The stress field as a VTK unstructured grid."""
    analysis = direction_of(request.user, analysis_id)
    if analysis.field is None:
        raise Refused("not_written", "The stress field is not written yet.", "Order it first, then fetch it.", 404)
    return _file(store.get(analysis.field), "model/vnd.vtu", f"{slugify(analysis.of.part.name) or 'part'}-stress.vtu")


@router.get("/directions/{analysis_id}/volume/{digest}", operation_id="get_stress_volume", openapi_extra=BYTES)
def get_stress_volume(request: HttpRequest, analysis_id: UUID, digest: str):
    """The share of the strength used all over the part, for drawing."""
    analysis = direction_of(request.user, analysis_id)
    if analysis.volume_id is None or analysis.volume_id != digest:
        raise Refused("not_found", "This direction has no such field.", "Reload the page.", 404)
    return for_good(store.get(analysis.volume))


@router.get("/directions/{analysis_id}/calculation", operation_id="print_calculation", openapi_extra=BYTES)
def print_calculation(request: HttpRequest, analysis_id: UUID):
    """The calculation of one direction as a page that a colleague can follow by hand."""
    analysis = _solved(request.user, analysis_id)
    answer = HttpResponse(printing.calculation(analysis), content_type="application/pdf")
    name = slugify(analysis.of.part.name) or "part"
    answer["Content-Disposition"] = f'inline; filename="{name}-strength.pdf"'
    return answer
