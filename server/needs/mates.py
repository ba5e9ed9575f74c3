"""Other parts that are set against this one, as people write them: a section of the job's sheet."""

from typing import Annotated
from uuid import UUID

from pydantic import AfterValidator, Field, model_validator

from farm.forms import Form, Key, Line, Name
from needs.forms import Direction, Length, Temperature, Vec3, distinct


class FacePair(Form):
    """A place on a face of this part with its outward normal there, and one on the other part, in its own frame; or the
    ``face`` of a bought part by its name.
    """

    at: Vec3
    normal: Direction
    their_at: Vec3 | None = None
    their_normal: Direction | None = None
    face: Line = ""


class Bought(Form):
    """A part that is not printed: its ``kind``, its sizes by name, the ``size`` of its thread, what its diameter may be
    more or less than that.
    """

    kind: Key
    numbers: dict[Key, Length] = {}
    size: Line = ""
    plus: Length | None = None
    minus: Length | None = None


class MateRow(Form):
    """Another part of the workshop, or a bought one, set against this one by pairs of faces that meet."""

    id: Key
    name: Name
    part: UUID | None = None
    bought: Bought | None = None
    pairs: Annotated[list[FacePair], Field(max_length=6)]

    @model_validator(mode="after")
    def _one_of_both(self):
        if (self.part is None) == (self.bought is None):
            raise ValueError("A part that meets is one of the workshop or a bought one.")
        pointed = all(p.their_at and p.their_normal for p in self.pairs)
        if not (all(p.face for p in self.pairs) if self.bought else pointed and self.pairs):
            raise ValueError("Point at a face of each of the two.")
        return self


class Link(Form):
    """A size in a stack: a touching face of this part, or of another ``part``; what it takes away from the gap
    where it is ``less``.
    """

    id: Key
    part: UUID | None = None
    touch: Key
    less: bool = False


class Mates(Form):
    """``cold`` and ``warm``: between which temperatures they are used; where none is said, at that of the room.
    ``stack``: sizes that together leave a gap, which is to lie between ``least`` and ``most``.
    """

    rows: Annotated[list[MateRow], Field(max_length=12), AfterValidator(distinct)] = []
    cold: Temperature | None = None
    warm: Temperature | None = None
    stack: Annotated[list[Link], Field(max_length=20), AfterValidator(distinct)] = []
    least: Length | None = None
    most: Length | None = None

    @model_validator(mode="after")
    def _in_order(self):
        if self.least and self.most and self.least.n > self.most.n:
            raise ValueError(f"{self.least.typed} is more than {self.most.typed}. Type the least gap first.")
        if self.cold and self.warm and self.cold.n > self.warm.n:
            raise ValueError(f"{self.cold.typed} is warmer than {self.warm.typed}. Type the colder one first.")
        return self
