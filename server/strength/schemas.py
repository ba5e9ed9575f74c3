"""Words of the strength API. mm, N, MPa; a reserve has the knock-downs and the required factor in it."""

from typing import Literal
from uuid import UUID

from ninja import Schema
from pydantic import Field

from stages.schemas import ResultOut
from work.api import WorkOut

Mode = Literal["interlayer_tension", "interlayer_shear", "interlayer_mixed", "in_layer", "compression"]


class ServiceOut(Schema):
    """What the part meets in use, and the required factor, each with where it is said."""

    temperature_c: float | None
    temperature_source: str | None
    wet: bool
    bond: float | None
    untested: bool
    factor: float
    factor_source: str


class StrengthReading(Schema):
    name: str
    value: float
    origin: Literal["handbook", "maker", "own", "coupon", "trial"]
    low: float | None
    high: float | None
    note: str


class LineOut(Schema):
    """A knock-down: on all strengths, on those across the layers, or on the load."""

    key: str
    words: str
    value: float
    origin: str
    on: Literal["all", "across", "along", "load"]


class FastenerOut(Schema):
    name: str
    pull_n: float
    shear_n: float
    prying_nmm: float
    pressure_mpa: float
    pressure_limit_mpa: float
    thickness_mm: float
    pull_through_mpa: float | None


class CaseOut(Schema):
    """One case in one direction. ``reserve`` None where no load acts; ``low`` to ``high`` is its band, ``doubtful``
    whether finer voxels may bring it below 1.
    """

    id: str
    name: str
    nature: str
    cycles: float | None
    reserve: float | None
    low: float | None
    high: float | None
    doubtful: bool
    screened: float | None
    """The same from the solution for all directions, beside that with the direction's own layers."""
    mode: Mode
    stress_mpa: float
    at_mm: list[float]
    z_mm: float
    deflection_mm: float
    peak: dict[str, float]
    sentence: str
    lines: list[LineOut]
    kept: float
    """What multiplies 1/index: the knock-downs on all strengths over the required factor."""
    fasteners: list[FastenerOut]


class GuessOut(Schema):
    """What was expected, and whether the way and the place of it were found; None where that cannot be said."""

    case: str
    how: str
    where: str
    way: bool | None
    place: bool | None
    away_mm: float | None


class MovementOut(Schema):
    id: str
    point: list[float]
    direction: list[float]
    permitted_mm: float
    moved_mm: float
    case: str


class PerforatedOut(Schema):
    low_mm: float
    high_mm: float
    holes: int
    net_mm2: float
    gross_mm2: float


class NoteOut(Schema):
    code: str
    message: str


class StockOut(Schema):
    """One material for the same loads. ``used``: the job's; ``own``: a record of the workshop."""

    name: str
    used: bool
    own: bool
    reserve: float | None
    case: str
    mode: Mode
    deflection_mm: float
    heat_margin_c: float | None
    creep: float
    shrinkage_pct: float
    sticky: bool
    warps: bool
    mass_g: float
    cost: float


class FixOut(Schema):
    key: Literal["turn", "perimeters", "neck", "radius"]
    words: str
    reserve: float
    mass_g: float | None
    seconds: float | None
    numbers: dict[str, float | list[float]]


class PairOut(Schema):
    perimeters: int
    infill: float
    reserve: float | None
    case: str
    mass_g: float


class BriefOut(Schema):
    """One direction of a check. ``own_layers``: solved with its own walls, skins, core and layers."""

    id: UUID
    up: list[float]
    up_words: str
    own_layers: bool
    reserve: float | None
    low: float | None = None
    high: float | None = None
    """The band of the reserve."""
    doubtful: bool = False
    work: WorkOut | None
    volume: str | None
    exploring: WorkOut | None
    field: str | None
    fielding: WorkOut | None


class SolutionOut(Schema):
    own_layers: bool
    voxel_mm: float
    excluded_mm: list[float]
    """Left out round held and round loaded faces."""
    change: float | None
    """Share by which the last refinement changed the worst index."""
    mass_g: float
    cases: list[CaseOut]
    worst: int | None
    """Place of the case of least reserve."""
    perforated: list[PerforatedOut]
    notes: list[NoteOut]
    movements: list[MovementOut]
    guesses: list[GuessOut]
    stock: list[StockOut]
    fixes: list[FixOut] | None
    fixes_stale: bool
    explored: list[PairOut]
    explored_stale: bool


class DirectionAnalysisOut(BriefOut):
    result: SolutionOut | None
    """None until something is known of it."""


class CaseName(Schema):
    id: str
    name: str


class StrengthAnalysisOut(ResultOut):
    id: UUID
    level: Literal["nothing", "coarse", "full"]
    coarse: bool
    """Only the first answer was ordered."""
    net: str | None
    """Changes whenever the reserves of the net do."""
    cases: list[CaseName]
    strengths: list[StrengthReading]
    directions: list[BriefOut]


class StrengthOut(Schema):
    """What is known of a part's strength; no check while nobody has ordered one."""

    service: ServiceOut
    check: StrengthAnalysisOut | None


class CheckIn(Schema):
    ups: list[list[float]] = Field(max_length=6)
    """Directions to be told in full and solved with their own layers."""
    coarse: bool = False
    """Only the first answer, for all directions."""


class UpIn(Schema):
    up: list[float] = Field(min_length=3, max_length=3)
    again: bool = False
    """Calculate anew what would mend it."""


class NetOut(Schema):
    """Reserve of every case, and the least, for every direction of ``ups``."""

    ups: list[list[float]]
    cases: list[list[float]]
    least: list[float]


class CaseLog(Schema):
    """MPa of pull across the layers that would use as much: of every layer's worst point, and of its whole section."""

    id: str
    name: str
    demand_mpa: list[float]
    section_mpa: list[float]
    capacity_mpa: float


class WeldLog(Schema):
    """Of every layer the share of the coupon's strength that its weld keeps in the batch that was chosen, and the lower
    edge of its band.
    """

    words: str
    value: list[float]
    low: list[float]


class DirectionLog(Schema):
    """Columns over the layers; layer k is cut at ``first_mm`` + k·``layer_mm`` above the plate."""

    layer_mm: float
    first_mm: float
    area_mm2: list[float]
    weld: WeldLog | None
    cases: list[CaseLog]
