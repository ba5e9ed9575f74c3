"""Words of the release's API."""

from datetime import datetime
from typing import Literal
from uuid import UUID

from ninja import Schema
from pydantic import Field

from hewel.refusal import Edition

Kind = Literal["portable", "locked"]


class MissingOut(Schema):
    """One thing that a release waits for, and where it is done."""

    key: str
    words: str
    stage: str
    tab: str | None


class KindOut(Schema):
    kind: Kind
    missing: list[MissingOut]


class GenericOut(Schema):
    """The least reserve with generic settings; None while it is not calculated."""

    reserve: float | None
    case: str
    busy: bool
    loaded: bool


class ReleaseOut(Schema):
    id: UUID
    part: UUID
    part_name: str
    revision: int
    kind: Kind
    state: Literal["asked", "released", "refused"]
    waiver: str
    note: str
    edition: int
    direction: str
    by: str
    mine: bool = False
    at: datetime
    reviewer: str | None
    reviewed: datetime | None
    review: str
    digest: str
    """SHA-256 of the packet."""


class ReleaseStateOut(Schema):
    kinds: list[KindOut]
    generic: GenericOut
    frozen: datetime | None
    """Since when the job is read only; None where it can be written."""
    injures: bool
    least_reason: int
    """Letters of a waiver that is one."""
    releases: list[ReleaseOut]


class ReleaseIn(Schema):
    base: Edition
    kind: Kind
    waiver: str = Field("", max_length=2000)
    note: str = Field("", max_length=2000)


class ReviewIn(Schema):
    approved: bool
    words: str = Field(max_length=2000)


class ReleaseDifference(Schema):
    what: str
    one: str
    other: str
