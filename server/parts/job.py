"""The sheet of a job: its sections, their form, and the words the history uses for a change of each."""

from typing import Annotated

from pydantic import ConfigDict, Field, StringConstraints, field_validator

from farm.forms import Form, Line, Name, ProcessIn, process_choice, validated
from hewel.refusal import Refused
from needs import forms as needs
from needs.features import Features
from needs.flexing import Flexing
from needs.hardware import Hardware
from needs.mates import Mates
from parts import bridge

KIND = "job"


Label = Annotated[str, StringConstraints(strip_whitespace=True, pattern=r"^[^\x00,]+$", min_length=1, max_length=30)]
"""A word or two by which parts are found together; without commas, for they are typed with those between."""


class Title(Form):
    name: Annotated[Name, Field(max_length=120)]
    note: Annotated[Line, Field(max_length=4000)] = ""
    labels: list[Label] = Field(default=[], max_length=12)

    @field_validator("labels")
    @classmethod
    def _once(cls, given: list[str]) -> list[str]:
        """Each label once, however its letters are written; sorted."""
        return [next(w for w in given if w.lower() == low) for low in sorted({w.lower() for w in given})]


class Weights(Form):
    """How much each measure counts in the order of the candidates, 0 to 5. One that is known no more is left aside."""

    model_config = ConfigDict(extra="ignore")

    support: float = Field(3, ge=0, le=5)
    stability: float = Field(2, ge=0, le=5)
    time: float = Field(1, ge=0, le=5)
    height: float = Field(0, ge=0, le=5)
    scar: float = Field(1, ge=0, le=5)
    curl: float = Field(1, ge=0, le=5)
    finish: float = Field(0, ge=0, le=5)
    protected: float = Field(2, ge=0, le=5)
    strength: float = Field(3, ge=0, le=5)


class Desk(Form):
    """What lies on the comparison desk. Without weights the candidates stand in the plain order."""

    weights: Weights | None = None
    pins: list[needs.Vec3] = Field(default=[], max_length=3)


SECTIONS: dict[str, tuple[type[Form], str]] = {
    "title": (Title, "name, note, labels"),
    "desk": (Desk, "comparison desk"),
    "need": (needs.Need, "job"),
    "requirements": (needs.Requirements, "requirement"),
    "regions": (needs.Regions, "face"),
    "loads": (needs.Loads, "load"),
    "touching": (needs.Touching, "touching face"),
    "spaces": (needs.Spaces, "free space"),
    "evidence": (needs.Evidences, "evidence"),
    "service": (needs.Service, "circumstances"),
    "plate": (needs.Plate, "plate"),
    "hardware": (Hardware, "hardware"),
    "flexing": (Flexing, "what bends"),
    "features": (Features, "feature"),
    "mates": (Mates, "part that meets"),
}
"""Those that are written as they are; process, choice, findings, caution, settled and batch have actions of their own.
"""


def fresh(name: str, note: str) -> dict:
    """The content of a job that has just come in."""
    return whole({"title": Title(name=name, note=note).model_dump(mode="json")})


CARRIED = ("need", "requirements", "loads", "touching", "spaces", "service", "process", "findings", "plate",
           "hardware", "flexing", "features", "mates")  # fmt: skip
"""What a revision takes over from the part before it, beside the faces that are found again. Evidence is not: it was
shown of the part before."""


def revised(name: str, before: dict, regions: list[dict], number: int, recipe: dict | None) -> dict:
    """The content of a job whose part revises another one, revision ``number``: what was decided comes along, to be
    confirmed. A piece, or what was made for another direction, stands by a reason of its own.
    """
    content = fresh(name, before["title"]["note"])
    content["title"] |= {"labels": before["title"]["labels"]}
    content |= {section: before[section] for section in CARRIED}
    decided, made_for = before["choice"] or before["carried"], recipe and recipe["up"]
    turned = decided and made_for and not bridge.same_direction(made_for, decided["up"])
    if turned or (recipe and recipe.get("piece")):
        decided = None
    carried = decided and {"up": decided["up"], "reason": decided["reason"], "revision": number}
    complete = before["settled"] and before["settled"] | {"carried": True}
    made = {
        "hardware": _cut_already(before["hardware"], recipe or {}),
        "touching": _drawn_already(before["touching"], recipe or {}),
        "features": _made_already(before["features"], recipe or {}),
    }
    return content | made | {"regions": {"rows": regions}, "carried": carried, "settled": complete}


