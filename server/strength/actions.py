"""Ordering a check, one direction of it, the comparison of perimeters and infill, the field for other viewers."""

from django.db import transaction

from accounts.roles import require
from hewel.refusal import Refused, unusable
from parts.models import Part
from stages.stage import order
from stages.view import JobView
from strength import bridge
from strength.job import service_digest
from strength.models import Check, Stand
from strength.stage import STRENGTH
from work.actions import call_off, enqueue
from work.models import Work

MOST_AT_ONCE = 6
"""Directions that are solved with their own layers by one order."""


@transaction.atomic
def order_check(user, view: JobView, ups: list[list[float]], coarse: bool = False, later: bool = False) -> Check:
    """Checks the job's loads, with ``ups`` told in full and solved with their own layers. A check that was made for the
    same before keeps its answer, and takes up directions that it does not know yet. ``coarse``: only the first answer
    for all directions, a few seconds' work; it is the beginning of the full check that may be ordered later.
    """
    require(user, "edit")
    if not ups and not coarse:
        raise Refused("bad_options", "No direction is asked for.", "Choose a direction, or take one of the list.", 422)
    ups = [_unit(up) for up in ups[:MOST_AT_ONCE]]
    made = order(STRENGTH, user, view, more={"ups": ups, "coarse": coarse, "later": later})
    for up in [] if coarse else ups:
        order_stand(user, made, up)
    return made


def first_answer(user, part, later: bool = False) -> None:
    """Orders the first answer for all directions as soon as loads and what holds the part stand; nothing where it is
    known, on its way, or cannot be reckoned yet. One for loads that were written over meanwhile is called off.
    ``later``: nobody waits for it.
    """
    view = JobView(part)
    said = view.inputs(STRENGTH)["loads"]
    if not (said["cases"] and said["fixed"] and part.facts["watertight"]):
        return
    made = order_check(user, view, [], coarse=True, later=later)
    others = STRENGTH.rows(part).exclude(id=made.id).values("work")
    for work in Work.objects.filter(id__in=others, arguments__coarse=True, state__in=Work.OPEN):
        call_off(work)


def after_writing(sender, sheet, user, **_) -> None:
    part = Part.objects.filter(sheet=sheet).first()
    if part is not None:
        first_answer(user, part)


def after_coming_in(sender, part, user, later: bool, **_) -> None:
    first_answer(user, part, later)


def _unit(up: list[float]) -> list[float]:
    try:
        return bridge.unit(up).tolist()
    except bridge.InputError as error:
        raise unusable(error) from None


@transaction.atomic
def order_stand(user, check: Check, up: list[float], again: bool = False) -> Stand:
    """Solves one direction with its own layers, once; ``again`` reckons anew what would mend it."""
    require(user, "edit")
    up = _unit(up)
    known = [s for s in check.stands.select_related("work") if bridge.same_direction(s.up, up)]
    stand = known[0] if known else Stand.objects.create(of=check, up=up)
    busy = stand.work is not None and (stand.work.open or stand.work.state == Work.State.DONE)
    if not busy or (again and not stand.work.open):
        stand.work = enqueue(user, "stand", {"stand": str(stand.id)})
        stand.save(update_fields=["work"])
    return stand


@transaction.atomic
def order_exploration(user, stand: Stand) -> Stand:
    require(user, "edit")
    if stand.exploring is None or not stand.exploring.open:
        stand.explored = []
        stand.explored_for = service_digest(stand.of.part.job, stand.of.cases)
        stand.exploring = enqueue(user, "explore", {"stand": str(stand.id)})
        stand.save(update_fields=["explored", "explored_for", "exploring"])
    return stand


@transaction.atomic
def order_field(user, stand: Stand) -> Stand:
    require(user, "edit")
    if stand.field_id is None and (stand.fielding is None or not stand.fielding.open):
        stand.fielding = enqueue(user, "field", {"stand": str(stand.id)})
        stand.save(update_fields=["fielding"])
    return stand
