"""Words of the overhangs' API."""

from typing import Literal
from uuid import UUID

from ninja import Schema
from pydantic import Field

from hewel.refusal import Edition
from stages.schemas import ResultOut
from studies.schemas import Numbers

Kind = Literal["island", "bore_roof", "bed_round", "bridge", "ledge", "slope"]
Held = Literal["open", "accepted", "not_applicable", "remedied", "none"]
"""How a finding is settled; *none* where nothing needs to be."""


class SettledRow(Schema):
    id: str = ""
    kind: Kind
    sentence: str
    number: float
    unit: str
    centre_mm: list[float]
    state: Held
    reason: str
    by: str
    at: str | None


class GoneRow(SettledRow):
    """A finding of before that is found no more, and what has changed since."""

    because: list[str]


class FindingOut(Schema):
    """One region that hangs. Lengths mm, areas mm², heights above the plate; ``number_on_part`` marks its facets."""

    number_on_part: int
    kind: Kind
    verdict: Literal["fails", "doubtful", "holds"]
    sentence: str
    because: list[str]
    number: float
    unit: str
    limit: float | None
    clearance_mm: float | None
    area_mm2: float
    worst_deg: float
    z_mm: float
    top_mm: float
    span_mm: float | None
    reach_mm: float | None
    drop_mm: float
    over_part: bool
    support_volume_mm3: float
    scar_mm2: float
    centre_mm: list[float]
    remedies: list[dict[str, str | float]]
    """Each with its ``key`` and its own numbers (mm, degrees)."""
    state: Held
    settled: SettledRow | None
    grown: bool
    """It was settled, and has grown since."""


class TruthOut(Schema):
    overhang_area_mm2: float
    support_volume_mm3: float
    contact_area_mm2: float
    first_layer_mm2: float
    height_mm: float
    needs_support: bool


class OverhangAnalysisOut(ResultOut):
    id: UUID
    up: list[float]
    up_words: str
    process: Numbers
    truth: TruthOut | None
    """None while what hangs is not known yet."""
    complete: bool
    """Whether the check came to its end, so that there is a layer log."""
    outlines: str | None
    facets: str | None
    rows: list[FindingOut]
    gone: list[GoneRow]


class OverhangsOut(Schema):
    """What is known of a part's layers; no check while nobody has ordered one."""

    up: list[float] | None
    """The direction whose layers are or would be checked."""
    chosen: bool
    analysis: OverhangAnalysisOut | None


class EventOut(Schema):
    z_mm: float
    to_mm: float
    kind: str
    words: str


class LogOut(Schema):
    """Columns over the layers, lowest first; layer k is cut at ``first_mm`` + k·``layer_mm`` above the plate."""

    layer_mm: float
    first_mm: float
    copies: int
    area_mm2: list[float]
    perimeters_mm: list[float]
    solid_mm: list[float]
    sparse_mm: list[float]
    seconds: list[float]
    """From each layer to the next with all copies printed together."""
    seconds_one: list[float]
    total_s: float
    total_one_s: float
    events: list[EventOut]


class SettleIn(Schema):
    base: Edition
    findings: list[int] = Field(min_length=1, max_length=2000)
    state: Literal["accepted", "not_applicable", "open"]
    reason: str = Field("", max_length=2000)
