"""Specimens under load over weeks: written, shown with what ten years would leave, a reading told when it is due."""

from datetime import datetime, timedelta
from typing import Annotated
from uuid import UUID

from django.db import transaction
from django.utils import timezone
from pydantic import AfterValidator, Field

from accounts.models import User
from accounts.roles import require
from farm import actions as farm
from farm.forms import Form, Key, Line, Name, validated
from farm.queries import Farm
from farm.queries import record as farm_record
from hewel.refusal import Refused, not_found
from hewel.rounding import significant
from needs.forms import distinct
from sheets import actions as sheets
from sheets.models import Sheet
from trials import bridge

KIND = "longterm"


Dated = Annotated[datetime, AfterValidator(lambda at: at if at.tzinfo else timezone.make_aware(at))]
"""In the workshop's zone where none is said."""


class GiveRow(Form):
    """A reading: when, and by how much the specimen has given, mm."""

    id: Key
    at: Dated
    give: float = Field(gt=0, le=1000, allow_inf_nan=False)


class LongTermIn(Form):
    """``stress`` MPa at the place that bears most; read again every so many days."""

    name: Name
    material: Key
    begun: Dated
    stress: float = Field(gt=0, le=1000, allow_inf_nan=False)
    temperature_c: float = Field(23.0, ge=-60, le=300, allow_inf_nan=False)
    sunlight: bool = False
    every_days: int = Field(7, ge=1, le=365)
    ended: bool = False
    note: Line = ""
    rows: Annotated[list[GiveRow], Field(max_length=500), AfterValidator(distinct)] = []


def _checked(user: User, given: dict) -> dict:
    form = validated(LongTermIn, given, "specimen")
    if any(row.at <= form.begun for row in form.rows):
        raise Refused("bad_value", "A reading lies before the load was put on.", "Correct one of the two.", 422)
    if any(row.at > timezone.now() + timedelta(minutes=5) for row in form.rows):
        raise Refused("bad_value", "A reading cannot lie in the future.", "Type when it was taken.", 422)
    Farm(user.workshop).material(form.material)  # it is the workshop's own
    return form.model_dump(mode="json")


def begin(user: User, given: dict) -> Sheet:
    require(user, "print")
    return sheets.begin(user, KIND, {"longterm": _checked(user, given)}, "specimen put under load")


def sheet_of(user: User, sheet_id: UUID) -> Sheet:
    sheet = Sheet.objects.filter(id=sheet_id, workshop=user.workshop_id, kind=KIND, struck=None).first()
    if sheet is None:
        raise not_found("specimen")
    return sheet


def amend(user: User, sheet_id: UUID, base: int, given: dict) -> Sheet:
    require(user, "edit")
    sheet = sheet_of(user, sheet_id)
    return sheets.amend(user, sheet.id, base, {"longterm": _checked(user, given)}, "readings of a specimen")


def listed(user: User) -> list[dict]:
    """The workshop's specimens, those that are due first."""
    rows = Sheet.objects.filter(workshop=user.workshop_id, kind=KIND, struck=None).order_by("-created")
    now = Farm(user.workshop)
    return sorted((out(now, sheet) for sheet in rows), key=lambda row: (not row["due"], row["ended"]))


def out(now: Farm, sheet: Sheet) -> dict:
    """A specimen with its readings in hours and mm, what ten years would leave, and when it is to be read again."""
    given = sheet.content["longterm"]
    begun = datetime.fromisoformat(given["begun"])
    hours = [(datetime.fromisoformat(row["at"]) - begun).total_seconds() / 3600 for row in given["rows"]]
    last = max((datetime.fromisoformat(row["at"]) for row in given["rows"]), default=begun)
    next_at = last + timedelta(days=given["every_days"])
    return given | {
        "id": sheet.id, "version": sheet.version, "material_name": now.material(given["material"])["name"],
        "hours": hours, "next": None if given["ended"] else next_at,
        "due": not given["ended"] and next_at <= timezone.now(),
        "told": bridge.drifted(hours, [row["give"] for row in given["rows"]]),
    }  # fmt: skip


@transaction.atomic
def take(user: User, sheet_id: UUID) -> Sheet:
    """Takes what ten years would leave as the creep knock-down of its material's record."""
    require(user, "edit")
    sheet = sheet_of(user, sheet_id)
    given, now = sheet.content["longterm"], Farm(user.workshop)
    told = out(now, sheet)["told"]
    if told is None:
        raise Refused("no_number", "These readings say nothing of years yet.", "Read on.", 422)
    if now.material(given["material"])["grade"] == given["material"]:
        hint = "Write a material record under farm, and put the specimen down as made of it."
        raise Refused("no_record", "A generic grade has no record of its own.", hint, 422)
    held = farm_record(user, given["material"])
    digits = lambda value: float(significant(value, 3))
    value = digits(told["share"])
    creep = {
        "typed": value, "origin": "coupon", "low": min(digits(told["low"]), value),
        "high": max(digits(told["high"]), value), "measured": timezone.localdate().isoformat(),
        "note": f"{given['name']}: {len(given['rows'])} readings over {told['hours'] / 24:.0f} days",
    }  # fmt: skip
    return farm.put_values(user, held, {"creep": creep})
