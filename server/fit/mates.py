"""Other parts that a job sets against its own: where each lies, where both would be, what is left between them."""

from typing import Any

from fit import bridge
from needs import queries as needs
from parts.models import Part
from parts.queries import beside
from studies.view import DirectedJob


def beside_it(view: DirectedJob) -> list[Part]:
    """The other parts of the workshop, by name."""
    return sorted(view.together.once(("beside", view.part.id), lambda: beside(view.part)), key=lambda p: p.name.lower())


def mates(view: DirectedJob) -> list[dict]:
    section = view.job["mates"]
    if not section["rows"]:
        return []
    known = {str(p.id): p for p in beside_it(view)}
    warmth = tuple(section[k]["n"] if section[k] else bridge.ROOM for k in ("cold", "warm"))
    return [_told(view, row, known.get(row["part"]), warmth) for row in section["rows"]]


def _told(view: DirectedJob, row: dict, other: Part | None, warmth: tuple[float, float]) -> dict:
    if other is None:
        return bridge.NO_MATE | {"id": row["id"], "why": "This part is not in the workshop any more. Take it out."}
    theirs = DirectedJob(other)
    name = f"{view.part.solid_id} {other.solid_id} {row['pairs']!r}"
    found = bridge.mate(
        name, needs.held(view.part), needs.held(other), row["pairs"], _side(view), _side(theirs), warmth
    )
    return found | {"id": row["id"]}


def _side(view: DirectedJob) -> dict[str, Any] | None:
    """How a part is printed; None while it is not known how it stands."""
    if view.up is None:
        return None
    return {"up": view.up, "process": view.process, "numbers": view.farm.fit_readings(view.job["process"])}
