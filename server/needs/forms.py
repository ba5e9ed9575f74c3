"""What a part must do, as people write it: the sections of a job's sheet, and what was typed beside every number."""

from datetime import date
from typing import Annotated, ClassVar, Literal
from uuid import UUID

from pydantic import AfterValidator, Field, ValidationError, model_validator

from farm.forms import Form, Key, Line, Name
from hewel.quantities import UNITS, any_quantity, understood

Vec3 = Annotated[list[Annotated[float, Field(allow_inf_nan=False, ge=-1e6, le=1e6)]], Field(min_length=3, max_length=3)]


def _direction(v: list[float]) -> list[float]:
    length = sum(x * x for x in v) ** 0.5
    if length < 1e-9:
        raise ValueError("A direction cannot be 0, 0, 0. Type three numbers like 0, 0, 1, or point at a face.")
    return [x / length for x in v]


Direction = Annotated[Vec3, AfterValidator(_direction)]


class Amount(Form):
    """A number as it was typed and in the unit it is kept in; only ``typed`` is ever read."""

    what: ClassVar[str]
    typed: Line
    n: float
    unit: str

    @model_validator(mode="before")
    @classmethod
    def _read(cls, given):
        typed = given.get("typed") if isinstance(given, dict) else given
        if not isinstance(typed, str | int | float) or isinstance(typed, bool):
            raise ValueError(f"Type {cls.what} with its unit.")
        typed = str(typed).strip()
        return {"typed": typed, "n": understood(typed, cls.what), "unit": UNITS[cls.what][0]}


class Length(Amount):
    what = "length"


class Force(Amount):
    what = "force"


class Moment(Amount):
    what = "moment"


class Pressure(Amount):
    what = "pressure"


class Acceleration(Amount):
    what = "acceleration"


class Temperature(Amount):
    what = "temperature"


class Anything(Form):
    """A number in whatever unit it was typed."""

    typed: Line
    n: float
    unit: str

    @model_validator(mode="before")
    @classmethod
    def _read(cls, given):
        typed = str(given.get("typed", "") if isinstance(given, dict) else given).strip()
        number, unit = any_quantity(typed)
        return {"typed": typed, "n": number, "unit": unit}


def distinct(rows: list) -> list:
    ids = [r.id for r in rows]
    if len(set(ids)) < len(ids):
        raise ValueError("Two rows have the same id. Reload the page.")
    return rows


class Need(Form):
    """The job: how many, by when, what if it breaks, what supports are allowed, whose it is."""

    quantity: int | None = Field(None, ge=1, le=1_000_000)
    due: date | None = None
    use: Literal["ordinary", "functional", "injury"] = "ordinary"
    policy: Literal["none", "designed", "allowed", "dissolving"] = "designed"
    owner: Line = ""
    most_change: float = Field(0.15, ge=0.005, le=1, allow_inf_nan=False)
    """Share of the part's volume that remedies together may add and take away."""


class Guess(Form):
    """Where and how the engineer expects a break, written down before anything is computed."""

    how: Literal["between layers", "across lines", "bends too far", "pulls out", "wears", "creeps", "other"]
    where: Line = ""
    spot: Vec3 | None = None
    """On the part, mm."""


class Requirement(Form):
    id: Key
    kind: Literal["load", "environment", "interface", "appearance", "hardware", "life"]
    statement: Annotated[Line, Field(min_length=1)]
    number: Anything | None = None
    source: Line = ""
    verify: Line = ""
    guess: Guess | None = None


class Evidence(Form):
    """What shows that a requirement is met, written down by hand; checks and trials add their own."""

    id: Key
    requirement: Key
    kind: Literal["calculation", "inspection", "trial", "drawing"]
    words: Annotated[Line, Field(min_length=1)]


class RegionRow(Form):
    """A named piece of the part's surface. The engine checks its shape."""

    id: Key
    name: Name
    colour: int = Field(0, ge=0, le=7)
    shape: dict


