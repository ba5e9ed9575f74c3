"""Words of the fit's API. Lengths mm; clearances are per side and as printed."""

from typing import Literal
from uuid import UUID

from ninja import Schema

from parts.schemas import Uncarried
from stages.schemas import ResultOut


class CorrectionOut(Schema):
    """One effect of the process on a measure; of one that a preparation takes care of nothing is counted."""

    words: str
    mm: float
    origin: str | None
    record: Literal["capability", "material"] | None
    name: str | None
    compensated: bool


class FitEstimate(Schema):
    kind: Literal["bore", "pin", "slot", "tongue", "flat", "height", "corner", "other"]
    lies: str
    count: int
    """Round faces in line, or flats, or corners."""
    drawn_mm: float
    printed_mm: float
    doubt_mm: float
    wanted_mm: float
    """As printed, for the fit."""
    to_draw_mm: float
    change_mm: float
    gap_mm: float | None
    least_gap_mm: float | None
    most_gap_mm: float | None
    wanted_gap_mm: float | None
    mate_mm: float | None
    verdict: Literal["fits", "tight", "loose", "true", "off", "unknown"]
    corrections: list[CorrectionOut]
    says: list[str]
    centre_mm: list[float] | None


class MetOut(Schema):
    """A face of another part as it comes out there."""

    name: str
    mm: float
    doubt: float


class OtherFace(Schema):
    part: UUID
    touch: str
    name: str


class PushedOut(Schema):
    """A pin pushed from the side: MPa at its root without and with the notch; ``radius`` mm of a root that saves it."""

    stress: float
    notch: float
    peak: float
    strength: float
    reserve: float
    radius: float | None
    stands: bool


class FitRowOut(Schema):
    """A touching face; ``why`` it is none, or ``refused``: why it was not drawn."""

    id: str
    why: str | None
    estimate: FitEstimate | None
    changes: bool
    applied: bool
    refused: str | None
    pushed: PushedOut | None
    meets: MetOut | None
    lost: bool
    """The face that it meets is not there any more, or it is not known how it comes out."""


class FlexOut(Schema):
    """An arm as it is reckoned; ``reserve``: strain that is allowed over what it feels. Null: not bent, or none."""

    length_mm: float
    thickness_mm: float
    width_mm: float
    thickness_share: float
    radius_mm: float
    held_twice: bool
    measured: list[Literal["length", "thickness", "width", "radius"]]
    """Sizes that nobody typed."""
    deflection_mm: float
    catch_mm: float
    stands_deg: float
    strain: float
    notch: float
    allowed: float
    reserve: float | None
    lying: float | None
    """The reserve with the arm in the layers."""
    force_n: float
    mating_n: float | None
    holding_n: float | None
    verdict: Literal["holds", "fails", "unknown"]
    thinner_mm: float | None
    longer_mm: float | None
    rounder_mm: float | None
    says: list[str]
    root_mm: list[float]
    tip_mm: list[float]


class RimOut(Schema):
    """The rim of an annular snap as it is reckoned: ``bead_mm`` it stands out on the diameter, ``undercut_mm`` it is
    stretched by; ``turned``: its reserve with the axis the other way; ``least_mm``: the undercut that would hold.
    """

    diameter_mm: float
    inside: bool
    wall_mm: float
    bead_mm: float
    undercut_mm: float
    from_end_mm: float
    angle_in: float
    angle_out: float
    strain: float
    allowed: float
    reserve: float
    turned: float
    stands: bool
    mating_n: float | None
    holding_n: float | None
    verdict: Literal["holds", "fails"]
    least_mm: float | None
    says: list[str]
    crest_mm: list[float]


class FlexRowOut(Schema):
    """An arm or a rim; ``why`` it is neither."""

    id: str
    why: str | None
    flex: FlexOut | None
    rim: RimOut | None
    applied: bool
    refused: str | None


class SumOut(Schema):
    """One line of a feature's sums; ``fails``: it is what it fails by."""

    words: str
    value: float
    unit: str
    fails: bool


class FeatureRowOut(Schema):
    """A feature that is to be made: every number of it, those nobody typed as well, and the least reserve of its sums;
    null where nothing loads it.
    """

    id: str
    why: str | None
    numbers: dict[str, float]
    lines: list[SumOut]
    reserve: float | None
    says: list[str]
    applied: bool
    refused: str | None


class FeatureField(Schema):
    """A number of a feature; ``asks``: what its sums want to know that is no size of it; ``choices``: what 0, 1 … stand
    for, of one that is no amount.
    """

    name: str
    words: str
    unit: str
    low: float
    high: float
    asks: bool
    choices: list[str]


