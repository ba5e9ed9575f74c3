"""Other parts that a job sets against its own: where each lies, where both would be, what is left between them."""

from typing import Any

from fit.meeting import bridge
from fit.stage import comes_out, readings_of
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
    if row["bought"]:
        return bridge.bought(view.part.solid_id, needs.held(view.part), row, _side(view), warmth) | {"id": row["id"]}
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
    return {"up": view.up, "process": view.process, "numbers": readings_of(view)}


def stack(view: DirectedJob) -> dict | None:
    """What the sizes of the job's stack leave together, each as it is printed; None without any."""
    section = view.job["mates"]
    if not section["stack"]:
        return None
    known = {str(p.id): p for p in beside_it(view)} | {None: view.part}
    faces = {part: comes_out(view if part is None else DirectedJob(known[part])) if part in known else {}
             for part in {row["part"] for row in section["stack"]}}  # fmt: skip
    rows = [
        {"id": row["id"], "less": row["less"], "name": None, "mm": None, "doubt": None}
        | faces[row["part"]].get(row["touch"], {})
        for row in section["stack"]
    ]
    limits = [section[k]["n"] if section[k] else None for k in ("least", "most")]
    return bridge.stack(rows, *limits) | {"rows": rows}
