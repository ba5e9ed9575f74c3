"""Release: what is missing, releasing, reviewing, the packet, the report."""

from uuid import UUID

from django.http import HttpRequest
from django.utils.text import slugify
from ninja import Router, Status

from hewel.refusal import Problem
from hewel.responses import BYTES, download
from parts.queries import part_of
from release import actions, queries, report
from release.schemas import ReleaseDifference, ReleaseIn, ReleaseOut, ReleaseStateOut, ReviewIn
from studies.view import view_of

router = Router(tags=["release"])


@router.get("/of/{part_id}", response={200: ReleaseStateOut, 404: Problem}, operation_id="get_release_state")
def get_release_state(request: HttpRequest, part_id: UUID):
    return queries.state_out(view_of(request.user, part_id), request.user)


@router.post(
    "/of/{part_id}",
    response={201: ReleaseOut, 403: Problem, 404: Problem, 409: Problem, 422: Problem},
    operation_id="release_part",
)
def release_part(request: HttpRequest, part_id: UUID, body: ReleaseIn):
    """Releases the job as it stands: freezes it, and keeps its packet."""
    part = part_of(request.user, part_id)
    made = actions.release(request.user, part, body.base, body.kind, body.waiver, body.note)
    return Status(201, queries.out(made))


@router.post(
    "/of/{part_id}/generic",
    response={202: ReleaseStateOut, 403: Problem, 404: Problem, 409: Problem, 422: Problem},
    operation_id="reckon_generic",
)
def reckon_generic(request: HttpRequest, part_id: UUID):
    """Orders the strength under generic settings."""
    actions.reckon_generic(request.user, part_of(request.user, part_id))
    return Status(202, queries.state_out(view_of(request.user, part_id), request.user))


@router.get("/of/{part_id}/report", operation_id="get_report", openapi_extra=BYTES)
def get_report(request: HttpRequest, part_id: UUID):
    """The report of the job as it stands, PDF."""
    view = view_of(request.user, part_id)
    return download(report.pages(view), "application/pdf", f"{slugify(view.part.name) or 'part'}-report.pdf")


@router.post(
    "/{release_id}/review",
    response={200: ReleaseOut, 403: Problem, 404: Problem, 409: Problem, 422: Problem},
    operation_id="review_release",
)
def review_release(request: HttpRequest, release_id: UUID, body: ReviewIn):
    """A second person's word on a part that could injure."""
    given = queries.release_of(request.user, release_id)
    return queries.out(actions.review(request.user, given, body.approved, body.words))


@router.post(
    "/{release_id}/take-back",
    response={204: None, 403: Problem, 404: Problem, 409: Problem},
    operation_id="take_release_back",
)
def take_release_back(request: HttpRequest, release_id: UUID):
    actions.take_back(request.user, queries.release_of(request.user, release_id))
    return Status(204, None)


@router.get("/{release_id}/packet", operation_id="get_packet", openapi_extra=BYTES)
def get_packet(request: HttpRequest, release_id: UUID):
    """Everything that was released, in one archive that can be checked."""
    given = queries.release_of(request.user, release_id)
    name = f"{slugify(given.part.name) or 'part'}-r{given.part.revision}-{given.kind}.zip"
    return download(actions.packet_of(request.user, given), "application/zip", name)


@router.get(
    "/{release_id}/against/{other_release}",
    response={200: list[ReleaseDifference], 404: Problem},
    operation_id="compare_releases",
)
def compare_releases(request: HttpRequest, release_id: UUID, other_release: UUID):
    """What two releases differ in, in words."""
    return queries.differences(
        queries.release_of(request.user, release_id), queries.release_of(request.user, other_release)
    )
