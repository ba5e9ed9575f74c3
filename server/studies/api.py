"""Studies of directions: the sweep, the candidates, asking about one more, choosing."""

from uuid import UUID

from django.http import HttpRequest, HttpResponse
from django.utils.text import slugify
from ninja import Query, Router, Status

from hewel.refusal import Problem, Refused
from hewel.responses import BYTES
from parts import queries as parts
from parts.job import Weights
from stages.stage import result_of
from store import actions as store
from studies import actions, queries
from studies.schemas import ChoiceIn, ChoiceOut, Direction, DutyFields, OrderIn, RankingOut, StudyOut, SweepOut
from studies.stage import DIRECTIONS
from studies.view import view_of
from work.api import WorkOut

router = Router(tags=["studies"])


@router.post(
    "/of/{part_id}",
    response={202: StudyOut, 403: Problem, 404: Problem, 409: Problem, 422: Problem},
    operation_id="calculate_study",
)
def calculate_study(request: HttpRequest, part_id: UUID, order: OrderIn):
    part = parts.part_of(request.user, part_id)
    study = actions.calculate_study(request.user, part, order.base, order.model_dump(exclude={"base"}))
    return Status(202, queries.study_out(result_of(DIRECTIONS, request.user, study.id)))


@router.get("/{study_id}", response={200: StudyOut, 404: Problem}, operation_id="get_study")
def get_study(request: HttpRequest, study_id: UUID):
    return queries.study_out(result_of(DIRECTIONS, request.user, study_id))


@router.get("/{study_id}/sweep", response={200: SweepOut, 404: Problem}, operation_id="get_sweep")
def get_sweep(request: HttpRequest, study_id: UUID, digest: str = ""):
    """Every swept direction with its numbers; kept as the very bytes that are sent. A browser that names the digest
    of the study's ``swept`` may keep them for good.
    """
    study = result_of(DIRECTIONS, request.user, study_id)
    if study.sweep is None:
        raise Refused("not_swept", "The directions are still being swept.", "Ask again in a moment.", 404)
    answer = HttpResponse(store.get(study.sweep), content_type="application/json")
    answer["Cache-Control"] = "private, max-age=31536000, immutable" if digest == study.sweep_id else "no-cache"
    return answer


@router.get("/{study_id}/duties", response={200: DutyFields, 404: Problem}, operation_id="get_duties")
def get_duties(request: HttpRequest, study_id: UUID):
    """Protected faces, fitted bores and forces for every swept direction; they follow the job at once."""
    return queries.duty_fields(result_of(DIRECTIONS, request.user, study_id))


@router.get("/{study_id}/ranking", response={200: RankingOut, 404: Problem, 422: Problem}, operation_id="get_ranking")
def get_ranking(request: HttpRequest, study_id: UUID, weights: Query[Weights]):
    """The candidates sorted by weights; the marks of the non-dominated do not depend on them."""
    return queries.ranking(result_of(DIRECTIONS, request.user, study_id), weights.model_dump())


@router.get("/{study_id}/comparison", operation_id="print_comparison", openapi_extra=BYTES)
def print_comparison(request: HttpRequest, study_id: UUID):
    """The comparison on one page, as PDF."""
    study = result_of(DIRECTIONS, request.user, study_id)
    answer = HttpResponse(queries.comparison_page(study), content_type="application/pdf")
    answer["Content-Disposition"] = f'inline; filename="{slugify(study.part.name) or "part"}-directions.pdf"'
    return answer


@router.post(
    "/{study_id}/directions",
    response={202: WorkOut, 403: Problem, 404: Problem, 422: Problem},
    operation_id="ask_direction",
)
def ask_direction(request: HttpRequest, study_id: UUID, direction: Direction):
    return Status(202, actions.ask_direction(request.user, result_of(DIRECTIONS, request.user, study_id), direction.up))


@router.post(
    "/{study_id}/choice",
    response={201: ChoiceOut, 403: Problem, 404: Problem, 409: Problem, 422: Problem},
    operation_id="choose_direction",
)
def choose_direction(request: HttpRequest, study_id: UUID, choice: ChoiceIn):
    study = result_of(DIRECTIONS, request.user, study_id)
    made = actions.choose(request.user, study, choice.base, choice.up, choice.reason)
    return Status(201, queries.choice_out(view_of(request.user, study.part_id), made))