class Washer(Form):
    centre: Vec3
    outer: Length


class HoldRow(Form):
    id: Key
    on: Key
    how: Literal["fixed", "sliding", "pinned", "bolted", "pressed"] = "fixed"
    axes: Annotated[str, Field(pattern="^x?y?z?$", min_length=1)] = "xyz"
    washer: Washer | None = None

    @model_validator(mode="after")
    def _bolted(self):
        if self.how == "bolted" and (self.washer is None or self.washer.outer.n <= 0):
            raise ValueError("A bolted face needs its washer: point at the place of the bolt and type the diameter.")
        return self


AMOUNTS = {"force": Force, "moment": Moment, "pressure": Pressure, "weight": Acceleration}


class LoadRow(Form):
    """A force on a bore or a pin is a bearing pressure on its loaded half."""

    id: Key
    kind: Literal["force", "moment", "pressure", "weight"]
    on: Key | None = None
    amount: Force | Moment | Pressure | Acceleration
    direction: Direction | None = None
    direction_words: Line = ""

    @model_validator(mode="before")
    @classmethod
    def _amount_of_its_kind(cls, given):
        if isinstance(given, dict) and given.get("kind") in AMOUNTS:
            try:
                return given | {"amount": AMOUNTS[given["kind"]].model_validate(given.get("amount"))}
            except ValidationError as error:  # told in its own words, not as one of four kinds
                raise ValueError(str(error.errors()[0]["ctx"]["error"])) from None
        return given

    @model_validator(mode="after")
    def _complete(self):
        if self.kind != "weight" and self.on is None:
            raise ValueError(f"This {self.kind} acts on no face. Point at the face it acts on, then set it again.")
        if self.kind != "pressure" and self.direction is None:
            raise ValueError(
                f"This {self.kind} has no direction. Type one like 0, 0, 1, or point at a face or an edge."
            )
        return self


class CaseRow(Form):
    id: Key
    name: Name
    factor: float = Field(1.0, gt=0, le=1000, allow_inf_nan=False)
    nature: Literal["static", "sustained", "cyclic", "shock"] = "static"
    cycles: float | None = Field(None, ge=1, le=1e12)
    requirement: Key | None = None
    loads: Annotated[list[LoadRow], Field(max_length=60), AfterValidator(distinct)] = []

    @model_validator(mode="after")
    def _counted(self):
        if self.nature == "cyclic" and self.cycles is None:
            raise ValueError(f"“{self.name}” is cyclic: type how many times it comes.")
        return self


class PartOfSum(Form):
    id: Key
    case: Key
    factor: float = Field(1.0, ge=-1000, le=1000, allow_inf_nan=False)


class CombinationRow(Form):
    id: Key
    name: Name
    parts: Annotated[list[PartOfSum], Field(min_length=1, max_length=20), AfterValidator(distinct)]


class MovementRow(Form):
    """A stiffness that is asked for: how far a point may move along a direction."""

    id: Key
    point: Vec3
    direction: Direction
    permitted: Length
    case: Key | None = None
    requirement: Key | None = None


class Loads(Form):
    held: Annotated[list[HoldRow], Field(max_length=40), AfterValidator(distinct)] = []
    cases: Annotated[list[CaseRow], Field(max_length=60), AfterValidator(distinct)] = []
    combinations: Annotated[list[CombinationRow], Field(max_length=40), AfterValidator(distinct)] = []
    movements: Annotated[list[MovementRow], Field(max_length=40), AfterValidator(distinct)] = []


class Service(Form):
    """What the part meets in use beside its loads: the knock-downs of its strength, and the factor asked for."""

    temperature: Temperature | None = None
    """Where it says none, the warmest that a requirement names."""
    wet: bool = False
    bond: float | None = Field(None, gt=0, le=1, allow_inf_nan=False)
    """Weld of the batch, as a share of the coupon's."""
    factor: float | None = Field(None, ge=1, le=100, allow_inf_nan=False)
    """Required factor; where it says none, the one for what a failure does."""
    untested: bool = True
    """Whether scatter counts: by the number of the coupons, or flatly while no coupon of every strength stands."""


