"""The stages of a part and how far each is, for the list beside every page: all in one answer."""

from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema

from desk.schemas import StageOut
from hewel.refusal import Problem, Refused
from parts.queries import parts_of
from release import queries as release
from release.standing import stages_of
from studies.view import DirectedJob, view_of

router = Router(tags=["stages"])


def rail(view: DirectedJob) -> list[dict]:
    """Every stage with its state, in the order of the work."""
    return [*stages_of(view), {"key": "release", **release.state(view)}]


class StandingOut(Schema):
    part: UUID
    stages: list[StageOut]


MOST = 100
"""Parts whose stages are told in one answer: as many as a list shows at once."""


@router.get("", response={200: list[StandingOut], 422: Problem}, operation_id="list_stages")
def list_stages(request: HttpRequest, parts: str = ""):
    """How far the stages are of the parts named by their ids, with commas; of the newest where none is named."""
    rows = parts_of(request.user)
    if parts:
        rows = rows.filter(id__in=_ids(parts))
    return [{"part": view.part.id, "stages": rail(view)} for view in DirectedJob.of(rows[:MOST])]


def _ids(words: str) -> list[UUID]:
    try:
        return [UUID(word) for word in words.split(",")][:MOST]
    except ValueError:
        raise Refused("bad_options", "That is no list of parts.", "Reload the page.", 422) from None


@router.get("/{part_id}", response={200: list[StageOut], 404: Problem}, operation_id="get_stages")
def get_stages(request: HttpRequest, part_id: UUID):
    return rail(view_of(request.user, part_id))
