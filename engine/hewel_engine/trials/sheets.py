"""What is read off each coupon: its columns, where to measure, and the numbers that come of it (coupons). Lengths mm,
angles degrees from the vertical, forces N, stresses MPa, times s.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from hewel_engine.errors import InputError
from hewel_engine.printing.weld import Weld
from hewel_engine.processes import Process

Row = dict[str, Any]
"""One reading: its columns by name, the ``plate`` it is from, ``keep`` where somebody has looked and it counts although
it lies apart."""


@dataclass(frozen=True)
class Column:
    """One number or choice of a reading. ``low`` and ``high`` bound what can be entered; ``wanted`` must be given."""

    name: str
    words: str
    unit: str = ""
    low: float = 0.0
    high: float = 1e6
    choices: tuple[str, ...] = ()
    wanted: bool = True


@dataclass(frozen=True)
class Known:
    """What else a sheet rests on: the process, shares that the material shrinks by, what an upright bore of 10 mm
    loses, the excess of an outer line, the strength between layers (None: no coupon of it), the weld.
    """

    process: Process
    shrink_xy: float
    shrink_z: float
    bore_loss: float
    line_excess: float
    z_t: float | None
    weld: Weld


@dataclass(frozen=True)
class Found:
    """A number that the readings give: ``name`` of its field in a capability record, None where that has none."""

    name: str | None
    words: str
    unit: str
    value: float
    low: float
    high: float
    deviation: float | None
    count: int
    plates: int

    @property
    def doubt(self) -> float:
        """Half of its 95 % band."""
        return (self.high - self.low) / 2


@dataclass(frozen=True)
class Point:
    x: float
    y: float
    row: int
    counts: bool


@dataclass(frozen=True)
class Plot:
    """Readings and what was fitted: words and unit of both axes, the points, the fit as a line through places."""

    x: str
    y: str
    points: list[Point]
    line: list[tuple[float, float]] = field(default_factory=list)


@dataclass(frozen=True)
class Fitted:
    """``apart``: rows that lie apart and were left out; ``bounds``: rows that are lower bounds (grip breaks, what did
    not break) and were not averaged; ``says``: what to know about it.
    """

    found: list[Found] = field(default_factory=list)
    says: list[str] = field(default_factory=list)
    apart: list[int] = field(default_factory=list)
    bounds: list[int] = field(default_factory=list)
    plot: Plot | None = None


Fit = Callable[[list[Row], Known], Fitted]


@dataclass(frozen=True)
class Sheet:
    """Of one coupon. ``gives``: fields of a capability record; ``least``: plates that a number wants; ``marks``: places
    to measure, drawn beside the coupon.
    """

    key: str
    title: str
    where: str
    columns: tuple[Column, ...]
    gives: tuple[str, ...]
    least: int
    fit: Fit
    months: int = 12
    """After which its numbers are old."""


PLATE = Column("plate", "plate")


def checked(sheet: Sheet, rows: list[Row]) -> list[Row]:
    """The readings in their own types. Raises InputError ``bad_options`` with the row and what is allowed."""
    out = []
    for number, row in enumerate(rows, start=1):
        made: Row = {"plate": str(row.get("plate") or "").strip() or "1", "keep": bool(row.get("keep"))}
        if len(made["plate"]) > 20:
            raise _wrong(number, "the name of its plate is too long", "Use a number or a short name.")
        for column in sheet.columns:
            made[column.name] = _value(column, row.get(column.name), number)
        out.append(made)
    return out


def _value(column: Column, given: Any, number: int) -> Any:
    if given is None or given == "":
        if column.wanted:
            raise _wrong(number, f"{column.words} is missing", "Type it, or take the reading out.")
        return None
    if column.choices:
        if given not in column.choices:
            raise _wrong(
                number, f"{column.words} cannot be {given!r}", "Use one of: " + ", ".join(column.choices) + "."
            )
        return given
    if isinstance(given, bool) or not isinstance(given, int | float) or not column.low <= given <= column.high:
        unit = f" {column.unit}" if column.unit else ""
        hint = f"Give a value from {column.low:g} to {column.high:g}{unit}."
        raise _wrong(number, f"{column.words} cannot be {given!r}", hint)
    return float(given)


def _wrong(number: int, words: str, hint: str) -> InputError:
    return InputError("bad_options", f"Reading {number}: {words}.", hint)
