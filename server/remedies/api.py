"""Remedies: working them out, seeing what they change, taking them as a revision."""

from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Status

from hewel.answers import BYTES, download, for_good
from hewel.refusal import Problem, Refused
from parts import queries as parts
from remedies import actions, queries
from remedies.schemas import AfterwardsOut, LookOut, OrderIn, RemediesOut, Step
from store import actions as store
from work.api import WorkOut

router = Router(tags=["remedies"])


@router.get("/of/{part_id}", response={200: RemediesOut, 404: Problem}, operation_id="get_remedies")
def get_remedies(request: HttpRequest, part_id: UUID):
    return queries.remedies_out(parts.part_of(request.user, part_id))


@router.post(
    "/of/{part_id}",
    response={202: RemediesOut, 403: Problem, 404: Problem, 409: Problem, 422: Problem},
    operation_id="work_remedies_out",
)
def work_remedies_out(request: HttpRequest, part_id: UUID, said: OrderIn):
    """Works out what would remove the need for support, or a recipe; on the solid itself."""
    part = parts.part_of(request.user, part_id)
    actions.order_proposal(request.user, part, said.steps and [s.model_dump() for s in said.steps])
    return Status(202, queries.remedies_out(part))


@router.post(
    "/of/{part_id}/look",
    response={200: LookOut, 404: Problem, 409: Problem, 422: Problem},
    operation_id="look_at_remedy",
)
def look_at_remedy(request: HttpRequest, part_id: UUID, step: Step):
    """What one remedy would add and take away, with the numbers set so; nothing is kept or proved."""
    return actions.look(request.user, parts.part_of(request.user, part_id), step.model_dump())


@router.get("/after/{part_id}", response={200: AfterwardsOut, 404: Problem}, operation_id="get_afterwards")
def get_afterwards(request: HttpRequest, part_id: UUID):
    """What remedies come to in the best directions."""
    return queries.afterwards_out(parts.part_of(request.user, part_id))


@router.post(
    "/after/{part_id}",
    response={202: AfterwardsOut, 403: Problem, 404: Problem, 409: Problem, 422: Problem},
    operation_id="work_afterwards_out",
)
def work_afterwards_out(request: HttpRequest, part_id: UUID):
    """Works remedies out in the best directions and ranks them by what is left."""
    part = parts.part_of(request.user, part_id)
    actions.order_afterwards(request.user, part)
    return Status(202, queries.afterwards_out(part))


@router.post(
    "/{proposal_id}/take",
    response={202: WorkOut, 403: Problem, 404: Problem, 409: Problem},
    operation_id="take_remedies",
)
def take_remedies(request: HttpRequest, proposal_id: UUID):
    """Makes a revision of the part as the proposal left it."""
    return Status(202, actions.take(request.user, queries.proposal_of(request.user, proposal_id)))


@router.get("/{proposal_id}/changes", operation_id="get_changes", openapi_extra=BYTES)
def get_changes(request: HttpRequest, proposal_id: UUID):
    """The changes in words, with places and dimensions, for whoever owns the CAD model."""
    text = queries.changes_text(queries.proposal_of(request.user, proposal_id))
    return download(text, "text/plain; charset=utf-8", "changes.txt")


@router.get("/{proposal_id}/view/{digest}", operation_id="get_proposal_view", openapi_extra=BYTES)
def get_proposal_view(request: HttpRequest, proposal_id: UUID, digest: str):
    """The changed part for drawing."""
    proposal = queries.proposal_of(request.user, proposal_id)
    if proposal.view is None or proposal.view.digest != digest:
        raise Refused("not_found", "This proposal has no such drawing.", "Load the page again.", 404)
    return for_good(store.get(proposal.view))
