"""Remedies as stages: those of the job's direction, and what they come to in the best directions."""

from collections.abc import Callable

from hewel.refusal import Refused, unusable
from needs import queries as needs
from parts.models import Part
from parts.queries import stored_exact
from remedies import bridge
from remedies.models import AfterRemedies, Proposal
from stages.stage import Stage
from strength.job import divided_by, loads_in_service
from studies.queries import with_duties
from studies.view import DirectedJob, require_direction
from work.models import Work

MOST_STEPS = 500


def protected_of(part: Part, but_for: Callable[[dict], bool] = lambda row: False) -> list[int]:
    """Facets that no remedy may touch: those of faces that must not be scarred, ``but_for`` some touching faces."""
    return bridge.facets_of(needs.protected_patches(part, but_for))


def supports_wanted(job: dict) -> bool:
    """Whether posts and pillars may be designed into the part."""
    return job["need"]["policy"] != "none"


def free_of(part: Part) -> dict:
    """How far remedies may go with the part: the spaces that stay free, the change of its volume, bores with a fit."""
    job = part.job
    fits = [shape for shape, _ in needs.fitted_shapes(job)]
    return {"spaces": needs.spaces_of(part), "most_change": job["need"]["most_change"], "fits": fits}


def with_bodies(free: dict) -> dict:
    """The same with the solids of the mating parts that it names."""
    return free | {"bodies": needs.bodies_of(free["spaces"])}


def step_of(row: dict) -> dict:
    """What a recipe keeps of a step. Raises Refused where there is no such remedy."""
    if row["key"] not in bridge.KEYS:
        raise Refused("bad_options", f"There is no remedy {row['key']!r}.", "Use " + ", ".join(bridge.KEYS) + ".", 422)
    return {
        "key": row["key"],
        "kind": row["kind"],
        "centre_mm": row["centre_mm"],
        "on": row.get("on", True),
        "set": row.get("set") or {},
        "may_fill": row.get("may_fill", False),
        "axis": row.get("axis"),
        "end_mm": row.get("end_mm"),
    }


def _bounds(view: DirectedJob) -> dict:
    """What remedies of a part rest on, whatever the direction."""
    return {
        "protected": protected_of(view.part),
        "supports": supports_wanted(view.job),
        "free": free_of(view.part),
        "loads": loads_in_service(view.job),
        "service": divided_by(view.job),
    }


def _rests_on(view: DirectedJob, steps: list[dict] | None) -> dict:
    known = steps if steps is None else [step_of(step) for step in steps[:MOST_STEPS]]
    return {"up": view.up, "steps": known} | _bounds(view)


def _ready(view: DirectedJob, steps: list[dict] | None) -> None:
    require_direction(view)
    for step in steps or []:
        try:
            bridge.check_numbers(step["key"], step_of(step)["set"], view.process)
        except bridge.InputError as error:
            raise unusable(error) from None


REMEDIES = Stage(
    key="remedies",
    model=Proposal,
    kind="propose",
    function="remedies.bridge.propose",
    inputs=_rests_on,
    audit="remedies worked out",
    priority=7,
    open_part=", so there is no solid to change.",
    ready=_ready,
    arguments=lambda proposal, work: {
        "exact": stored_exact(proposal.part),
        "title": proposal.part.name,
        "free": with_bodies(proposal.inputs["free"]),
    },
    asked="steps",
)


def _best(view: DirectedJob) -> list[list[float]]:
    candidates = with_duties(view, view.study)
    return [c["up"] for c in sorted(candidates, key=lambda c: c["rank"])[: bridge.MOST]]


def _swept(view: DirectedJob, ups: list) -> None:
    if not view.study.candidates:
        raise Refused("no_direction", "No candidate has been sliced yet.", "Ask again when the first are there.", 409)


def _given_afterwards(made: AfterRemedies, work: Work) -> dict:
    return {"free": with_bodies(made.inputs["free"])}


AFTER_REMEDIES = Stage(
    key="after_remedies",
    model=AfterRemedies,
    kind="afterwards",
    function="remedies.bridge.afterwards",
    inputs=lambda view, ups: {"ups": _best(view) if ups is None else ups} | _bounds(view),
    audit="directions worked out after remedies",
    priority=3,
    open_part=", so there is no solid to change.",
    ready=_swept,
    arguments=_given_afterwards,
    asked="ups",
)
COMPUTATIONS = (REMEDIES.computation, AFTER_REMEDIES.computation)
