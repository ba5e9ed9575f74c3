"""Words of the week's API. Times are s after ``zero``, the midnight before now, or moments."""

from datetime import datetime
from typing import Annotated
from uuid import UUID

from ninja import Schema
from pydantic import Field


class VisitOut(Schema):
    """Hands at a machine."""

    at_s: float
    seconds: float
    what: str


class PlateName(Schema):
    """Which plate of which order: the ``number``-th, from 0, of so many."""

    order: UUID
    number: int
    of: int
    copies: int
    part: str


class PrintOut(Schema):
    """A plate that is on its machine: how far it is, and what it waits for."""

    id: UUID
    state: str
    layer: int
    layers: int
    left_s: float
    words: str
    wish: str
    """What its machine has yet to be told."""
    silent: bool
    """Its machine does not answer."""


class RunOut(PlateName):
    """A plate on a machine, from the first hand at it to the last."""

    print: PrintOut | None

    machine: str
    start_s: float
    begin_s: float
    end_s: float
    free_s: float
    visits: list[VisitOut]
    late_s: float
    why: str
    """What makes it late; empty where it is not."""
    pinned: bool


class NotPlannedOut(PlateName):
    why: str


class FarmMachineOut(Schema):
    key: str
    name: str
    model: UUID
    model_name: str
    reached: str
    """How plates get to it: by_hand, simulated, folder."""
    loaded: str
    """Material that it printed last; empty where none is known."""
    out: bool


class OrderedOut(Schema):
    """``done_s`` None while a plate of it is not planned."""

    id: UUID
    part_id: UUID
    part: str
    quantity: int
    due: datetime | None
    urgent: bool
    dry_h: float
    rest_h: float
    kit: str
    kit_done_s: float | None
    """When the last part of its kit is there; None while that is not known, or it is of none."""
    plates: int
    planned: int
    """Plates that are planned, on a machine or done."""
    printed: int
    good: int
    bad: int
    done_s: float | None
    late_s: float
    why: str
    by: str


class ErrandOut(VisitOut):
    machine: str
    part: str
    copies: int
    order: UUID
    number: int


class MovedOut(PlateName):
    """A plate that is no longer where people were told."""

    was: str
    now: str


class ToldOut(Schema):
    at: datetime
    by: str
    moved: list[MovedOut]


class BetterWeekOut(Schema):
    """What the solver found: its weighted lateness beside the plan's, and the least that any week can have."""

    late_s: float
    now_s: float
    bound_s: float
    proved: bool
    at: datetime


class FarmEventOut(Schema):
    at: datetime
    words: str
    machine: str
    part: str
    number: int
    by: str | None


class WeekOut(Schema):
    zero: datetime
    now_s: float
    people: int
    machines: list[FarmMachineOut]
    windows: list[list[float]]
    """When hands are there."""
    runs: list[RunOut]
    left: list[NotPlannedOut]
    lost_pins: list[PlateName]
    """Plates whose pin cannot be kept."""
    late_s: float
    orders: list[OrderedOut]
    day: list[ErrandOut]
    """What hands have to do on the next day that there is anything."""
    told: ToldOut | None
    """The plan that people were told; None where they were told none."""
    better: BetterWeekOut | None
    log: list[FarmEventOut]


class WhatIfIn(Schema):
    """What was looked at and is to become so."""

    without: list[Annotated[str, Field(max_length=80)]] = Field([], max_length=200)
    people: int | None = Field(None, ge=1, le=100)
    hours: float = Field(0.0, ge=0, le=24, allow_inf_nan=False)


class PlanIn(Schema):
    better: bool = False
    """As the solver found it."""


class PartsOrderIn(Schema):
    part: UUID
    quantity: int = Field(ge=1, le=1_000_000)
    due: datetime | None = None
    urgent: bool = False
    dry_h: float = Field(0.0, ge=0, le=240, allow_inf_nan=False)
    """h of drying before the first plate."""
    rest_h: float = Field(0.0, ge=0, le=2000, allow_inf_nan=False)
    """h from a plate's being off until its parts can be used."""
    kit: str = Field("", max_length=80)
    """Orders of one name are wanted together."""


class PinIn(Schema):
    """A machine and a moment; neither takes the pin away."""

    number: int = Field(ge=0, le=10_000)
    machine: str | None = Field(None, max_length=80)
    start: datetime | None = None


Hour = Annotated[float, Field(ge=0, le=24, allow_inf_nan=False)]


class HandsIn(Schema):
    days: list[Annotated[list[Hour], Field(min_length=2, max_length=2)] | None] = Field(min_length=7, max_length=7)
    people: int = Field(ge=1, le=100)


class HandsOut(Schema):
    days: list[list[float] | None]
    people: int
