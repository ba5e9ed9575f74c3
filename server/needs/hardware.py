"""The steel that goes into a part, as people write it: a section of the job's sheet."""

from typing import Annotated, Literal

from pydantic import AfterValidator, Field, model_validator

from farm.forms import Form, Key, Line, Name
from needs.forms import Direction, Force, Length, Moment, Temperature, Vec3, distinct

Share = Annotated[float, Field(gt=0, le=1, allow_inf_nan=False)]


class Cut(Form):
    """Where a row sits whose place is cut into the solid already; written by the server alone."""

    up: Vec3
    """The direction it was cut for: a pause is at a height of that."""
    where: dict[str, float]


class HardwareRow(Form):
    """A bolt, rod, insert, key, screw or pad. ``at`` mm on the face it goes in at and ``axis`` into the part, both in
    the part's frame; a key runs from ``at`` to ``end``. Where no ``torque`` is typed, a bolt is tightened as far as its
    seats bear.
    """

    id: Key
    name: Name
    kind: Literal["bolt", "rod", "insert", "key", "boss", "pad"]
    size: Annotated[Line, Field(min_length=1, max_length=12)]
    at: Vec3
    axis: Direction
    end: Vec3 | None = None
    head: Literal["socket", "hex", "button", "rod"] = "socket"
    washer: Literal["none", "washer", "washer_large"] = "washer"
    nut: Literal["square_nut_thin", "square_nut", "hex_nut", "hex_nut_old"] = "square_nut_thin"
    pocket: Literal["open", "closed", "face"] = "open"
    steel: Literal["8.8", "10.9", "A2-50", "A2-70", "4.8"] = "8.8"
    sunk: Length | None = None
    cover: Length | None = None
    """Material left over a closed pocket."""
    deep: Length | None = None
    rise: Length | None = None
    torque: Moment | None = None
    pull: Force | None = None
    turn: Moment | None = None
    """What it carries, of a row that is reckoned by its card."""
    radius: Length | None = None
    """From the axis of the torque to the middle of a key's flank."""
    count: int = Field(1, ge=1, le=12)
    """Keys that share the torque."""
    cut: Cut | None = None

    @model_validator(mode="after")
    def _complete(self):
        if self.kind == "key" and self.end is None:
            raise ValueError("A key runs from one place to another: point at its other end too.")
        for name, least in (("sunk", 0.0), ("cover", 0.0), ("deep", 0.0), ("rise", 0.0), ("torque", 0.0)):
            value = getattr(self, name)
            if value is not None and value.n < least:
                raise ValueError(f"{self.name}: {value.typed} is below zero. Type how much, without a minus.")
        return self


class Hardware(Form):
    """Rows, and what a preload meets: K of the torque, its scatter, the share of its stiffness that the plastic keeps,
    micrometres that the seats settle, the coldest in use.
    """

    rows: Annotated[list[HardwareRow], Field(max_length=60), AfterValidator(distinct)] = []
    nut_factor: float = Field(0.2, ge=0.05, le=1, allow_inf_nan=False)
    scatter: float = Field(0.3, ge=0, le=0.9, allow_inf_nan=False)
    relaxation: Share = 0.5
    settles_um: float = Field(10, ge=0, le=200, allow_inf_nan=False)
    cold: Temperature | None = None
