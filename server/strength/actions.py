"""Ordering a check, one direction of it, the comparison of perimeters and infill, the field for other viewers."""

from django.db import transaction

from accounts.models import User
from accounts.roles import require
from hewel.refusal import Refused, unusable
from parts.models import Part
from sheets.models import Sheet
from stages.stage import calculate
from stages.view import JobView
from strength import bridge
from strength.job import service_digest
from strength.models import DirectionAnalysis, StrengthAnalysis
from strength.stage import STRENGTH
from work.actions import call_off, enqueue
from work.models import Work

MOST_AT_ONCE = 6
"""Directions that are solved with their own layers by one order."""


@transaction.atomic
def calculate_strength(
    user: User, view: JobView, ups: list[list[float]], coarse: bool = False, later: bool = False
) -> StrengthAnalysis:
    """Checks the job's loads, with ``ups`` told in full and solved with their own layers. A check that was made for the
    same before keeps its answer, and takes up directions that it does not know yet. ``coarse``: only the first answer
    for all directions, a few seconds' work; it is the beginning of the full check that may be ordered later.
    """
    require(user, "edit")
    if not ups and not coarse:
        raise Refused("bad_options", "No direction is asked for.", "Choose a direction, or take one of the list.", 422)
    ups = [_unit(up) for up in ups[:MOST_AT_ONCE]]
    made = calculate(STRENGTH, user, view, more={"ups": ups, "coarse": coarse, "later": later})
    for up in [] if coarse else ups:
        calculate_direction(user, made, up)
    return made


def first_answer(user: User, part: Part, later: bool = False) -> None:
    """Orders the first answer for all directions as soon as loads and what holds the part stand; nothing where it is
    known, on its way, or cannot be calculated yet. One for loads that were written over meanwhile is called off.
    ``later``: nobody waits for it.
    """
    view = JobView(part)
    given = view.inputs(STRENGTH)["loads"]
    if not (given["cases"] and given["fixed"] and part.facts["watertight"]):
        return
    made = calculate_strength(user, view, [], coarse=True, later=later)
    others = STRENGTH.rows(part).exclude(id=made.id).values("work")
    for work in Work.objects.filter(id__in=others, arguments__coarse=True, state__in=Work.OPEN):
        call_off(work)


def after_writing(sender: object, sheet: Sheet, user: User, **_) -> None:
    part = Part.objects.filter(sheet=sheet).first()
    if part is not None:
        first_answer(user, part)


def after_coming_in(sender: object, part: Part, user: User, later: bool, **_) -> None:
    first_answer(user, part, later)


def _unit(up: list[float]) -> list[float]:
    try:
        return bridge.unit(up).tolist()
    except bridge.InputError as error:
        raise unusable(error) from None


def _enqueue(user: User, kind: str, analysis: DirectionAnalysis) -> Work:
    part = analysis.of.part
    return enqueue(user, kind, {"stand": str(analysis.id)}, part.name, part.id)


@transaction.atomic
def calculate_direction(user: User, check: StrengthAnalysis, up: list[float], again: bool = False) -> DirectionAnalysis:
    """Solves one direction with its own layers, once; ``again`` calculates anew what would mend it."""
    require(user, "edit")
    up = _unit(up)
    known = [s for s in check.directions.select_related("work") if bridge.same_direction(s.up, up)]
    analysis = known[0] if known else DirectionAnalysis.objects.create(of=check, up=up)
    busy = analysis.work is not None and (analysis.work.open or analysis.work.state == Work.State.DONE)
    if not busy or (again and not analysis.work.open):
        analysis.work = _enqueue(user, "stand", analysis)
        analysis.save(update_fields=["work"])
    return analysis


@transaction.atomic
def calculate_infill(user: User, analysis: DirectionAnalysis) -> DirectionAnalysis:
    require(user, "edit")
    if analysis.exploring is None or not analysis.exploring.open:
        analysis.explored = []
        analysis.explored_for = service_digest(analysis.of.part.job, analysis.of.cases)
        analysis.exploring = _enqueue(user, "explore", analysis)
        analysis.save(update_fields=["explored", "explored_for", "exploring"])
    return analysis


@transaction.atomic
def calculate_field(user: User, analysis: DirectionAnalysis) -> DirectionAnalysis:
    require(user, "edit")
    if analysis.field_id is None and (analysis.fielding is None or not analysis.fielding.open):
        analysis.fielding = _enqueue(user, "field", analysis)
        analysis.save(update_fields=["fielding"])
    return analysis
