"""Ordering studies, asking about one more direction, choosing."""

from django.db import transaction

from accounts.models import User
from accounts.roles import require
from audit.actions import record
from farm.forms import ProcessIn, validated
from farm.queries import process_of
from hewel.refusal import Refused, reason_given, unusable
from needs.queries import inputs
from parts.models import Part
from sheets import actions as sheets
from stages.stage import calculate
from stages.view import JobView
from studies import bridge
from studies.models import Choice, Study
from studies.stage import DIRECTIONS
from work.actions import enqueue
from work.models import Work


@transaction.atomic
def calculate_study(user: User, part: Part, base: int, settings: dict) -> Study:
    """Puts another process on the job, and a study for it; one that was made before keeps its answer."""
    require(user, "edit")
    given = validated(ProcessIn, settings, "process").model_dump(mode="json")
    process_of(user.workshop, given)  # refuses what no record or bound allows
    part.sheet = sheets.amend(user, part.sheet_id, base, {"process": given}, "process")
    return calculate(DIRECTIONS, user, JobView(part))


@transaction.atomic
def ask_direction(user: User, study: Study, up: list[float]) -> Work:
    """Orders the slicing of a direction that somebody pointed at or typed."""
    require(user, "edit")
    up = _unit(up)
    work = enqueue(user, "direction", {"study": str(study.id), "up": up}, study.part.name, study.part_id)
    record(user, "direction asked", study, after={"up": up})
    return work


def _unit(up: list[float]) -> list[float]:
    try:
        return bridge.unit(up).tolist()
    except bridge.InputError as error:
        raise unusable(error) from None


@transaction.atomic
def choose(user: User, study: Study, base: int, up: list[float], reason: str) -> Choice:
    """Settles the direction. Its numbers and those of every alternative are kept as they stand now."""
    require(user, "edit")
    reason = reason_given(reason, "Say why this direction.")
    up = _unit(up)
    study = Study.objects.select_for_update().get(id=study.id)
    same = [c for c in study.candidates if bridge.same_direction(c["up"], up)]
    if not same:
        raise Refused(
            "not_examined",
            "This direction has not been sliced yet.",
            "Point at it on the net and take it to the desk first.",
            422,
        )
    others = [c for c in study.candidates if c is not same[0]]
    choice = Choice.objects.create(
        study=study,
        up=same[0]["up"],
        measures=same[0],
        alternatives=others,
        reason=reason,
        rests_on=inputs(study.part, study.process),
        by=user,
    )
    given = {"id": choice.id, "up": choice.up, "reason": reason}
    sheets.amend(user, study.part.sheet_id, base, {"choice": given, "carried": None}, "direction chosen")
    return choice
