"""What the farm's records look like when written, and what a job says of the process it takes from them."""

from datetime import date
from typing import Annotated, Literal, TypeVar
from uuid import UUID

from pydantic import BaseModel, ConfigDict, Field, StringConstraints, ValidationError

from farm import bridge
from hewel.quantities import NotUnderstood, in_unit
from hewel.refusal import Refused

KINDS = {
    "machine": "machine",
    "material": "material",
    "profile": "process",
    "capability": "capability",
    "size": "size",
}
"""Kinds of records and how people call them."""

Line = Annotated[str, StringConstraints(strip_whitespace=True, pattern=r"^[^\x00]*$", max_length=400)]
Name = Annotated[str, StringConstraints(strip_whitespace=True, pattern=r"^[^\x00]*$", min_length=1, max_length=80)]
Key = Annotated[str, StringConstraints(pattern=r"^[\w-]{1,40}$")]
Origin = Literal["handbook", "maker", "own", "coupon", "trial"]


class Form(BaseModel):
    model_config = ConfigDict(extra="forbid")


class ReadingIn(Form):
    """A value as it was typed, with or without its unit; the range too."""

    typed: str | float | bool
    origin: Origin = "own"
    low: str | float | None = None
    high: str | float | None = None
    note: Line = ""
    count: int | None = Field(None, ge=1, le=100_000)
    plates: int | None = Field(None, ge=1, le=100_000)
    deviation: float | None = Field(None, ge=0, allow_inf_nan=False)
    measured: date | None = None
    sheet: UUID | None = None
    """Of one that was taken from a coupon's sheet: readings, plates, scatter, the day, and the sheet."""


LINKS = ("machine", "material", "profile")
"""Records that a process, and what is measured of it, stands on."""
FROM_SHEET = ("count", "plates", "deviation", "measured", "sheet")


class Unit(Form):
    """One machine of a model."""

    id: Key
    name: Name
    note: Line = ""
    in_service: bool = True
    reached: Literal["by_hand", "simulated", "folder"] = "by_hand"
    """How plates get to it: somebody starts it, the simulated farm, or files in a folder of its own."""


class RecordIn(Form):
    """A record of any kind; the later fields belong to some kinds only."""

    name: Name
    note: Line = ""
    values: dict[Key, ReadingIn] = {}
    machines: list[Unit] = Field([], max_length=200)
    """Of a machine model."""
    grade: Key = "petg"
    """Of a material: the generic grade that it falls back to."""
    machine: UUID | None = None
    material: Key | None = None
    profile: UUID | None = None
    """Of a capability record: what it was measured on; the material a record or a generic grade."""
    measured: date | None = None
    operator: Line = ""
    count: int | None = Field(None, ge=1, le=1000)
    item: Key = "heat_set_insert"
    size: Line = ""
    """Of a size of hardware: what it is of, as the table of sizes calls it, and its size there; the name where none is
    said."""


OWN = {
    "machine": {"machines"},
    "material": {"grade"},
    "profile": set(),
    "capability": {"machine", "material", "profile", "measured", "operator", "count"},
    "size": {"item", "size"},
}


def bad(message: str, hint: str = "Nothing was changed.") -> Refused:
    return Refused("bad_value", message, hint, 422)


AnyForm = TypeVar("AnyForm", bound=Form)


def validated(form: type[AnyForm], value: object, what: str) -> AnyForm:
    """``value`` in its form; Refused in words where it does not fit."""
    try:
        return form.model_validate(value)
    except ValidationError as error:
        first = error.errors()[0]
        place = " · ".join(str(p) for p in first["loc"] if not str(p).startswith("function"))
        if first["type"] == "value_error":
            raise bad(str(first["ctx"]["error"])) from None
        raise bad(f"{place or what}: {first['msg']}.") from None


