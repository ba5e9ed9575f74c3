"""What the API says of trials."""

from datetime import date, datetime
from typing import Literal
from uuid import UUID

from ninja import Schema

from hewel.refusal import Edition
from trials.forms import How, Verdict
from trials.longterm import LongTermIn


class TrialPrediction(Schema):
    """What a case was predicted to bear, as multiples of its load; ``mode``, place and mm over the plate."""

    times: float
    low: float | None
    high: float | None
    mode: str
    at: list[float]
    z: float
    welded: bool


class TrialLoad(Schema):
    typed: str
    n: float
    unit: str


class TrialOut(Schema):
    """A trial; ``times``: multiples of the case's load that it bore, ``ratio`` of that to the prediction."""

    id: UUID
    part: UUID
    part_name: str
    revision: int
    tested: date
    plate: str
    up: list[float]
    up_words: str
    machine: str | None
    material: str
    copies: int | None
    mode: str
    case: str
    case_name: str
    load: TrialLoad | None
    times: float | None
    how: How
    at: list[float] | None
    layer: int | None
    predicted: TrialPrediction | None
    predicted_load: float | None
    ratio: float | None
    as_predicted: bool | None
    verdict: Verdict
    lesson: str
    photo: bool
    by: str


class TrialOfPart(TrialOut):
    changed: list[str] | None
    """What differs from the trial before; null of the first."""


class TrialCase(Schema):
    """A load case that can be tested: its greatest load, how many times that it is predicted to bear."""

    id: str
    name: str
    load: float
    unit: str
    times: float | None
    mode: str | None


class TrialRevision(Schema):
    """A revision of the part: what it was made from, by how many steps, the most it bore."""

    part: UUID
    revision: int
    before: UUID | None
    steps: int
    bore: float | None
    trials: int


class PartTrials(Schema):
    up: list[float] | None
    trials: list[TrialOfPart]
    cases: list[TrialCase]
    revisions: list[TrialRevision]
    alike: list[TrialOut]
    copies: int | None
    mode: str


class CorrectionTold(Schema):
    """What trials of one group say: ``factor`` with its 90 % band and ``weight``; ``safe`` and what of it is
    ``offered``.
    """

    count: int
    plates: int
    ratio: float
    factor: float
    low: float
    high: float
    weight: float
    scatter: float
    raw: float | None
    safe: float
    offered: float
    says: list[str]


class TrialWhere(Schema):
    machine: UUID | None
    material: str
    profile: UUID | None


class CorrectionNames(Schema):
    machine: str | None
    material: str
    profile: str | None


class TrialCorrection(Schema):
    group: Literal["across", "along"]
    where: TrialWhere
    names: CorrectionNames
    told: CorrectionTold | None
    held: float | None
    """What the capability record holds now."""
    trials: list[UUID]


class TrialsOut(Schema):
    trials: list[TrialOut]
    corrections: list[TrialCorrection]


class CorrectionAsked(Schema):
    group: Literal["across", "along"]
    where: TrialWhere


class CorrectionTaken(CorrectionAsked):
    reason: str


class EffectOut(Schema):
    """A job's least reserve before and after; null where nothing answers for it."""

    part: UUID
    name: str
    revision: int
    before: float | None
    after: float | None


class DriftTold(Schema):
    """``share``: what the give of a short test is of that after ten years, its 95 % band; ``at``: the fit, h and mm."""

    power: float
    share: float
    low: float
    high: float
    hours: float
    at: list[list[float]]
    says: list[str]


class LongTermOut(LongTermIn):
    """A specimen under load: its readings in ``hours`` from the loading, when it is to be read ``next``, null once it
    has ended.
    """

    id: UUID
    version: int
    material_name: str
    hours: list[float]
    next: datetime | None
    due: bool
    told: DriftTold | None


class LongTermEdit(Schema):
    base: Edition
    specimen: LongTermIn


class TrialReason(Schema):
    reason: str
