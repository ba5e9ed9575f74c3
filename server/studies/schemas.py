"""Words of the studies' API, shared with the parts'."""

from datetime import datetime
from uuid import UUID

from ninja import Schema
from pydantic import BaseModel, Field

from farm.forms import ProcessIn
from hewel.refusal import Edition
from stages.schemas import ResultOut


class Candidate(BaseModel):
    """One direction and its measures; None where slicing has not run or the part is open."""

    up: list[float]
    source: str
    rank: int
    number: int = 0
    """What it is called: that which it was first seen under, whatever its rank becomes."""
    nondominated: bool
    overhang_area_mm2: float
    needing_area_mm2: float
    worst_overhang_deg: float
    support_volume_mm3: float
    scar_mm2: float
    islands: int | None
    longest_bridge_mm: float | None
    contact_area_mm2: float
    first_layer_mm2: float | None
    height_mm: float
    tipping_deg: float
    drag_ratio: float
    curl: float
    finish_mm: float
    time_s: float | None
    grams: float | None = None
    """Of plastic in its lines; None in a study made before it was told."""
    reserve: float | None
    reserve_low: float | None = None
    reserve_high: float | None = None
    doubtful: bool = False
    """Whether finer cubes may bring the reserve below 1."""
    weakest_case: str | None = None
    protected_scar_mm2: float | None = None
    protected_plate_mm2: float | None = None
    bores_lying: float | None = None


class Numbers(BaseModel):
    """What a page needs of the process that a study was made for."""

    limit: float
    layer: float
    width: float
    perimeters: int
    infill: float
    material: str
    clean_bridge: float
    rough_bridge: float


class ChoiceOut(Schema):
    study: UUID
    up: list[float]
    measures: Candidate
    alternatives: int
    reason: str
    stale_because: list[str]
    """What it was decided by and has changed since; empty while it holds."""
    by: str
    at: datetime


class StudyOut(ResultOut):
    id: UUID
    part: UUID
    process: Numbers
    digest: str
    swept: str | None
    """The digest of the sweep, coarse or full; None before there is one."""
    candidates: list[Candidate]
    choices: list[ChoiceOut]


class Direction(Schema):
    up: list[float] = Field(min_length=3, max_length=3)


class OrderIn(ProcessIn):
    base: Edition
    """The edition of the job that was on the screen."""


class ChoiceIn(Direction):
    base: Edition
    reason: str = Field(max_length=2000)


class SweepFields(Schema):
    overhang_area_mm2: list[float]
    worst_overhang_deg: list[float]
    support_volume_mm3: list[float]
    contact_area_mm2: list[float]
    height_mm: list[float]
    tipping_deg: list[float]
    drag_ratio: list[float]
    curl: list[float]
    scar_mm2: list[float]
    finish_mm: list[float]


class SweepOut(Schema):
    """Columns over all swept directions; ``ups`` are unit vectors in the part's frame."""

    ups: list[list[float]]
    fields: SweepFields


class DutyFields(BaseModel):
    """What the job's duties say of every swept direction, in the order of the sweep; None where it has no such duty."""

    protected_scar_mm2: list[float] | None = None
    protected_plate_mm2: list[float] | None = None
    bores_lying: list[float] | None = None


class RankingOut(BaseModel):
    """The candidates under given weights, in the order the study lists them; costs 0 (best) to 1."""

    ranks: list[int]
    costs: list[float]
    field: list[float] | None
    """The cost of every swept direction, from what the sweep knows of it (not time, not layers)."""
