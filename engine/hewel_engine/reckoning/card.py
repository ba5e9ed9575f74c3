"""What a card is, and how its inputs are read. Keys end in their unit; no ending is a plain number."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from math import isfinite, isinf
from typing import Any

from hewel_engine.errors import InputError, Note

Answer = tuple[dict[str, Any], list[Note]]
Answered = tuple[Any, ...]
"""The outputs in turn; or the outputs, and what is to be said of them."""
MOST = 1e12


@dataclass(frozen=True)
class Input:
    """``low`` to ``high``, ``low`` itself only where it is ``allowed``. ``kind``: number, whole, yes_no or list.
    ``default`` None: it must be given.
    """

    name: str
    low: float = 0.0
    high: float = MOST
    allowed: bool = False
    kind: str = "number"
    default: Any = None

    @property
    def unit(self) -> str:
        return named(self.name)[1]

    def read(self, text: str) -> Any:
        """Raises InputError ``bad_options``."""
        if self.kind == "list":
            return [self._number(word) for word in text.split(",")]
        value = self._number(text)
        if self.kind == "yes_no":
            if value not in (0, 1):
                raise self._wrong(text, "Give 0 or 1.")
            return value == 1
        if self.kind == "whole" and value != int(value):
            raise self._wrong(text, "Give a whole number.")
        return int(value) if self.kind == "whole" else value

    def _number(self, text: str) -> float:
        try:
            value = float(text)
        except ValueError:
            raise self._wrong(text, "Give a number.") from None
        low = value >= self.low if self.allowed else value > self.low
        if not isfinite(value) or not low or value > self.high:
            above = "at least" if self.allowed else "above"
            below = "" if self.high >= MOST else f" and at most {self.high:g}"
            bounds = f"Give a number{below}." if isinf(self.low) else f"Give a number {above} {self.low:g}{below}."
            raise self._wrong(text, bounds)
        return value

    def _wrong(self, text: str, hint: str) -> InputError:
        return InputError("bad_options", f"{self.name} cannot be {text or 'nothing'}.", hint)

    def as_dict(self) -> dict:
        bound = lambda v: None if isinf(v) or v >= MOST else v
        return {
            "key": self.name, "unit": self.unit, "kind": self.kind, "default": self.default, "low": bound(self.low),
            "low_allowed": self.allowed, "high": bound(self.high),
        }  # fmt: skip


UNITS = {
    "_mm_n": "mm/N", "_n_mm": "N/mm", "_nmm": "N·mm", "_mm2": "mm²", "_mm3": "mm³", "_mm4": "mm⁴", "_mm": "mm",
    "_mpa": "MPa", "_deg": "°", "_per_k": "1/K", "_percent": "%", "_ppm": "ppm", "_n": "N", "_s": "s", "_k": "K",
}  # fmt: skip


def named(key: str) -> tuple[str, str]:
    """A key as people read it, and its unit."""
    ending = next((e for e in UNITS if key.endswith(e)), "")
    return key.removesuffix(ending).replace("_", " "), UNITS.get(ending, "")


@dataclass(frozen=True)
class Card:
    """``work`` takes the inputs by name and gives the outputs, with whatever is to be said of them."""

    key: str
    inputs: tuple[Input, ...]
    outputs: tuple[str, ...]
    formula: str
    source: str
    limits: tuple[str, ...]
    work: Callable[..., Answer]

    def read(self, given: Mapping[str, str]) -> dict[str, Any]:
        """Every input, from text, defaults filled in. Raises InputError ``bad_options``."""
        known = {i.name: i for i in self.inputs}
        for name in given:
            if name not in known:
                hint = f"It takes {', '.join(known)}."
                raise InputError("bad_options", f"The card {self.key} knows no {name}.", hint)
        out = {}
        for name, own in known.items():
            if name in given:
                out[name] = own.read(given[name])
            elif own.default is None:
                raise InputError("bad_options", f"The card {self.key} needs {name}.", f"Give {name}=… .")
            else:
                out[name] = own.default
        return out

    def reckon(self, **inputs: Any) -> Answer:
        """Outputs by name, finite numbers or None, with warnings. Raises InputError ``bad_options``."""
        try:
            outputs, notes = self.work(**inputs)
        except (ZeroDivisionError, OverflowError, ValueError):
            hint = "Look at the numbers: two of them do not go together."
            raise InputError("bad_options", f"The card {self.key} has no answer to that.", hint) from None
        assert tuple(outputs) == self.outputs, f"{self.key} promises {self.outputs}"
        number = lambda v: isinstance(v, float) and not isfinite(v)
        return {name: None if number(v) else v for name, v in outputs.items()}, notes

    def as_dict(self) -> dict:
        return {
            "card": self.key, "inputs": [i.as_dict() for i in self.inputs], "outputs": list(self.outputs),
            "formula": self.formula, "source": self.source, "limits": list(self.limits),
        }  # fmt: skip


CARDS: dict[str, Card] = {}


def card(key: str, inputs: list[Input], outputs: str, formula: str, source: str, *limits: str) -> Callable:
    """Makes a card of the function that follows."""

    def made(work: Callable[..., Any]) -> Callable[..., Any]:
        def answer(**given: Any) -> Answer:
            found = work(**given)
            values, notes = found if isinstance(found, tuple) and isinstance(found[-1], Said) else (found, Said())
            return dict(zip(outputs.split(), values, strict=True)), list(notes)

        CARDS[key] = Card(key, tuple(inputs), tuple(outputs.split()), formula, source, limits, answer)
        return work

    return made


class Said(list):
    """What is to be said of an answer; the last thing that a card's function gives."""

    def outside(self, wrong: bool, words: str) -> "Said":
        """Where the formula does not hold."""
        if wrong:
            self.append(Note("outside_validity", words))
        return self

    def beyond(self, wrong: bool, words: str) -> "Said":
        """Where an answer lies beyond what was read."""
        if wrong:
            self.append(Note("extrapolated", words))
        return self

    def few(self, count: int) -> "Said":
        if count < 3:
            self.append(Note("few_readings", f"{count} readings say little: three are the least."))
        return self


