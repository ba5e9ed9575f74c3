"""What of a part bends in use, as people write it: a section of the job's sheet."""

from typing import Annotated, Literal

from pydantic import AfterValidator, Field, model_validator

from farm.forms import Form, Key, Name
from needs.forms import Direction, Length, Vec3, distinct

Slope = Annotated[float, Field(ge=0, le=90, allow_inf_nan=False)]


class FlexRow(Form):
    """An arm, known by a place ``at`` mm on it and the outward ``normal`` of its face there, both in the part's frame.
    It is bent by ``deflection``, or by its own catch where none is typed, once or ``repeated``. A size that is typed
    stands in place of the one that is measured.
    """

    id: Key
    name: Name
    at: Vec3
    normal: Direction
    deflection: Length | None = None
    repeated: bool = False
    angle_in: Slope = 30
    angle_out: Slope = 45
    friction: float = Field(0.4, gt=0, le=2, allow_inf_nan=False)
    length: Length | None = None
    thickness: Length | None = None
    width: Length | None = None
    radius: Length | None = None
    cure: Literal["thinner", "longer", "rounder"] = "thinner"
    """What is done where it fails and is picked."""

    @model_validator(mode="after")
    def _possible(self):
        for value in (self.deflection, self.length, self.thickness, self.width):
            if value is not None and not 0 < value.n <= 1e4:
                raise ValueError(f"{value.typed} is no size of an arm. Type it, like 1.5 mm.")
        if self.radius is not None and not 0 <= self.radius.n <= 1e3:
            raise ValueError(f"A root cannot have a radius of {self.radius.typed}. Type it, like 1 mm.")
        return self


class Flexing(Form):
    rows: Annotated[list[FlexRow], Field(max_length=40), AfterValidator(distinct)] = []
