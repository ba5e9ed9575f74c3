"""What the API says of coupons."""

from datetime import date
from typing import Literal
from uuid import UUID

from ninja import Schema

from coupons.forms import CouponIn
from hewel.refusal import Edition


class CouponColumn(Schema):
    name: str
    words: str
    unit: str
    low: float
    high: float
    choices: list[str]
    wanted: bool


class CouponKind(Schema):
    """A coupon: where to measure, its columns, the fields of a record that it gives; ``least`` plates, ``months`` after
    which it is old; ``pulled``: how a stand calls its bar, null where none pulls it.
    """

    key: str
    title: str
    where: str
    columns: list[CouponColumn]
    gives: list[str]
    marks: list[list[float]]
    """Where it is measured, mm, as it stands on the plate."""
    least: int
    months: int
    pulled: str | None
    waist: list[float] | None
    """Width and thickness of a bar that is pulled, as it is drawn, mm."""


class Combined(Schema):
    machine: UUID
    material: str
    profile: UUID | None


class CombinedNames(Schema):
    machine: str | None
    material: str
    profile: str | None


class CouponListed(Schema):
    id: UUID
    key: str
    title: str
    names: CombinedNames
    printed: date | None
    count: int
    plates: int


class CoverageNumber(Schema):
    """A number that coupons give: what the record holds, how old it is; ``thin``: from too few plates."""

    name: str
    words: str
    unit: str
    coupons: list[str]
    value: float | str | bool | None
    state: Literal["missing", "old", "thin", "known"]
    age_days: int | None
    sheet: UUID | None


class FarmCoverage(Schema):
    where: Combined
    names: CombinedNames
    jobs: int
    numbers: list[CoverageNumber]


class CouponsOut(Schema):
    kinds: list[CouponKind]
    sheets: list[CouponListed]
    coverage: list[FarmCoverage]
    without_machine: int
    """Jobs that name no machine: no coupon counts there."""
    stand: bool
    """Whether a test stand is connected."""


class FoundNumber(Schema):
    """A number that the readings give with its 95 % band; ``held``: what the record holds now, ``taken``: from here."""

    name: str | None
    words: str
    unit: str
    value: float
    low: float
    high: float
    deviation: float | None
    doubt: float
    count: int
    plates: int
    held: float | None
    taken: bool


class ReadingPoint(Schema):
    x: float
    y: float
    row: int
    counts: bool


class ReadingPlot(Schema):
    x: str
    y: str
    points: list[ReadingPoint]
    line: list[list[float]]


class CouponOut(CouponIn):
    """A sheet with what its readings give: rows by their place that lie apart, that are lower bounds; ``why`` there is
    nothing.
    """

    id: UUID
    version: int
    names: CombinedNames
    found: list[FoundNumber]
    says: list[str]
    apart: list[int]
    bounds: list[int]
    plot: ReadingPlot | None
    why: str | None


class CouponEdit(Schema):
    base: Edition
    coupon: CouponIn


class TakeNumbers(Schema):
    names: list[str]


class TakenNumbers(Schema):
    record: UUID


class PullIn(Schema):
    """A bar for the stand: ``steel`` to learn what the stand itself gives."""

    plate: str = "1"
    number: int = 1
    layer_s: float | None = None
    steel: bool = False
    fault: str = ""


class PullOut(Schema):
    run: str


class PullRows(Schema):
    """Time s, stroke mm, force N, from the row on that was asked for."""

    rows: list[list[float]]
    done: bool


class BarCurve(Schema):
    """A curve as it is read: force N at break, strength and stiffness MPa; ``why`` it says nothing. ``columns`` of a
    file, and which of them were taken for stroke and force.
    """

    line: list[list[float]]
    why: str | None
    force_n: float | None
    strength_mpa: float | None
    modulus_mpa: float | None
    kind: Literal["broke", "yielded", "not broken"] | None
    broke_mm: float | None
    slips: int
    says: list[str]
    give: float | None
    give_off: float | None
    """mm/N of the stand, of a run with a steel bar."""
    columns: list[str]
    units: list[str]
    stroke: int | None
    force: int | None
