"""What results rest on, by name: when two values are one, and what is said where they differ."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from needs.queries import bare
from stages import bridge


def _as_it_is(value: Any) -> Any:
    return value


def _rounded(up: list[float] | None) -> list[float] | None:
    return up and [round(v, 9) + 0.0 for v in up]


def _directions(ups: list) -> list:
    return [_rounded(up) for up in ups]


def _turned(before: list[float] | None, now: list[float] | None) -> bool:
    return before != now and not (before and now and bridge.same_direction(before, now))


def _other(before: Any, now: Any) -> bool:
    return before != now


@dataclass(frozen=True)
class Input:
    words: str
    """What has changed, where it has."""
    counts: Callable[[Any], Any] = _as_it_is
    """What of a value counts."""
    differs: Callable[[Any, Any], bool] = _other
    """Whether two values, as far as they count, are worth telling apart."""


INPUTS: dict[str, Input] = {
    "up": Input("direction", _rounded, _turned),
    "ups": Input("directions", _directions),
    "loads": Input("loads", bare),
    "movements": Input("permitted movements"),
    "bond": Input("weld of the batch"),
    "service": Input("circumstances of use"),
    "protected": Input("faces that must not be scarred"),
    "supports": Input("support policy"),
    "free": Input("spaces that stay free"),
    "steps": Input("recipe"),
    "rows": Input("hardware"),
    "touching": Input("touching faces"),
    "flexing": Input("what bends"),
    "features": Input("features"),
    "numbers": Input("numbers of the fits"),
    "picked": Input("faces that were picked"),
    "request": Input("what was asked for"),
    "clearance": Input("fit"),
    "bed": Input("machine or plate"),
    "others": Input("other parts on the plate"),
    "welding": Input("what the weld depends on"),
}
"""The process is apart: each of its numbers is told."""


def counted(inputs: dict) -> dict:
    """Of inputs what counts, for a digest."""
    return {name: INPUTS[name].counts(value) for name, value in inputs.items()}


def changed(before: dict, now: dict) -> list[str]:
    """The inputs that differ, in words; what the earlier result did not know yet is left aside. While directions are
    studied none is known: that alone is no change.
    """
    words = []
    for name in now.keys() & before.keys() - ({"up"} if now.get("up") is None else set()):
        known = INPUTS[name]
        if known.differs(known.counts(before[name]), known.counts(now[name])):
            words.append(known.words)
    return sorted(words, key=[i.words for i in INPUTS.values()].index)
