"""A coupon's sheet as people write it: what was printed, how, and the readings."""

from datetime import date
from typing import Annotated
from uuid import UUID

from pydantic import AfterValidator, Field

from coupons import bridge
from farm.forms import Form, Key, Line, bad, validated
from hewel.quantities import NotUnderstood, in_unit
from needs.forms import distinct

MOST_ROWS = 1000


class ReadingRow(Form):
    """One reading: its columns by name as they were typed, the ``plate`` it is from; ``keep``: it counts although it
    lies apart from the others.
    """

    id: Key
    plate: Annotated[Line, Field(max_length=20)] = "1"
    keep: bool = False
    values: Annotated[dict[Key, float | Line | None], Field(max_length=20)] = {}
    note: Line = ""


class CouponIn(Form):
    """``compensated``: it was printed with scaling or widening on, so that its numbers are what is left of it.
    ``give`` mm/N of the stand, by a steel bar.
    """

    key: Key
    machine: UUID
    material: Key
    profile: UUID | None = None
    printed: date | None = None
    operator: Line = ""
    room_c: float | None = Field(None, ge=-20, le=60, allow_inf_nan=False)
    layer: float | None = Field(None, gt=0, le=2, allow_inf_nan=False)
    lot: Line = ""
    dried: Line = ""
    compensated: bool = False
    note: Line = ""
    give: float | None = Field(None, gt=0, le=0.01, allow_inf_nan=False)
    give_off: float = Field(0.0, ge=0, le=0.01, allow_inf_nan=False)
    rows: Annotated[list[ReadingRow], Field(max_length=MOST_ROWS), AfterValidator(distinct)] = []


def content(given: dict) -> dict:
    """A sheet's content, numbers in the units of their columns. Raises Refused with the reading and what is wrong."""
    form = validated(CouponIn, given, "coupon")
    columns = {c["name"]: c for c in bridge.sheet(form.key)["columns"]}
    for number, row in enumerate(form.rows, start=1):
        unknown = next((name for name in row.values if name not in columns), None)
        if unknown is not None:
            raise bad(f"Reading {number}: this coupon has no column “{unknown}”.", "Reload the page.")
        row.values = {
            name: _value(number, columns[name], value) for name, value in row.values.items() if value not in (None, "")
        }
    return form.model_dump(mode="json")


def _value(number: int, column: dict, typed: float | str | None) -> float | str | None:
    if column["choices"] or not isinstance(typed, str):
        return typed
    try:
        return in_unit(typed, column["unit"])
    except NotUnderstood as error:
        raise bad(f"Reading {number}, {column['words']}: {error}") from None
