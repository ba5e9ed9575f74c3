"""Words of the API at the machines."""

from datetime import datetime
from typing import Literal
from uuid import UUID

from ninja import Schema
from pydantic import Field

from week.schemas import PrintOut


class TickedOut(Schema):
    by: str
    at: datetime


class StepOut(Schema):
    key: str
    words: str
    detail: str
    ticked: TickedOut | None


class FreeMachineOut(Schema):
    key: str
    name: str
    free: bool


class TravellerOut(Schema):
    """A plate for its technician. ``print`` is the newest of it, None while there is none."""

    order: UUID
    number: int
    of: int
    part_id: UUID
    part: str
    copies: int
    machine: str | None
    reached: str
    model: str
    machines: list[FreeMachineOut]
    print: PrintOut | None
    good: int | None
    bad: int | None
    photo: bool
    cautions: list[str]
    steps: list[StepOut]


class PausePictureOut(Schema):
    """What somebody looks down on at a pause: a section of one copy as frame and path of a drawing, mm."""

    step: str
    height_mm: float
    frame: str
    path: str


class StartIn(Schema):
    machine: str = Field(max_length=80)


class CommandIn(Schema):
    what: Literal["pause", "continue", "cancel", "clear"]


class CountIn(Schema):
    good: int = Field(ge=0, le=100_000)
    bad: int = Field(ge=0, le=100_000)


class TickIn(Schema):
    step: str = Field(max_length=40)
    at: datetime
    done: bool = True


class TicksIn(Schema):
    ticks: list[TickIn] = Field(max_length=200)