def _cut_already(before: dict, recipe: dict) -> dict:
    """The hardware of a revision: places that its recipe cut are cut. A piece begins without any."""
    if recipe.get("piece"):
        return before | {"rows": []}
    cut = recipe.get("hardware", {})
    return before | {"rows": [row | {"cut": cut.get(row["id"], row.get("cut"))} for row in before["rows"]]}


def _drawn_already(before: dict, recipe: dict) -> dict:
    """The touching faces of a revision: those that its recipe drew for their fit are drawn."""
    drawn = recipe.get("drawn", {})
    return before | {"rows": [row | {"drawn": drawn.get(row["id"], row.get("drawn"))} for row in before["rows"]]}


def _made_already(before: dict, recipe: dict) -> dict:
    """The features of a revision: those that its recipe made are made. A piece begins without any."""
    if recipe.get("piece"):
        return before | {"rows": []}
    made = recipe.get("made", [])
    return before | {"rows": [row | {"made": row["made"] or row["id"] in made} for row in before["rows"]]}


def moved(regions: list[dict], recipe: dict | None) -> list[dict]:
    """Named faces where a recipe has put them; a face that has two names is moved under both."""
    shapes = (recipe or {}).get("regions", {})
    twins = [(row["shape"], shapes[row["id"]]) for row in regions if row["id"] in shapes]
    after = lambda row: next((new for old, new in twins if old == row["shape"]), row["shape"])
    return [row | {"shape": shapes.get(row["id"], after(row))} for row in regions]


EMPTY = {s: form().model_dump(mode="json") for s, (form, _) in SECTIONS.items() if s != "title"} | {
    "process": ProcessIn().model_dump(mode="json"),
    "choice": None,
    "carried": None,
    "findings": {"rows": []},
    "caution": None,
    "settled": None,
    "batch": None,
}


GAINED = ("title", "need", "plate", "touching", "spaces", "flexing", "mates")
"""Sections whose forms have gained fields since jobs were first written."""


def whole(content: dict) -> dict:
    """The content with every section, also those that did not exist yet when it was written."""
    content = EMPTY | content
    desk = content["desk"]
    if desk["weights"]:
        desk = desk | {"weights": Weights(**desk["weights"]).model_dump()}
    for section in GAINED:
        content[section] = SECTIONS[section][0](**content[section]).model_dump(mode="json")
    return content | {"process": process_choice(content["process"]), "desk": desk}


def checked(section: str, value: object) -> dict:
    """The section in its full form."""
    if section not in SECTIONS:
        raise Refused("bad_section", f"A job has no section {section!r}.", f"Use {', '.join(SECTIONS)}.", 422)
    return validated(SECTIONS[section][0], value, section).model_dump(mode="json")


def words(before: dict, sections: dict) -> str:
    """A change of the job in words for its history: which rows came, changed and went."""
    result: list[str] = []
    for section, after in sections.items():
        lists = [(k, v) for k, v in after.items() if isinstance(v, list)] if section in ROWS else []
        rows = [line for key, now in lists for line in _rows(ROWS[section].get(key, ""), before[section][key], now)]
        result += rows or ([SECTIONS[section][1]] if after != before[section] else [])
    return ", ".join(result)[:120] or "nothing"


ROWS = {
    "requirements": {"rows": "requirement"},
    "regions": {"rows": "face"},
    "touching": {"rows": "touching face"},
    "spaces": {"rows": "free space"},
    "evidence": {"rows": "evidence"},
    "hardware": {"rows": "hardware"},
    "flexing": {"rows": "what bends"},
    "features": {"rows": "feature"},
    "mates": {"rows": "part that meets", "stack": "size in the stack"},
    "plate": {"pauses": "pause", "ways": "other way", "free": "place kept free", "others": "other part"},
    "loads": {"held": "held face", "cases": "load case", "combinations": "combination", "movements": "stiffness"},
}


def _rows(word: str, before: list, now: list) -> list[str]:
    was, here = {r["id"]: r for r in before}, {r["id"]: r for r in now}
    name = lambda r: f" “{n}”" if (n := r.get("name") or r.get("statement", "")[:30]) else ""
    out = [f"{word}{name(r)} added" for i, r in here.items() if i not in was]
    out += [f"{word}{name(r)} taken out" for i, r in was.items() if i not in here]
    return out + [f"{word}{name(r)} changed" for i, r in here.items() if i in was and was[i] != r]