def number(kind: str, field: str, typed: str, words: str = "") -> float | str | bool:
    """What was typed, in the field's own unit and within its bounds."""
    unit = bridge.unit_of(kind, field)
    if unit is None:
        raise bad(f"A {KINDS[kind]} record has no field “{field}”.", "Look at an exported file for their names.")
    value = typed
    if bridge.is_number(kind, field) and isinstance(typed, str):
        try:
            value = in_unit(typed, unit)
        except NotUnderstood as error:
            raise bad(f"{words or field}: {error}") from None
    elif isinstance(typed, str) and typed.lower() in ("yes", "no", "true", "false"):
        value = typed.lower() in ("yes", "true")
    if isinstance(value, float) and value == int(value) and abs(value) < 1e9:
        value = int(value)
    try:
        return bridge.checked(kind, field, value)
    except bridge.InputError as error:
        raise bad(error.message, error.hint) from None


def record(kind: str, given: dict) -> dict:
    """The content of a record's sheet. Raises Refused with the first thing that does not fit."""
    form = validated(RecordIn, given, KINDS[kind])
    content: dict = {"name": form.name, "note": form.note, "values": {}}
    for name, reading in form.values.items():
        value = number(kind, name, reading.typed, name)
        ends = {e: None if (v := getattr(reading, e)) in (None, "") else number(kind, name, v) for e in ("low", "high")}
        low, high = ends["low"], ends["high"]
        if low is not None and high is not None and not (low <= value <= high):
            raise bad(f"{name}: {value:g} lies outside its own range {low:g} to {high:g}.", "Correct one of them.")
        typed = reading.typed if isinstance(reading.typed, str) else None
        content["values"][name] = {"value": value, "origin": reading.origin, **ends, "note": reading.note}
        told = reading.model_dump(mode="json")
        content["values"][name] |= {k: told[k] for k in FROM_SHEET if told[k] is not None}
        if typed is not None and typed.strip() != f"{value}":
            content["values"][name]["typed"] = typed.strip()[:60]
    for name in OWN[kind]:
        content[name] = form.model_dump(mode="json")[name]
    if kind == "size":
        content["size"] = form.size or form.name
        known = bridge.items().get(form.item)
        if known is None:
            raise bad(
                f"The table of sizes has no item “{form.item}”.", "Use one of: " + ", ".join(bridge.items()) + "."
            )
        strange = [name for name in content["values"] if name not in known]
        if strange:
            words = f"A {form.item.replace('_', ' ')} has no {strange[0].replace('_', ' ')}."
            raise bad(words, "It has: " + ", ".join(known) + ".")
    if kind == "material" and form.grade not in bridge.generic():
        raise bad(f"There is no generic grade “{form.grade}”.", "Use one of: " + ", ".join(bridge.generic()) + ".")
    return content


class ProcessIn(Form):
    """What a job says of its process: records of the farm, the limit's grade, and what it sets itself."""

    machine: UUID | None = None
    material: Key = "petg"
    """A generic grade, or a material record."""
    profile: UUID | None = None
    grade: Literal["portable", "hidden", "visible"] = "portable"
    limit: float | None = None
    layer: float | None = None
    width: float | None = None
    perimeters: int | None = None
    infill: float | None = None


TYPED = ("limit", "layer", "width", "perimeters", "infill")


def process_choice(given: dict) -> dict:
    """A job's process section in its form; one from before there were records becomes typed numbers, and what none
    could say then is left to the records.
    """
    if "grade" in given:
        return ProcessIn().model_dump(mode="json") | given
    typed = {name: given[name] for name in TYPED if name in given}
    return ProcessIn(material=given.get("material", "petg"), **typed).model_dump(mode="json")


def as_typed(values: dict[str, dict]) -> dict[str, dict]:
    """A record's values as they would be typed again."""
    return {
        name: {k: v for k, v in r.items() if k != "value"} | {"typed": r.get("typed", r["value"])}
        for name, r in values.items()
    }
