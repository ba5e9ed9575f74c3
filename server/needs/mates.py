"""Other parts that are set against this one, as people write them: a section of the job's sheet."""

from typing import Annotated
from uuid import UUID

from pydantic import AfterValidator, Field, model_validator

from farm.forms import Form, Key, Name
from needs.forms import Direction, Temperature, Vec3, distinct


class FacePair(Form):
    """A place on a face of this part with its outward normal there, and one on the other part, in its own frame."""

    at: Vec3
    normal: Direction
    their_at: Vec3
    their_normal: Direction


class MateRow(Form):
    """Another part of the workshop, set against this one by pairs of faces that meet."""

    id: Key
    name: Name
    part: UUID
    pairs: Annotated[list[FacePair], Field(min_length=1, max_length=6)]


class Mates(Form):
    """``cold`` and ``warm``: between which temperatures they are used; where none is said, at that of the room."""

    rows: Annotated[list[MateRow], Field(max_length=12), AfterValidator(distinct)] = []
    cold: Temperature | None = None
    warm: Temperature | None = None

    @model_validator(mode="after")
    def _in_order(self):
        if self.cold and self.warm and self.cold.n > self.warm.n:
            raise ValueError(f"{self.cold.typed} is warmer than {self.warm.typed}. Type the colder one first.")
        return self
