"""The sheet of a job: its sections, their form, and the words the history uses for a change of each."""

from typing import Annotated

from ninja import Schema
from pydantic import ConfigDict, Field, StringConstraints, ValidationError

from hewel.refusal import Refused

KIND = "job"

Text = Annotated[str, StringConstraints(strip_whitespace=True, pattern=r"^[^\x00]*$")]


class Section(Schema):
    model_config = ConfigDict(extra="forbid")


class Title(Section):
    name: Annotated[Text, Field(min_length=1, max_length=120)]
    note: Annotated[Text, Field(max_length=4000)] = ""


class Weights(Section):
    """How much each measure counts in the order of the candidates, 0 to 5."""

    support: float = Field(3, ge=0, le=5)
    stability: float = Field(2, ge=0, le=5)
    time: float = Field(1, ge=0, le=5)
    height: float = Field(0, ge=0, le=5)
    scar: float = Field(1, ge=0, le=5)
    curl: float = Field(1, ge=0, le=5)
    finish: float = Field(0, ge=0, le=5)


Up = Annotated[list[Annotated[float, Field(allow_inf_nan=False)]], Field(min_length=3, max_length=3)]


class Desk(Section):
    """What lies on the comparison desk. Without weights the candidates stand in the plain order."""

    weights: Weights | None = None
    pins: list[Up] = Field(default=[], max_length=3)


SECTIONS: dict[str, tuple[type[Section], str]] = {
    "title": (Title, "name and note"),
    "desk": (Desk, "comparison desk"),
}
"""Those that are written as they are; process and choice have actions of their own."""


def fresh(name: str, note: str, process: dict) -> dict:
    """The content of a job that has just come in."""
    title = Title(name=name, note=note)
    return {"title": title.dict(), "process": process, "choice": None, "desk": Desk().dict()}


def checked(section: str, value) -> tuple[dict, str]:
    """The section in its full form, and the words for the history."""
    if section not in SECTIONS:
        raise Refused("bad_section", f"A job has no section {section!r}.", f"Use {', '.join(SECTIONS)}.", 422)
    form, words = SECTIONS[section]
    try:
        return form.model_validate(value).dict(), words
    except ValidationError as error:
        first = error.errors()[0]
        place = " · ".join(str(p) for p in first["loc"])
        raise Refused("bad_value", f"{place or section}: {first['msg']}.", "Nothing was changed.", 422) from None
