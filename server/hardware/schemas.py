"""Words of the hardware's API. Lengths mm, forces N, torques N·mm, stresses MPa, volumes mm³, masses g, times s."""

from typing import Literal
from uuid import UUID

from ninja import Schema

from parts.schemas import Uncarried
from stages.schemas import ResultOut

Mode = Literal["interlayer_tension", "interlayer_shear", "interlayer_mixed", "in_layer", "compression"]


class SeatedRow(Schema):
    """A row where it sits; or ``why`` it cannot."""

    id: str
    why: str | None
    what: str
    words: str
    where: dict[str, float] | None
    doubts: list[str]
    """Numbers of the table that are not sure."""
    bolt: bool


class BoltOut(Schema):
    id: str
    name: str
    torque_nmm: float
    typed: bool
    """Whether somebody typed the torque; else it is what the seats bear."""
    most_torque_nmm: float
    preload_n: float
    low_n: float
    high_n: float
    left_n: float
    """What is left to close with: relaxed, settled, at its coldest."""
    greatest_n: float
    carries_n: float
    """Of the load, at most."""
    load_factor: float
    head_mpa: float
    nut_mpa: float
    limit_mpa: float
    bolt_reserve: float
    loose: bool


class AloneOut(Schema):
    reserve: float | None
    count: int
    words: str


class ClampedCase(Schema):
    name: str
    plain: float | None
    """With the places cut and no steel in them."""
    clamped: float | None
    low: float | None
    high: float | None
    mode: Mode
    words: str
    at_mm: list[float]
    z_mm: float
    opens_at: float | None
    """Multiple of the load at which the layers open where it would fail without bolts."""
    closing_mpa: float
    plain_at_mm: list[float]
    plain_z_mm: float
    alone: AloneOut


class PreloadOut(Schema):
    reserve: float | None
    mode: Mode
    words: str
    at_mm: list[float]
    z_mm: float


class BoltedOut(Schema):
    bolts: list[BoltOut]
    cases: list[ClampedCase]
    preload: PreloadOut


class RodCase(Schema):
    name: str
    plain: float | None
    reserve: float | None
    """By the section with steel in it."""
    elements: float | None
    """With the rods as steel in the finite elements."""
    z_mm: float
    beyond: bool
    """Whether it fails beyond the rod's end."""
    steel_mpa: float
    bearing_reserve: float | None


class RodFit(Schema):
    """A size of rod in place of those that are drawn."""

    size: str
    reserve: float | None


class BearsOut(Schema):
    what: str
    bears: float
    carries: float
    unit: str
    reserve: float | None


class CardAnswerOut(Schema):
    rows: list[BearsOut]
    words: str


class ShelfLine(Schema):
    item: str
    size: str
    count: int
    length_mm: float | None
    torque_nmm: float | None
    note: str


class HardwareResult(ResultOut):
    id: UUID
    up: list[float]
    done: bool
    view: str | None
    steel: str | None
    rows: list[SeatedRow]
    gained_mm3: float | None
    inexact: str | None
    uncarried: list[Uncarried] | None
    unsolved: str | None
    """Why the loads could not be put on it."""
    solved: bool
    notes: list[dict[str, str]]
    cuts: int
    """Places that are not in the part yet."""
    told: BoltedOut | None
    with_rods: list[RodCase] | None
    other_rods: list[RodFit]
    cards: dict[str, CardAnswerOut]
    shopping: list[ShelfLine]


class HardwareStateOut(Schema):
    offered: dict[str, list[str]]
    """Sizes of every kind."""
    analysis: HardwareResult | None
    taken: UUID | None
    """The revision that was made of it."""


class SizeFit(Schema):
    size: str
    torque_nmm: float
    left_n: float
    reserve: float | None


class FewerBolts(Schema):
    """So many of the bolts that are drawn, and which: each time the one is left out that is missed least."""

    count: int
    names: list[str]
    reserve: float | None


class BoltsThatHold(Schema):
    """The fewest of the bolts that are drawn (``ids`` of their rows), the smallest size of those, the least torque."""

    ids: list[str]
    size: str
    torque_nmm: float
    reserve: float


class BoltsWanted(Schema):
    """An estimate of how many like those that are drawn would do."""

    count: int
    size: str


class BoltFits(Schema):
    holds: BoltsThatHold | None
    wanted: BoltsWanted | None
    without_steel: float | None
    """The reserve of the part with its holes and no steel, where that is enough. All three null where no number of such
    bolts would do, or no load acts.
    """
    sizes: list[SizeFit]
    counts: list[FewerBolts]
    least_torque_nmm: list[float] | None
    """Of every bolt, at which every case just holds; null where what the seats bear does not do."""


class HoldingWay(Schema):
    """One way to make the part hold."""

    key: Literal["as_it_is", "turn", "perimeters", "neck", "radius", "material", "hardware"]
    words: str
    reserve: float | None
    mass_g: float | None
    seconds: float | None
    minutes: float | None
    cost: float
    """More for every part: plastic, machine hours, hands, and for hardware what the plate says it costs."""
    shelf: str
    stage: Literal["direction", "walls", "hardware"] | None
