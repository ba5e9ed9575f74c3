"""The verb ``reckon``: one card answered, or all of them listed. It loads nothing that a card does not need."""

from hewel_engine.cli.answering import answered
from hewel_engine.errors import InputError
from hewel_engine.reckoning.cards import CARDS


def _given(words: list[str]) -> dict[str, str]:
    out: dict[str, str] = {}
    for word in words:
        name, equals, text = word.partition("=")
        if not equals or name.startswith("-"):
            raise InputError("bad_options", f"{word} is no input.", "Write every input as key=value.")
        if name in out:
            raise InputError("bad_options", f"{name} is given twice.", "Give it once.")
        out[name] = text
    return out


def answer(words: list[str]) -> dict:
    """What the verb prints, without its seconds. Raises InputError ``bad_options``."""
    words = [w for w in words if w != "--json"]
    if not words:
        raise InputError("bad_options", "Which card?", "Name one; reckon list names all of them.")
    key, *rest = words
    if key == "list":
        if rest:
            raise InputError("bad_options", "The list takes no inputs.", "Write reckon list.")
        return {"cards": [card.as_dict() for card in CARDS.values()]}
    if key not in CARDS:
        raise InputError("bad_options", f"There is no card {key}.", "reckon list names all of them.")
    card = CARDS[key]
    inputs = card.read(_given(rest))
    outputs, warnings = card.reckon(**inputs)
    return {
        "card": key, "inputs": inputs, "outputs": outputs, "formula": card.formula, "source": card.source,
        "limits": list(card.limits), "warnings": warnings,
    }  # fmt: skip


def main(words: list[str]) -> int:
    return answered(lambda: {"verb": "reckon", **answer(words)})