def refuse(wrong: bool, message: str, hint: str) -> None:
    if wrong:
        raise InputError("bad_options", message, hint)


def same_length(first: list[float], second: list[float]) -> None:
    refuse(len(first) != len(second), "The lists are not of one length.", "Give one for each of the other.")


# ------------------------------------------------------------------ inputs in short


def above(*names: str, default: Any = None, high: float = MOST) -> list[Input]:
    """Above 0."""
    return [Input(n, 0.0, high, default=default) for n in names]


def from_zero(*names: str, default: Any = None, high: float = MOST) -> list[Input]:
    """0 and above."""
    return [Input(n, 0.0, high, allowed=True, default=default) for n in names]


def signed(*names: str, default: Any = None) -> list[Input]:
    return [Input(n, -MOST, MOST, allowed=True, default=default) for n in names]


def share(*names: str, default: Any = None) -> list[Input]:
    """Above 0 and at most 1."""
    return [Input(n, 0.0, 1.0, default=default) for n in names]


def poisson(*names: str) -> list[Input]:
    return [Input(n, 0.0, 0.5, allowed=True) for n in names]


def angle(*names: str, high: float = 90.0, default: Any = None) -> list[Input]:
    return [Input(n, 0.0, high, allowed=True, default=default) for n in names]


def whole(*names: str, low: int = 1, default: Any = None) -> list[Input]:
    return [Input(n, float(low), 1e6, allowed=True, kind="whole", default=default) for n in names]


def yes_no(*names: str) -> list[Input]:
    return [Input(n, 0.0, 1.0, allowed=True, kind="yes_no") for n in names]


def readings(*names: str, low: float = 0.0, allowed: bool = False) -> list[Input]:
    return [Input(n, low, MOST, allowed=allowed, kind="list") for n in names]


STATISTICS = [
    Input("share", 0.5, 0.9999, default=0.95), Input("confidence", 0.5, 0.9999, default=0.90),
]  # fmt: skip
