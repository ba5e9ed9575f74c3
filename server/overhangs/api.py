"""What hangs, layer by layer: walking, findings, the layer log, settling."""

from typing import Annotated
from uuid import UUID

from django.http import HttpRequest
from ninja import Query, Router, Status
from pydantic import Field

from hewel.answers import BYTES, for_good
from hewel.refusal import Problem, Refused
from overhangs import actions, queries
from overhangs.schemas import LogOut, OverhangsOut, SettleIn
from parts import queries as parts
from store import actions as store

router = Router(tags=["overhangs"])


@router.get("/of/{part_id}", response={200: OverhangsOut, 404: Problem}, operation_id="get_overhangs")
def get_overhangs(request: HttpRequest, part_id: UUID):
    return queries.overhangs_out(parts.part_of(request.user, part_id))


@router.post(
    "/of/{part_id}",
    response={202: OverhangsOut, 403: Problem, 404: Problem, 409: Problem, 422: Problem},
    operation_id="walk_layers",
)
def walk_layers(request: HttpRequest, part_id: UUID):
    """Walks the layers in the job's direction, unless that has been done."""
    part = parts.part_of(request.user, part_id)
    actions.order_walk(request.user, part)
    return Status(202, queries.overhangs_out(part))


@router.post(
    "/{walk_id}/settle",
    response={200: OverhangsOut, 403: Problem, 404: Problem, 409: Problem, 422: Problem},
    operation_id="settle_findings",
)
def settle_findings(request: HttpRequest, walk_id: UUID, said: SettleIn):
    walk = queries.walk_of(request.user, walk_id)
    actions.settle(request.user, walk, said.base, said.findings, said.state, said.reason)
    return queries.overhangs_out(parts.part_of(request.user, walk.part_id))


@router.get(
    "/{walk_id}/log", response={200: LogOut, 404: Problem, 409: Problem, 422: Problem}, operation_id="get_layer_log"
)
def get_layer_log(request: HttpRequest, walk_id: UUID, copies: Annotated[int, Query(), Field(ge=1, le=1000)] = 1):
    """Every layer's section, lines and time with so many copies printed together."""
    return queries.log_out(queries.walk_of(request.user, walk_id), copies)


@router.get("/{walk_id}/{what}/{digest}", operation_id="get_layer_bytes", openapi_extra=BYTES)
def get_layer_bytes(request: HttpRequest, walk_id: UUID, what: str, digest: str):
    """``outlines`` of every layer, or ``facets``: the finding of every facet (int16, 0 for none)."""
    walk = queries.walk_of(request.user, walk_id)
    blob = {"outlines": walk.outlines, "facets": walk.facets}.get(what)
    if blob is None or blob.digest != digest:
        raise Refused("not_found", "This walk has no such piece.", "Load the page again.", 404)
    return for_good(store.get(blob))
