"""Sizes of threads, screws, nuts, washers, pins, keys and inserts: facts of published standards, each with its source
and how sure it is. Lengths mm, areas mm², stresses MPa.
"""

import csv
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from hewel_engine.records import Field

FILE = Path(__file__).with_name("sizes.csv")
UNITS = {"mm2": "mm²", "deg": "°"}


@dataclass(frozen=True)
class Size:
    """One number of one size of an item: ``key`` says which; ``sure`` *sure*, *fairly sure* or what to check."""

    item: str
    size: str
    key: str
    value: float
    unit: str
    source: str
    sure: str
    note: str

    @property
    def doubtful(self) -> bool:
        return self.sure != "sure"


@cache
def sizes() -> tuple[Size, ...]:
    """All of them, in the order of the table."""
    with FILE.open(encoding="utf-8", newline="") as file:
        return tuple(
            Size(**row | {"value": float(row["value"]), "unit": UNITS.get(row["unit"], row["unit"])})
            for row in csv.DictReader(file)
        )


@cache
def items() -> dict[str, tuple[str, ...]]:
    """The keys of every item, in the order of the table."""
    names = dict.fromkeys(s.item for s in sizes())
    return {name: tuple(dict.fromkeys(s.key for s in sizes() if s.item == name)) for name in names}


@cache
def own_fields() -> tuple[Field, ...]:
    """What a workshop may say of a size of its own: every number that the table has of some item."""
    units = {s.key: s.unit for s in sizes()}
    return tuple(Field(key, key.replace("_", " "), unit, None, 0.001, 1e4) for key, unit in units.items())


def size_of(item: str, size: str, key: str) -> Size | None:
    """One number; None where the table has none."""
    return next((s for s in sizes() if (s.item, s.size, s.key) == (item, size, key)), None)
