"""Words of the API about what a part must do."""

from typing import Literal

from ninja import Schema
from pydantic import Field

from hewel.refusal import Edition
from needs import forms
from needs.features import Features
from needs.flexing import Flexing
from needs.hardware import Hardware
from needs.mates import Mates


class RegionOut(Schema):
    """What a region catches of the part."""

    id: str
    area_mm2: float
    centre_mm: list[float]
    axis: list[float] | None
    diameter_mm: float | None


class AnswerOut(Schema):
    """What a held face gives back; the moment about the middle of the face."""

    held: str
    force_n: list[float]
    moment_nmm: list[float]
    centre_mm: list[float]


class BalanceOut(Schema):
    """Sum of a case, its moment about the centre of mass; None where it cannot be summed."""

    id: str
    force_n: list[float] | None
    moment_nmm: list[float] | None
    answers: list[AnswerOut]
    free: list[str]


class TroubleOut(Schema):
    section: Literal["requirements", "regions", "loads", "touching", "spaces"]
    row: str | None
    message: str
    hint: str


class CoverageOut(Schema):
    id: str
    models: list[str]
    evidence: list[str]


class NeedsOut(Schema):
    regions: list[RegionOut]
    cases: list[BalanceOut]
    combinations: list[BalanceOut]
    troubles: list[TroubleOut]
    coverage: list[CoverageOut]


class SpaceOut(Schema):
    """A space that stays free: one that somebody wrote, or one that looks used."""

    id: str | None
    name: str
    likely: bool
    corners: str
    """Triangles: base64 of float32, three corners of x, y, z each, mm, part frame."""


class PointIn(Schema):
    facet: int = Field(ge=0, lt=2**31)
    wide: bool = False


class PointOut(Schema):
    """What pointing at a facet means."""

    shape: dict
    kind: Literal["bore", "pin", "flat", "face"]
    called: str
    area_mm2: float
    centre_mm: list[float]
    axis: list[float] | None
    diameter_mm: float | None


class BoreOut(Schema):
    """How a bore with a fit lies in a direction; its roof's overhanging width, 0 where it holds itself."""

    name: str
    fit: str
    word: Literal["upright", "tilted", "lying"]
    tilt_deg: float
    chord_mm: float
    prints: bool
    round: bool


class BaseIn(Schema):
    base: Edition
    """The edition of the job that was on the screen."""


class LoadsIn(BaseIn):
    loads: dict


class JobOut(Schema):
    """What people have written about the part."""

    need: forms.Need
    requirements: forms.Requirements
    regions: forms.Regions
    loads: forms.Loads
    touching: forms.Touching
    spaces: forms.Spaces
    evidence: forms.Evidences
    service: forms.Service
    plate: forms.Plate
    hardware: Hardware
    flexing: Flexing
    features: Features
    mates: Mates
    batch: forms.ChosenBatch | None
    caution: forms.Caution | None
    settled: forms.Settled | None
