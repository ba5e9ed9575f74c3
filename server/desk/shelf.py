"""Many parts at once: their pictures, one action for several, the list as a table."""

from uuid import UUID

from accounts.models import User
from accounts.roles import require
from farm.queries import Farm
from farm.tables import csv_of
from hewel.digest import digest
from hewel.refusal import Refused
from hewel.single_flight import SingleFlightCache
from parts import actions, bridge, queries
from parts.models import Part
from sheets import actions as sheets
from store import actions as store
from strength.actions import calculate_strength
from studies.view import DirectedJob

WIDE, TALL = 224, 168
"""Pixels of a picture in a list, twice as many as it is wide there: for screens that have them."""
PICTURES: SingleFlightCache[bytes] = SingleFlightCache(300)
LAYER = 0.2
"""mm: what the lines on a small picture stand for makes no difference that an eye could see."""


def picture(part: Part) -> bytes:
    """PNG of the part as it stands in the direction that was chosen, or as it came in."""
    up = part.card["up"]
    make = lambda: bridge.drawn(store.get(part.solid), up, LAYER, WIDE, TALL)
    return PICTURES.get(digest(part.solid_id, up), make)


def together(user: User, parts: list[UUID], action: str, label: str) -> list[dict]:
    """Does one action with each part by itself; of each why it could not be done, None where it was."""
    require(user, "edit")
    if action in ("label", "unlabel") and not label.strip():
        raise Refused("bad_options", "There is no label to put on or take off.", "Type a word or two.", 422)
    do = {"bin": _bin, "label": _label, "unlabel": _unlabel, "check": _check}[action]
    out = []
    for part_id in parts:
        try:
            do(user, queries.part_of(user, part_id), " ".join(label.split()))
            problem = None
        except Refused as no:
            problem = f"{no.message} {no.hint}"
        out.append({"part": part_id, "problem": problem})
    return out


def _bin(user: User, part: Part, _: str) -> None:
    sheets.strike(user, part.sheet_id)


def _label(user: User, part: Part, label: str) -> None:
    _relabel(user, part, [*part.job["title"]["labels"], label])


def _unlabel(user: User, part: Part, label: str) -> None:
    _relabel(user, part, [w for w in part.job["title"]["labels"] if w.lower() != label.lower()])


def _relabel(user: User, part: Part, labels: list[str]) -> None:
    actions.write(user, part, part.sheet.version, {"title": part.job["title"] | {"labels": labels}})


def _check(user: User, part: Part, _: str) -> None:
    view = DirectedJob(part)
    if view.up is None:
        raise Refused("no_direction", "No direction is known yet.", "Wait for the first candidate.", 409)
    calculate_strength(user, view, [view.up])


def table_csv(user: User, ids: str) -> str:
    """The parts with what lists say of them; those named by ``ids``, all where there are none."""
    wanted = {i.strip().lower() for i in ids.split(",") if i.strip()}
    farm = Farm(user.workshop)
    rows = [p for p in queries.listed(user) if not wanted or str(p.id) in wanted]
    stages = list(dict.fromkeys(key for p in rows for key in p.standing))
    heads = ["part", "revision", "labels", "material", "x_mm", "y_mm", "z_mm", "imported", "by", *stages, "note"]
    cells = lambda p, card: [
        card["name"], p.revision, "; ".join(card["labels"]), material(farm, card),
        *(f"{v:.2f}" for v in card["size_mm"]), p.created.date().isoformat(), p.by.shown_name,
        *(p.standing.get(key, "") for key in stages), card["note"],
    ]  # fmt: skip
    return csv_of([heads, *(cells(p, p.card) for p in rows)])


def material(farm: Farm, card: dict) -> str:
    """What the material of a part is called now; empty where its record is gone."""
    try:
        return str(farm.material(card["material"])["name"])
    except Refused:
        return ""
