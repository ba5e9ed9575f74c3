"""The practice bench: guess first, then see what is calculated, and the rule behind it."""

from dataclasses import asdict
from typing import Literal
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema, Status
from pydantic import Field

from hewel.refusal import Problem, Refused
from practice import queries
from practice.models import Guess
from practice.questions import STAGES

router = Router(tags=["practice"])
Kind = Literal["direction", "hanging", "layer", "batch"]


class Exercise(Schema):
    """``right`` of the first guess; None where there is none yet."""

    part: UUID
    name: str
    kind: Kind
    right: bool | None


class Score(Schema):
    name: str
    right: int
    of: int
    mine: bool


class Bench(Schema):
    exercises: list[Exercise]
    scores: list[Score]


class PosedOut(Schema):
    part: UUID
    name: str
    kind: Kind
    ask: str
    choices: list[str]


class Told(Schema):
    words: str
    told: str


class GuessedOut(Schema):
    """What is calculated: the right choice, what is known of each, the rule, and the stage that shows it."""

    right: bool
    picked: str
    answer: str
    choices: list[Told]
    rule: str
    stage: str


class GuessIn(Schema):
    picked: str = Field(max_length=200)


@router.get("", response=Bench, operation_id="get_bench")
def get_bench(request: HttpRequest):
    return {"exercises": queries.exercises(request.user), "scores": queries.scores(request.user)}


@router.get("/{part_id}/{kind}", response={200: PosedOut, 404: Problem, 409: Problem}, operation_id="get_exercise")
def get_exercise(request: HttpRequest, part_id: UUID, kind: str):
    """A question without its answer."""
    view, found = queries.question_of(request.user, part_id, kind)
    choices = [c.words for c in found.choices]
    return {"part": part_id, "name": view.part.name, "kind": kind, "ask": found.ask, "choices": choices}


@router.post(
    "/{part_id}/{kind}", response={201: GuessedOut, 404: Problem, 409: Problem, 422: Problem}, operation_id="guess"
)
def guess(request: HttpRequest, part_id: UUID, kind: str, body: GuessIn):
    """Keeps the guess, and tells what is calculated."""
    view, found = queries.question_of(request.user, part_id, kind)
    if body.picked not in [c.words for c in found.choices]:
        raise Refused("no_choice", "This is none of the choices.", "Take one of those that are shown.", 422)
    made = Guess.objects.create(
        user=request.user, part=view.part, kind=kind, picked=body.picked, answer=found.answer
    )  # fmt: skip
    told = {"right": made.right, "picked": made.picked, "answer": found.answer, "rule": found.rule}
    return Status(201, told | {"choices": [asdict(c) for c in found.choices], "stage": STAGES[kind]})
