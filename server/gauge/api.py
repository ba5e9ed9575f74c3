"""Gauge cards: one sum at a time, with units as people write them. Nothing of them is kept."""

from typing import Any, Literal

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from gauge import bridge
from hewel.quantities import NotUnderstood, in_unit
from hewel.refusal import Problem, not_found

router = Router(tags=["cards"])
MOST = 4000
"""Characters of one input: a column of readings."""


class CardOutput(Schema):
    key: str
    words: str
    unit: str


class CardInput(CardOutput):
    """``default`` None: it must be given. ``kind``: number, whole, yes_no or list (readings, separated by commas)."""

    kind: str
    default: float | None


class CardOut(Schema):
    key: str
    words: str
    inputs: list[CardInput]
    outputs: list[CardOutput]
    formula: str
    source: str
    limits: list[str]


class CardIn(Schema):
    """Inputs by their keys, as they were typed; those that are left out take their defaults."""

    card: str = Field(max_length=40)
    inputs: dict[str, str] = Field(max_length=40)


class CardProblem(Schema):
    message: str
    hint: str


class CardAnswer(Schema):
    """``problem`` where there is no answer: a card is asked while it is being typed, so that is no error."""

    problem: CardProblem | None = None
    inputs: dict[str, Any]
    outputs: dict[str, Any]
    """None where there is no such value."""
    warnings: list[str]


@router.get("", response=list[CardOut], operation_id="list_cards")
def list_cards(request: HttpRequest):
    return bridge.cards()


class HardwareSize(Schema):
    """One number of one size of an item, of a published standard."""

    item: str
    size: str
    key: str
    value: float
    unit: str
    source: str
    sure: str
    doubtful: bool
    note: str


@router.get("/sizes", response=list[HardwareSize], operation_id="list_sizes")
def list_sizes(request: HttpRequest):
    """Threads, screws, nuts, washers, pins, keys, inserts."""
    return bridge.sizes()


class ExplainedOut(Schema):
    """What a number of a job says, its formula and source, how far it holds, the stages that go by it."""

    key: Literal[bridge.KEYS]  # type: ignore[valid-type]
    name: str
    says: str
    formula: str
    source: str
    holds: str
    used: str


@router.get("/explained", response=list[ExplainedOut], operation_id="list_explained")
def list_explained(request: HttpRequest):
    return bridge.explained()


@router.post("", response={200: CardAnswer, 404: Problem}, operation_id="answer_card")
def answer_card(request: HttpRequest, payload: CardIn):
    kinds = bridge.kinds_of(payload.card)
    if kinds is None:
        raise not_found("card")
    given = {}
    try:
        for name, text in payload.inputs.items():
            kind, unit = kinds.get(name, ("number", ""))
            given[name] = _plain(text.strip()[:MOST], kind, unit)
        return bridge.answered(payload.card, {name: text for name, text in given.items() if text})
    except NotUnderstood as error:
        return _none(f"{name.replace('_', ' ')}: {error}", "Correct it.")
    except bridge.InputError as error:
        return _none(error.message, error.hint)


def _none(message: str, hint: str) -> dict:
    return {"problem": {"message": message, "hint": hint}, "inputs": {}, "outputs": {}, "warnings": []}


def _plain(text: str, kind: str, unit: str) -> str:
    """What was typed as plain numbers in the card's own unit; empty where nothing was. Raises NotUnderstood."""
    words = text.split(",") if kind == "list" else [text]
    return ",".join(repr(in_unit(word, unit)) for word in words if word.strip())