class FeatureKind(Schema):
    """``point`` and ``second``: what is to be pointed at, and after that."""

    key: str
    title: str
    point: str
    second: str | None
    fields: list[FeatureField]


class StandsAcross(Schema):
    """A slender pin, a thread or a snap that stands on its layers: ``size_mm`` across it; a ``facet`` of a pin, the
    ``normal`` of a snap's face at the place.
    """

    kind: Literal["pin", "thread", "snap"]
    size_mm: float
    length_mm: float
    at: list[float]
    normal: list[float] | None
    facet: int | None


class SeenOut(Schema):
    """A face that is seen: steps of its layers, mm square to it, at the worst place and in the mean; shares of it that
    take the plate's texture, and that hang so that support would scar them.
    """

    id: str
    name: str
    worst_mm: float
    mean_mm: float
    plate: float
    hangs: float
    at: list[float]
    normal: list[float]


class MateLeft(Schema):
    """What a pair of faces leaves per side as both are printed: in the middle, at worst, by the squares of both doubts,
    at the coldest and the warmest in use.
    """

    gap_mm: float
    worst_mm: list[float]
    squares_mm: list[float]
    cold_mm: float
    warm_mm: float


class MatePair(Schema):
    """``mine`` and ``theirs``: what each face is; ``left`` null of faces that touch, or while it is not known how one
    of the parts stands.
    """

    how: Literal["round", "between", "against"]
    mine: str
    theirs: str
    mine_mm: float
    theirs_mm: float
    left: MateLeft | None


class MateOut(Schema):
    """Another part set against this one: whether its faces ``meet``, by how much they miss each other, whether it can
    still slide or turn, ``matrix`` of where it lies (three rows of four), what both would take up.
    """

    id: str
    why: str | None
    meets: bool
    off_mm: float
    tilt_deg: float
    free: bool
    matrix: list[float] | None
    overlap_mm3: float | None
    places_mm: list[list[float]]
    pairs: list[MatePair]
    corners_mm: list[float] | None
    """Of a bought part: the corners of its facets where it lies."""


class BoughtNumber(Schema):
    name: str
    words: str
    usual: float


class BoughtKind(Schema):
    """Something that is bought and meets a part: the sizes that are asked for, the threads, its faces by name."""

    key: str
    title: str
    numbers: list[BoughtNumber]
    sizes: list[str]
    faces: list[str]


class StackLink(Schema):
    """A size in the stack as it is printed; nulls where its face is not known any more, or how its part stands."""

    id: str
    less: bool
    name: str | None
    mm: float | None
    doubt: float | None


class StackOut(Schema):
    """The gap that the sizes leave: in the middle, at worst, by the squares of doubts; null while one is unknown."""

    rows: list[StackLink]
    middle_mm: float | None
    worst_mm: list[float] | None
    squares_mm: list[float] | None
    out_ppm: float | None


class BesideOut(Schema):
    """Another part of the workshop, with its surface as it is drawn."""

    part: UUID
    name: str
    view: str


class FitResult(ResultOut):
    id: UUID
    up: list[float]
    done: bool
    view: str | None
    picked: list[str] | None
    rows: list[FitRowOut]
    flexes: list[FlexRowOut]
    features: list[FeatureRowOut]
    steps: int
    stray_mm3: float
    """By how much anything has moved that no step was to change."""
    inexact: str | None
    uncarried: list[Uncarried] | None


class FitStateOut(Schema):
    up: list[float] | None
    rows: list[FitRowOut]
    """As the part is drawn now."""
    flexes: list[FlexRowOut]
    features: list[FeatureRowOut]
    kinds: list[FeatureKind]
    seen: list[SeenOut]
    standing: list[StandsAcross]
    mates: list[MateOut]
    bought: list[BoughtKind]
    stack: StackOut | None
    beside: list[BesideOut]
    others: list[OtherFace]
    """What of other parts it can meet."""
    scale: list[float] | None
    """How much larger than it is drawn the part leaves, in plan and along its build direction; null as it is drawn."""
    prepared: bool
    """Whether what prepares it for the machine scales it already."""
    analysis: FitResult | None
    taken: UUID | None


class ArmsNet(Schema):
    """Least reserve of what bends in every direction that was swept, in the order of the sweep; none where nothing is
    bent.
    """

    least: list[float]


class FitAsked(Schema):
    """The touching faces that are to be drawn; none named: all."""

    rows: list[str] | None = None
