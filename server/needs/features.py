"""Features that are to be made on faces of a part, as people write them: a section of the job's sheet."""

from typing import Annotated, Literal

from pydantic import AfterValidator, Field, field_validator, model_validator

from farm.forms import Form, Key, Line, Name
from hewel.quantities import in_unit
from needs.forms import Direction, Vec3, distinct

ENDINGS = {"_mm": "mm", "_deg": "°", "_n": "N"}
"""Units by the ends of names; any other number is a plain one."""
NAMES = 20
"""Numbers that one feature may have."""


class Typed(Form):
    """A number as it was typed, and in the unit that its name ends in."""

    typed: Line
    n: float


def _read(name: str, given: object) -> dict:
    typed = given.get("typed") if isinstance(given, dict) else given
    if isinstance(typed, bool) or not isinstance(typed, str | int | float):
        raise ValueError("Type a number.")
    unit = next((u for end, u in ENDINGS.items() if name.endswith(end)), "")
    return {"typed": str(typed).strip(), "n": in_unit(str(typed), unit)}


class FeatureRow(Form):
    """A feature at a place ``at`` mm on a face and the outward ``normal`` of that face there; some go to an ``end``, a
    second place. ``numbers``: what was typed of its sizes and of what its sums ask. ``made``: it is there already,
    written by the server alone.
    """

    id: Key
    name: Name
    kind: Literal["snap", "window", "bead", "groove", "thread", "clamp", "serpentine", "texture", "broken_edges"]
    at: Vec3
    normal: Direction
    end: Vec3 | None = None
    numbers: Annotated[dict[Key, Typed], Field(max_length=NAMES)] = {}
    made: bool = False

    @field_validator("numbers", mode="before")
    @classmethod
    def _typed(cls, given):
        if not isinstance(given, dict):
            raise ValueError("Type numbers by their names.")
        return {str(name): _read(str(name), value) for name, value in given.items()}

    @model_validator(mode="after")
    def _finite(self):
        for number in self.numbers.values():
            if not abs(number.n) <= 1e6:
                raise ValueError(f"{self.name}: {number.typed} is too much. Type a smaller number.")
        return self


class Features(Form):
    rows: Annotated[list[FeatureRow], Field(max_length=40), AfterValidator(distinct)] = []
