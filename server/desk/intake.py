"""A file that comes in: the part, its first sweep, and its study."""

from django.db import transaction

from accounts.models import User
from desk import looks
from farm.queries import process_of
from parts.actions import branched, came_in, complete_part, create_part, forget_source
from parts.job import EMPTY, moved
from parts.models import Part
from stages.stage import calculate, put
from stages.view import JobView
from store import actions as store
from store.models import Blob
from studies.models import Study
from studies.stage import DIRECTIONS
from work.actions import owned_attempt, tell
from work.computations import Computation, always
from work.models import Work


def beside(user: User, part: Part) -> Part:
    """A revision of the same solid beside a part, with its directions on their way."""
    with transaction.atomic():
        made = branched(user, part)
        calculate(DIRECTIONS, user, JobView(made))
        came_in.send(Part, part=made, user=user, later=False)
    return made


def _given(work: Work) -> dict:
    given = work.arguments
    before = Part.objects.filter(id=given.get("revises"), workshop=work.workshop).first()
    known = before and {
        "solid": store.get(before.solid),
        "view": store.get(before.view),
        "regions": moved(before.job["regions"]["rows"], given.get("recipe")),
    }
    process = process_of(work.workshop, before.job["process"] if before else EMPTY["process"])["numbers"]
    data = store.get(Blob.objects.get(digest=given["source"]))
    return {"data": data, "units": given["units"], "process": process, "before": known}


def _keep(work: Work, name: str, value: object) -> None:
    """The part is there, with its sweep, before its bores are found and candidates sliced."""
    work.found[name] = value
    if name == "facts":
        with owned_attempt(work) as ours:
            if not ours.result:  # an earlier attempt may have made it
                part = create_part(ours, work.found)
                more = {"later": True} if ours.arguments.get("later") else {}
                study = calculate(DIRECTIONS, ours.by, JobView(part), more=more)
                tell(ours, {"part": str(part.id), "study": str(study.id)})
    elif name == "sweep":
        with owned_attempt(work) as ours:
            study = Study.objects.select_for_update().get(id=ours.result["study"])
            if study.sweep_id is None:  # its own work may be ahead of this
                put(study, "sweep", value)


def _outcome(work: Work) -> dict:
    ours = Work.objects.get(id=work.id)
    part = Part.objects.select_for_update().get(id=ours.result["part"])
    complete_part(ours, part, work.found["features"])
    return ours.result


def _ended(work: Work) -> None:
    if work.state != Work.State.DONE:
        forget_source(work)


FOLLOW_UPS = {DIRECTIONS.kind: looks.once_directions_are_known}
COMPUTATIONS = (
    Computation(
        kind="intake",
        function="parts.bridge.intake",
        arguments=_given,
        priority=10,
        quick=always,
        keep=_keep,
        outcome=_outcome,
        ended=_ended,
    ),
)
