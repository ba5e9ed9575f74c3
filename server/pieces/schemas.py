"""Words of the pieces' API. Lengths mm, volumes mm³, areas mm², times s."""

from typing import Annotated, Literal
from uuid import UUID

from ninja import Schema
from pydantic import Field

from farm.forms import Origin
from parts.schemas import Uncarried
from stages.schemas import ResultOut

Vec3 = Annotated[list[float], Field(min_length=3, max_length=3)]
Fit = Literal["press", "location", "sliding", "free", "in_place"]


class DivideIn(Schema):
    """How a part becomes several pieces; what is left out follows from the section."""

    way: Literal["split", "separate", "embed", "in_place"]
    point: Vec3 | None = None
    """A point of the cut; split and separate need it. Of the axis, where a body turns; its own middle without one."""
    normal: Vec3 | None = None
    """Square to the cut; a feature apart lies on the side it looks to. The way that a body printed in place goes, or
    its axis.
    """
    fit: Fit = "location"
    clearance: float | None = Field(None, ge=-0.2, le=2)
    """mm per side, instead of the farm's fit."""
    pegs: int = Field(2, ge=0, le=6)
    diameter: float | None = Field(None, ge=1, le=40)
    engagement: float | None = Field(None, ge=0.5, le=60)
    places: list[Vec3] = Field(default_factory=list, max_length=6)
    how: Literal["press", "glued", "eased"] = "glued"
    depth: float | None = Field(None, ge=1, le=100)
    pick: Vec3 | None = None
    """A point of the feature that comes off, where several stand beyond the cut; of the body that moves."""
    turns: bool = False
    """Whether a body printed in place turns about its axis."""
    travel: float | None = Field(None, ge=-2000, le=2000)
    """How far a body printed in place goes: mm, or degrees where it turns."""
    centre: Vec3 | None = None
    """The ceiling that a plate is put under; the first that needs support where none is named."""
    thickness: float | None = Field(None, ge=0.2, le=50)
    seat: float | None = Field(None, ge=0.4, le=20)


class PieceOut(Schema):
    name: str
    count: int
    up: list[float]
    up_words: str
    volume_mm3: float
    solid_g: float
    """Its mass if it were printed dense."""
    watertight: bool
    needs_support: bool | None
    """None where it is not looked at by itself."""
    height_mm: float
    time_s: float | None
    uncarried: list[Uncarried] | None = None
    """Edits that are not in its exact solid; None where it has none."""
    apart: list[float]
    """The way it is drawn off the others when they are shown apart, mm, part frame."""


class PauseOut(Schema):
    height_mm: float
    layer: int
    """Layers printed before it."""
    what: str


class SeatOut(Schema):
    """A peg's socket, on the cut."""

    place_mm: list[float]
    diameter_mm: float
    peg_mm: float
    depth_mm: float
    wall_mm: float


class ClearanceOut(Schema):
    """Clearance of a body printed in place over its travel, mm; negative where it meets another."""

    shares: list[float]
    """Of the travel, 0 to 1."""
    drawn: list[float]
    drooped: list[float]
    needed_mm: float
    holds: bool
    nearest_mm: list[list[float]]
    """Two points where it is least, part frame."""


class MadeOut(Schema):
    """A part that was made of a piece, in its newest revision."""

    part: UUID
    name: str
    revision: int
    up_words: str | None
    wanting: int | None


class FitOut(Schema):
    value: float
    origin: Origin


class DivisionOut(ResultOut):
    id: UUID
    request: DivideIn
    clearance_mm: float
    done: bool
    why: str | None
    """Why it cannot be."""
    words: str
    numbers: dict[str, float]
    pieces: list[PieceOut]
    warnings: list[str]
    pauses: list[PauseOut]
    seats: list[SeatOut]
    sweep: ClearanceOut | None
    inexact: str | None
    """Why the part's exact solid could not be made into these pieces at all."""
    view: str | None
    made: list[MadeOut]


class PiecesOut(Schema):
    division: DivisionOut | None
    fits: dict[str, FitOut]
    """Clearance per side of every fit on this farm, mm."""
    whole: UUID | None
    """The part that this one is a piece of."""
    piece: str | None
    siblings: list[MadeOut]
