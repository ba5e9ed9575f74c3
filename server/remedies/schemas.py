"""Words of the remedies' API. Lengths mm, volumes mm³, masses g, times s."""

from typing import Literal
from uuid import UUID

from ninja import Schema
from pydantic import Field

from overhangs.schemas import Kind
from parts.schemas import Uncarried
from stages.schemas import ResultOut
from work.api import WorkOut

Where = Kind | Literal["plate", "wall", "boss", "bore", "corner", "body", "flat", "hardware", "feature"]
"""What a remedy is for: a region that hangs, the part's outline on the plate, a wall, or what else is sized."""


class RemedyOut(Schema):
    key: str
    title: str
    hand: str
    """What it asks of a hand after printing; empty where nothing."""
    from_core: bool
    """It takes from a core of sparse infill: its volume is not the plastic that is saved."""


class Step(Schema):
    """One step of a recipe: a remedy for the region of that kind at that place of the part."""

    key: str = Field(max_length=40)
    kind: Where
    centre_mm: list[float] = Field(min_length=3, max_length=3)
    on: bool = True
    set: dict[str, float] = Field(default_factory=dict, max_length=12)
    """Numbers set by hand, by the names that ``ParameterOut`` tells; the others follow from part and process."""
    may_fill: bool = False
    """Whether somebody said that it may fill a space that only looks used."""
    axis: list[float] | None = Field(None, min_length=3, max_length=3)
    end_mm: list[float] | None = Field(None, min_length=3, max_length=3)
    """Of a place for steel."""


class OrderIn(Schema):
    steps: list[Step] | None = Field(None, max_length=500)
    """A recipe to be done; without one every remedy that fits is worked out."""


class ParameterOut(Schema):
    """A number of a remedy that may be set, with the value it has."""

    name: str
    words: str
    unit: str
    value: float
    low: float
    high: float


class LookOut(Schema):
    """One remedy as it would be, before it is proved."""

    why: str | None
    """Why it cannot be done so."""
    words: str
    parameters: list[ParameterOut]
    volume_added_mm3: float
    volume_removed_mm3: float
    adds: str
    """Triangles of what it adds: base64 of float32, three corners of x, y, z each, mm, part frame."""
    takes: str


class AppliedOut(Schema):
    key: str
    kind: Where
    z_mm: float
    centre_mm: list[float]
    volume_added_mm3: float
    volume_removed_mm3: float
    grams: float
    words: str
    parameters: list[ParameterOut] = []


class LeftOut(Schema):
    """A region that still needs support, and why no remedy solved it."""

    kind: Kind
    z_mm: float
    centre_mm: list[float]
    area_mm2: float
    why: list[str]


class QuestionOut(Schema):
    """A remedy that would fill a space which looks used: done only when somebody says so."""

    key: str
    kind: Kind
    centre_mm: list[float]
    space: str
    filled_mm3: float
    words: str


class UnfitOut(Schema):
    """A step of a recipe that could not be done on this part, and where it was asked for; none for its plate."""

    key: str
    kind: Where
    why: str
    centre_mm: list[float] | None = None


class StandsOut(Schema):
    """How the part stands, before or after."""

    overhang_area_mm2: float
    support_volume_mm3: float
    wanting: int
    """Regions that need support."""
    first_layer_mm2: float
    volume_mm3: float
    seconds: float
    grams: float
    reserve: float | None
    """Least over all cases, without knock-downs and required factor, on a middling grid."""


class HangsOut(Schema):
    """What still hangs afterwards, by itself or not."""

    kind: Kind
    z_mm: float
    top_mm: float
    mm: float | None
    needs_support: bool


class LayersOut(Schema):
    """Columns over the layers of the changed part, lowest first."""

    first_mm: float
    layer_mm: float
    area_mm2: list[float]
    seconds: list[float]
    hangs: list[HangsOut]


class BetterDirection(Schema):
    """A direction in which hardly any of what is left needs support; its least reserve where there are loads."""

    up: list[float]
    needing_area_mm2: float
    reserve: float | None
    words: str


class ProposalOut(ResultOut):
    id: UUID
    up: list[float]
    up_words: str
    steps: list[Step]
    view: str | None
    taken: UUID | None
    """The revision that was made of it."""
    applied: list[AppliedOut]
    left: list[LeftOut]
    questions: list[QuestionOut] = []
    changed: float | None = None
    """Share of the volume that all steps together add and take away."""
    unfit: list[UnfitOut]
    before: StandsOut | None
    after: StandsOut | None
    uncalculated: str | None
    """Why a reserve is not told."""
    better: BetterDirection | None = None
    log: LayersOut | None
    uncarried: list[Uncarried] | None
    """Edits that are not in the exact solid; None where the part has none, or it is not known yet."""
    inexact: str | None
    """Why the exact solid could not be changed at all."""


class RecipeOut(Schema):
    """How a revision was made: from which part, standing which way, by which steps."""

    of: UUID
    up: list[float] | None
    steps: list[Step]


class RevisionOut(Schema):
    id: UUID
    name: str
    revision: int
    before: UUID | None
    here: bool
    steps: int | None
    """Steps of its recipe that are on; None where it came in as a file."""
    recipe: list[Step] | None
    scale: float | None
    """How many times as large as the part before it this is; None where that is not what was done."""
    piece: str | None
    """Which piece of the part before it this is; None where it is the whole."""
    up_words: str | None
    volume_mm3: float | None
    support_volume_mm3: float | None
    wanting: int | None
    seconds: float | None
    reserve: float | None


class RemediesOut(Schema):
    recipe: RecipeOut | None
    proposal: ProposalOut | None
    choices: dict[str, list[str]]
    """Remedies that may be tried for each kind of region."""
    revisions: list[RevisionOut]


class AfterRow(Schema):
    """One direction once its remedies are done, beside its plain rank."""

    up: list[float]
    up_words: str
    rank: int
    rank_after: int
    needing_area_mm2: float
    support_volume_mm3: float
    grams: float
    seconds: float
    remedies: dict[str, int]
    by_hand: int
    left: list[str]
    reserve: float | None
    """The check's own, by what it changes on like grids; None without a check, or where a loaded face is gone."""
    words: str
    """What makes the difference."""


class AfterRemediesOut(Schema):
    work: WorkOut | None
    stale_because: list[str]
    rows: list[AfterRow]
