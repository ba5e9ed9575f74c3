"""A trial as people write it."""

from datetime import date
from typing import Annotated, Literal

from pydantic import Field, StringConstraints, field_validator

from farm.forms import Form, Line
from needs.forms import Force, Moment, Vec3

How = Literal["between layers", "across lines", "pulled out", "crushed", "bent", "not broken"]
Verdict = Literal["passed", "failed", "unclear"]
Lesson = Annotated[str, StringConstraints(strip_whitespace=True, pattern=r"^[^\x00]*$", max_length=4000)]


class TrialIn(Form):
    """``load``: the greatest load of the test, at its break or as it held; in the unit of the ``case`` it stands for.
    ``at``: where it broke, mm of the part.
    """

    tested: date
    plate: Annotated[Line, Field(min_length=1, max_length=20)] = "1"
    copies: int | None = Field(None, ge=1, le=10_000)
    mode: Literal["", "together", "sequential"] = ""
    case: Annotated[str, Field(max_length=40)] = ""
    load: Force | Moment | None = None
    how: How
    at: Vec3 | None = None
    verdict: Verdict
    lesson: Lesson = ""

    @field_validator("load", mode="before")
    @classmethod
    def _force_or_moment(cls, given):
        if given in (None, ""):
            return None
        typed = given.get("typed") if isinstance(given, dict) else given
        try:
            return Force.model_validate(typed)
        except ValueError:
            return Moment.model_validate(typed)
