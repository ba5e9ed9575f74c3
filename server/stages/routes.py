"""The addresses that every stage has: reading it, ordering it, its content for drawing."""

from collections.abc import Callable
from typing import Any
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema, Status

from hewel.refusal import Problem, Refused
from hewel.responses import BYTES, for_good
from stages.stage import Stage, calculate, result_of
from store import actions as store


def stage_router(
    stage: Stage,
    view_of: Callable[[Any, UUID], Any],
    out: Callable[[Any], dict],
    schema: type[Schema],
    asked: type[Schema] | None = None,
    understood: Callable[[Any, Any], Any] = lambda view, payload: payload,
    drawn: tuple[str, ...] = ("view",),
) -> Router:
    """``view_of`` (user, part id) reads a job, ``out`` tells what is known of it as ``schema``. Where a person asks for
    something, it has the form ``asked``, and ``understood`` (view, payload) makes of it what the stage's inputs take.
    ``drawn``: the content that the page draws; a printable file has an address of its own, behind the gate.
    """
    router = Router(tags=[stage.key])

    @router.get("/of/{part_id}", response={200: schema, 404: Problem}, operation_id=f"get_{stage.key}")
    def get(request: HttpRequest, part_id: UUID):
        return out(view_of(request.user, part_id))

    def ordered(request: HttpRequest, part_id: UUID, payload: Any = None) -> Status:
        view = view_of(request.user, part_id)
        calculate(stage, request.user, view, None if payload is None else understood(view, payload))
        return Status(202, out(view_of(request.user, part_id)))

    answers = {202: schema, 403: Problem, 404: Problem, 409: Problem, 422: Problem}
    if asked is None:

        @router.post("/of/{part_id}", response=answers, operation_id=f"calculate_{stage.key}")
        def post(request: HttpRequest, part_id: UUID):
            return ordered(request, part_id)

    else:

        @router.post("/of/{part_id}", response=answers, operation_id=f"calculate_{stage.key}")
        def post_asked(request: HttpRequest, part_id: UUID, payload: asked):  # type: ignore[valid-type]
            return ordered(request, part_id, payload)

    if not drawn:
        return router

    @router.get("/{result_id}/content/{what}/{digest}", operation_id=f"get_{stage.key}_content", openapi_extra=BYTES)
    def content(request: HttpRequest, result_id: UUID, what: str, digest: str):
        """Content for drawing, named by its digest so that a browser may keep it for good."""
        result = result_of(stage, request.user, result_id)
        blob = getattr(result, what) if what in drawn else None
        if blob is None or blob.digest != digest:
            raise Refused("not_found", "There is no such drawing.", "Reload the page.", 404)
        return for_good(store.get(blob))

    return router