class Drawn(Form):
    """A face that is drawn for its fit: the size it is meant to have, and the direction it was drawn for; written by
    the server alone.
    """

    nominal: float = Field(gt=0, le=1e6, allow_inf_nan=False)
    up: Vec3


class Met(Form):
    """A touching face of another part of the workshop."""

    part: UUID
    touch: Key


class TouchRow(Form):
    """A face with a duty of its own, measured ``across`` to another named face where it says one. ``size`` of what it
    meets, how much larger and smaller that may be, and a clearance per side, as printed, in place of the fit's own.
    Where it ``meets`` a face of another part, that comes out as its own process says.
    """

    id: Key
    on: Key
    duty: Literal["no_scar", "seen", "sealing", "mating", "inside_corner", "no_bruise"]
    fit: Literal["press", "location", "sliding", "free", "in_place"] | None = None
    mate: Line = ""
    across: Key | None = None
    meets: Met | None = None
    size: Length | None = None
    plus: Length | None = None
    minus: Length | None = None
    gap: Length | None = None
    push: Force | None = None
    """From the side, at the end of a pin."""
    requirement: Key | None = None
    drawn: Drawn | None = None

    @model_validator(mode="after")
    def _possible(self):
        if self.size is not None and not 0 < self.size.n <= 1e5:
            raise ValueError(f"What it meets cannot measure {self.size.typed}. Type its size, like 8 mm.")
        for value in (self.plus, self.minus):
            if value is not None and not 0 <= value.n <= 10:
                raise ValueError(f"A tolerance of {value.typed} is none. Type how much, without a sign, like 0.02 mm.")
        if self.gap is not None and abs(self.gap.n) > 10:
            raise ValueError(f"A clearance of {self.gap.typed} is no fit. Type it per side, like 0.1 mm.")
        if self.push is not None and self.push.n < 0:
            raise ValueError(f"A push of {self.push.typed} pulls. Type it without a minus, like 20 N.")
        return self


class Turn(Form):
    """How far a mating part turns, and about which axis through which point."""

    about: Vec3
    axis: Vec3
    degrees: float = Field(ge=-360, le=360, allow_inf_nan=False)

    @model_validator(mode="after")
    def _has_an_axis(self):
        if not any(self.axis):
            raise ValueError("An axis needs three numbers that are not all zero.")
        return self


class SpaceRow(Form):
    """A space beside the part that stays free: a box, all within ``distance`` of a face, what lies ``distance`` in
    front of a flat or a bore, or another part of the workshop where it sits, swept along ``way`` or by a ``turn``. mm,
    part frame.
    """

    id: Key
    name: Name
    kind: Literal["box", "near", "front", "body"]
    on: Key | None = None
    low: Vec3 | None = None
    high: Vec3 | None = None
    distance: Length | None = None
    wider: Length | None = None
    part: Key | None = None
    shift: Vec3 = [0.0, 0.0, 0.0]
    way: Vec3 = [0.0, 0.0, 0.0]
    turn: Turn | None = None
    place: (
        Annotated[
            list[Annotated[float, Field(allow_inf_nan=False, ge=-1e6, le=1e6)]], Field(min_length=12, max_length=12)
        ]
        | None
    ) = None
    """Where the other part lies: three rows of four, in place of a shift."""

    @model_validator(mode="after")
    def _complete(self):
        if self.kind == "box" and (self.low is None or self.high is None):
            raise ValueError("A box needs two corners: type x y z to x y z in mm.")
        if self.kind in ("near", "front"):
            if self.on is None:
                raise ValueError("Point at the face that this space lies at, then set it again.")
            if self.distance is None or self.distance.n <= 0:
                raise ValueError("Type how far this space reaches, like 5 mm.")
        if self.kind == "body" and self.part is None:
            raise ValueError("Choose the part that sits there.")
        return self


