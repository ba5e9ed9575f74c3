"""The only file of this app that calls the engine."""

from dataclasses import asdict
from typing import Any

from hewel_engine.errors import InputError
from hewel_engine.reckoning.card import named
from hewel_engine.reckoning.cards import CARDS
from hewel_engine.reckoning.explained import EXPLAINED, KEYS
from hewel_engine.reckoning.sizes import sizes as sizes_of_standards

__all__ = ["KEYS", "InputError"]


def _named(key: str) -> dict[str, str]:
    words, unit = named(key)
    return {"key": key, "words": words, "unit": unit}


def cards() -> list[dict[str, Any]]:
    """Every card: its ``key`` and ``words``, inputs and outputs with words and unit, formula, source, limits."""
    return [
        {
            "key": card.key,
            "words": card.key.replace("_", " "),
            "inputs": [i.as_dict() | _named(i.name) for i in card.inputs],
            "outputs": [_named(name) for name in card.outputs],
            "formula": card.formula,
            "source": card.source,
            "limits": list(card.limits),
        }
        for card in CARDS.values()
    ]


def kinds_of(key: str) -> dict[str, tuple[str, str]] | None:
    """Of every input of a card its kind and unit; None where there is no such card."""
    card = CARDS.get(key)
    return card and {i.name: (i.kind, i.unit) for i in card.inputs}


def answered(key: str, given: dict[str, str]) -> dict[str, Any]:
    """Inputs with their defaults, outputs and what is to be said of them. Raises InputError ``bad_options``."""
    card = CARDS[key]
    inputs = card.read(given)
    outputs, notes = card.reckon(**inputs)
    return {"inputs": inputs, "outputs": outputs, "warnings": [n["message"] for n in notes]}


def explained() -> list[dict[str, str]]:
    """The numbers of a job, each in a few lines."""
    return [asdict(e) for e in EXPLAINED]


def sizes() -> list[dict[str, Any]]:
    """The table of sizes: every number with its source and how sure it is."""
    words = lambda text: text.replace("_", " ")
    return [
        asdict(s) | {"item": words(s.item), "key": words(s.key), "doubtful": s.doubtful} for s in sizes_of_standards()
    ]
