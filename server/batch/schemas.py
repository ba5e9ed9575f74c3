"""Words of the batch API. Lengths mm, times s, money in the unit of the farm's records."""

from datetime import datetime
from typing import Annotated, Literal
from uuid import UUID

from ninja import Schema
from pydantic import Field

from hewel.refusal import Edition
from stages.schemas import ResultOut
from work.api import WorkOut

Mode = Literal["together", "sequential"]
ItemRow = Annotated[
    list[Annotated[float, Field(allow_inf_nan=False, ge=-1e5, le=1e5)]], Field(min_length=3, max_length=3)
]
"""Where the part's own origin comes to lie, x and y in mm, and the degrees that it is turned anticlockwise."""


class HoldsLine(Schema):
    """How it holds the plate, or leaves it."""

    key: Literal["tipping", "drag", "release", "push"]
    state: Literal["good", "doubtful", "fails"]
    words: str
    value: float | None
    limit: float | None


class MeltsOut(Schema):
    """Heights between which a copy by itself is laid on what is still soft; what it waits and what it should."""

    from_mm: float
    to_mm: float
    wait_s: float
    least_s: float


class ItemsOut(Schema):
    together: list[list[float]]
    sequential: list[list[float]]


class PlateOut(Schema):
    height_mm: float
    too_high: bool
    layer_mm: float
    grams: float
    foot_mm2: float
    melts: MeltsOut | None
    lines: list[HoldsLine]
    outline: list[list[list[list[float]]]]
    """Polygons of the outline seen from above, each its loops."""
    middle: list[float]
    items: ItemsOut
    complete: bool
    """Whether more copies are no longer looked for."""


class CurveOut(Schema):
    """Columns over the numbers of copies; ``low`` and ``weld_low`` are lower edges of bands."""

    copies: list[int]
    print_s: list[float]
    layer_s: list[float]
    weld: list[float]
    weld_low: list[float]
    reserve: list[float | None]
    low: list[float | None]
    per_day: list[float]
    cost: list[float]
    at_hand: list[bool]
    """Whether a plate begun first thing ends while hands are there."""


class CurvesOut(Schema):
    together: CurveOut
    sequential: CurveOut


class MixedOut(Schema):
    """A plate of several parts, this one first: outlines, where the copies that go stand, how many were wanted; the
    figures are this part's.
    """

    names: list[str]
    outlines: list[list[list[list[list[float]]]]]
    middles: list[list[float]]
    items: list[list[list[float]]]
    wanted: list[int]
    print_s: float
    weld: float
    weld_low: float
    reserve: float | None
    low: float | None


class ProposedOut(Schema):
    mode: Mode
    copies: int
    words: str


class StrengthKnown(Schema):
    known: bool
    words: str
    """What to do where it is not."""
    doubt: str
    """What may still change it."""
    factor: float


class BedOut(Schema):
    bed_x: float
    bed_y: float
    bed_z: float
    margin: float
    front_free: float
    head_radius: float
    nozzle_clearance: float
    gantry: float
    rail: Literal["x", "y"]
    release: str
    free: list[list[float]]
    """Places where nothing stands: x0, y0, x1, y1."""
    spacing: float
    brim: float


class BatchAnalysisOut(ResultOut):
    id: UUID
    done: bool
    up: list[float] | None
    bed: BedOut
    plate: PlateOut | None
    curves: CurvesOut | None
    proposed: ProposedOut | None
    mixed: MixedOut | None
    strength: StrengthKnown


class StopOut(Schema):
    height_mm: float
    wait_s: float
    cold: bool
    words: str


class CostLines(Schema):
    """Of one good part; ``energy`` None where it is not known."""

    machine: float
    plastic: float
    hands: float
    energy: float | None
    hardware: float
    scrap: float
    total: float


class Figures(Schema):
    mode: Mode
    copies: int
    print_s: float
    layer_s: float
    longest_s: float
    weld: float
    weld_low: float
    reserve: float | None
    low: float | None
    per_day: float
    cost: float
    at_hand: bool


class Measures(Figures):
    lines: CostLines


class FirstPrice(Schema):
    """One copy by itself, before any plate is filled."""

    seconds: float
    grams: float
    cost: float
    lines: CostLines


class ChosenOut(Schema):
    mode: Mode
    copies: int
    items: list[list[float]]
    measures: Measures
    prepared: str | None
    """Name of the prepared file whose waits it stands on."""
    reason: str
    by: str
    at: datetime
    stale: bool
    """The plate that it was chosen on no longer answers."""


class BatchOut(Schema):
    analysis: BatchAnalysisOut | None
    machine: str | None
    hands_h: float
    ready_s: float
    change_s: float
    hand_cost: float
    """Of an hour of hands."""
    pauses: list[StopOut]
    prepared: UUID | None
    """The newest prepared file read beside this plate."""
    chosen: ChosenOut | None


class OrderOut(Schema):
    """Copies for the job's number of good parts: full plates and one of ``rest``."""

    made: int
    full: int
    rest: int


class WayOut(Schema):
    """Another way of making it; from which number on it is cheaper (``pays_from``), None where it never is."""

    id: str
    each: float
    pays_from: float | None
    total: float | None


class BatchPoint(Figures):
    """One number of copies with all that is to be known of it."""

    words: str
    lines: CostLines
    case: str | None
    fails_at_mm: float | None
    """The layer that gives way first, where it is one."""
    weakest_at_mm: float | None
    wait_s: float
    weld_words: str
    order: OrderOut | None
    quantity: int | None
    ways: list[WayOut]
    items: list[list[float]]


class AcceptedOut(Schema):
    by: str
    at: datetime
    reason: str


class DifferenceOut(Schema):
    """``accepted``: who says that it may stay, and why."""

    key: str
    state: Literal["good", "doubtful", "fails"]
    words: str
    found: float
    expected: float
    accepted: AcceptedOut | None


class PreparedResult(Schema):
    moves: int
    layers: int
    seconds: float
    grams: float
    notes: list[str]
    differences: list[DifferenceOut]
    at_mm: float
    lines: list[list[float]]
    """Of the layer nearest to ``at_mm``: x0, y0, x1, y1 in mm of the bed."""


class PreparedOut(Schema):
    """A prepared file beside the plate of so many copies; reserve with the waits that it makes, None where the strength
    is not known.
    """

    id: UUID
    name: str
    mode: Mode
    copies: int
    by: str
    at: datetime
    work: WorkOut
    result: PreparedResult | None
    reserve: float | None
    low: float | None


class BatchChoiceIn(Schema):
    base: Edition
    mode: Mode
    copies: int = Field(ge=1, le=100_000)
    reason: str = Field(max_length=400)
    items: list[ItemRow] | None = Field(None, max_length=5000)
    prepared: UUID | None = None
    """The prepared file whose waits stand in place of those that were calculated."""


class AcceptIn(Schema):
    """A difference by its number in the list, and why it may stay; no reason takes that back."""

    difference: int = Field(ge=0, le=1000)
    reason: str | None = Field(max_length=400)


class PutBackIn(Schema):
    base: Edition


class LayoutIn(Schema):
    mode: Mode
    items: list[ItemRow] = Field(max_length=5000)


class WrongOut(Schema):
    """What does not stand clear: copies by their number, the distance that is short, the two points it is between."""

    item: int
    other: int | None
    short_mm: float
    between: list[list[float]] | None
    words: str
