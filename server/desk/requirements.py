"""What a part must do: pointing at faces, equilibrium, coverage, the loads file, cautions."""

import json
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from django.utils.text import slugify
from ninja import Router

from hewel.refusal import Problem, Refused, unusable
from hewel.responses import BYTES, download
from needs import actions, bridge, queries
from needs.schemas import BaseIn, BoreOut, LoadsIn, NeedsOut, PointIn, PointOut, SpaceOut
from parts import queries as parts
from studies.view import DirectedJob

router = Router(tags=["needs"])
WRITES = {200: NeedsOut, 403: Problem, 404: Problem, 409: Problem, 422: Problem}


@router.get("/{part_id}", response={200: NeedsOut, 404: Problem}, operation_id="get_needs")
def get_needs(request: HttpRequest, part_id: UUID):
    """What the job's requirements, loads and faces come to."""
    return queries.summary(parts.part_of(request.user, part_id))


@router.post("/{part_id}/point", response={200: PointOut, 404: Problem, 422: Problem}, operation_id="point_at")
def point_at(request: HttpRequest, part_id: UUID, at: PointIn):
    """What pointing at a facet means: a bore, a pin, a flat or a face, with its area and direction."""
    part = parts.part_of(request.user, part_id)
    try:
        return bridge.point(queries.held(part), at.facet, at.wide)
    except bridge.InputError as error:
        raise unusable(error) from None


@router.get("/{part_id}/spaces", response={200: list[SpaceOut], 404: Problem}, operation_id="get_spaces")
def get_spaces(request: HttpRequest, part_id: UUID):
    """The spaces that stay free, as bodies to be drawn: those that are written, and those that look used."""
    return queries.spaces_out(parts.part_of(request.user, part_id))


@router.get("/{part_id}/paint", operation_id="get_paint", openapi_extra=BYTES)
def get_paint(request: HttpRequest, part_id: UUID):
    """One byte a facet: 1 + the place of the region it lies in, 0 for none."""
    part = parts.part_of(request.user, part_id)
    shapes = [(r["shape"], r["name"]) for r in part.job["regions"]["rows"]]
    answer = HttpResponse(bridge.paint(queries.held(part), shapes), content_type="application/octet-stream")
    answer["Cache-Control"] = "no-cache"
    return answer


@router.get("/{part_id}/bores", response={200: list[BoreOut], 404: Problem}, operation_id="get_bores_in")
def get_bores_in(request: HttpRequest, part_id: UUID, x: float = 0.0, y: float = 0.0, z: float = 1.0):
    """How every bore with a fit lies in a direction."""
    part = parts.part_of(request.user, part_id)
    length = (x * x + y * y + z * z) ** 0.5
    if not 1e-9 < length < 1e9:
        raise Refused("bad_options", "A direction cannot be 0, 0, 0.", "Give three numbers like 0, 0, 1.", 422)
    return queries.fitted_bores(part, [x / length, y / length, z / length], DirectedJob(part).study.process)


@router.get("/{part_id}/loads", operation_id="get_loads", openapi_extra=BYTES)
def get_loads(request: HttpRequest, part_id: UUID, plain: bool = False):
    """The job's loads file; ``plain`` writes faces as facet numbers, for readers that know no faces."""
    part = parts.part_of(request.user, part_id)
    loads = queries.loads_file(part.job)
    try:
        loads = (
            bridge.plain_loads(queries.held(part), loads) if plain else bridge.checked_loads(queries.held(part), loads)
        )
    except bridge.InputError as error:
        raise unusable(error) from None
    name = slugify(part.name) or "part"
    return download(json.dumps(loads, indent=1), "application/json", f"{name}-loads.json")


@router.put("/{part_id}/loads", response=WRITES, operation_id="take_loads")
def take_loads(request: HttpRequest, part_id: UUID, body: LoadsIn):
    """Puts a loads file in the place of the job's loads."""
    part = parts.part_of(request.user, part_id)
    actions.take_loads(request.user, part, body.base, body.loads)
    return queries.summary(part)


@router.post("/{part_id}/acknowledge", response=WRITES, operation_id="acknowledge")
def acknowledge(request: HttpRequest, part_id: UUID, body: BaseIn):
    """An engineer has read the cautions."""
    part = parts.part_of(request.user, part_id)
    actions.acknowledge(request.user, part, body.base)
    return queries.summary(part)


@router.post("/{part_id}/settle", response=WRITES, operation_id="settle_requirements")
def settle_requirements(request: HttpRequest, part_id: UUID, body: BaseIn):
    """The list of what the part must do is complete."""
    part = parts.part_of(request.user, part_id)
    actions.settle(request.user, part, body.base)
    return queries.summary(part)