class Spaces(Form):
    rows: Annotated[list[SpaceRow], Field(max_length=60), AfterValidator(distinct)] = []


class Requirements(Form):
    rows: Annotated[list[Requirement], Field(max_length=300), AfterValidator(distinct)] = []


class Evidences(Form):
    rows: Annotated[list[Evidence], Field(max_length=600), AfterValidator(distinct)] = []


class Regions(Form):
    rows: Annotated[list[RegionRow], Field(max_length=100), AfterValidator(distinct)] = []


class Touching(Form):
    """``scaled``: whether the files that leave are larger by what the part shrinks, so that no face is drawn for it."""

    rows: Annotated[list[TouchRow], Field(max_length=100), AfterValidator(distinct)] = []
    scaled: bool = False


class Caution(Form):
    """Who has read the cautions, for which use; written by the server alone."""

    use: str
    by: str
    person: int
    at: str


class Settled(Form):
    """The list was marked complete as it stood under ``digest``; written by the server alone."""

    digest: str
    by: str
    at: str
    carried: bool = False
    """It was declared of the part before this one, and wants confirming."""


class PauseRow(Form):
    """A stop before the layer at a height; what is put in there is cold, or nothing is."""

    id: Key
    height: Length
    minutes: float = Field(2, ge=0, le=1440, allow_inf_nan=False)
    cold: bool = False


Money = Annotated[float, Field(ge=0, le=1e9, allow_inf_nan=False)]


class OtherWay(Form):
    """Another way of making the part: what is paid once, for a piece, its assembly and its stock; days until the first
    ones are there.
    """

    id: Key
    name: Annotated[Name, Field(max_length=60)]
    once: Money = 0
    piece: Money = 0
    assembly: Money = 0
    stock: Money = 0
    days: float | None = Field(None, ge=0, le=3650, allow_inf_nan=False)


class Merged(Form):
    """Parts, fasteners and minutes of hands of what this part takes the place of, and of it."""

    parts: int = Field(1, ge=1, le=10_000)
    fasteners: int = Field(0, ge=0, le=10_000)
    minutes: float = Field(0, ge=0, le=100_000, allow_inf_nan=False)


Place = Annotated[float, Field(ge=0, le=10_000, allow_inf_nan=False)]


class KeptFree(Form):
    """A place on the bed where nothing stands, mm from its lower left corner: a clip, a strip where lines are wiped."""

    id: Key
    x: Place = 0
    y: Place = 0
    wide: Annotated[Place, Field(gt=0)] = 20
    deep: Annotated[Place, Field(gt=0)] = 10


class OtherPart(Form):
    """Another part of the workshop on the same plate, as often as is said."""

    id: Key
    part: UUID
    copies: int = Field(1, ge=1, le=1000)


class Plate(Form):
    """What a batch of the part is laid out by, beside the machine's record."""

    spacing: float = Field(3, ge=0, le=200, allow_inf_nan=False)
    """mm between two outlines, and of the brim round each."""
    brim: float = Field(0, ge=0, le=50, allow_inf_nan=False)
    hardware: Money = 0
    """Of one part."""
    pauses: Annotated[list[PauseRow], Field(max_length=30), AfterValidator(distinct)] = []
    ways: Annotated[list[OtherWay], Field(max_length=12), AfterValidator(distinct)] = []
    free: Annotated[list[KeptFree], Field(max_length=20), AfterValidator(distinct)] = []
    own: int = Field(1, ge=1, le=1000)
    """Copies of this part beside the others."""
    others: Annotated[list[OtherPart], Field(max_length=8), AfterValidator(distinct)] = []
    before: Merged = Field(default_factory=lambda: Merged.model_validate({}))
    after: Merged = Field(default_factory=lambda: Merged.model_validate({}))


class ChosenBatch(Form):
    """Written by the server alone: what was chosen, and the record of the welds that it leaves."""

    id: int
    welds: str
    mode: Literal["together", "sequential"]
    copies: int
    reason: str
