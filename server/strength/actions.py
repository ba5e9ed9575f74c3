"""Ordering a check, one direction of it, the comparison of perimeters and infill, the field for other viewers."""

import json

from audit.actions import record
from django.db import transaction
from farm.queries import process_of

from accounts.roles import require
from hewel.refusal import Refused, unusable
from parts.models import Part
from parts.queries import require_closed
from store import actions as store
from strength import bridge, queries
from strength.models import Check, Stand
from work.actions import call_off, order_work, still_ours
from work.models import Work

MOST_AT_ONCE = 6
"""Directions that are solved with their own layers by one order."""


@transaction.atomic
def order_check(user, part, ups: list[list[float]], coarse: bool = False, later: bool = False) -> Check:
    """Checks the job's loads, with ``ups`` told in full and solved with their own layers. A check that was made for the
    same before keeps its answer, and takes up directions that it does not know yet. ``coarse``: only the first answer
    for all directions, a few seconds' work; it is the beginning of the full check that may be ordered later.
    """
    from strength.tasks import check_strength

    require(user, "edit")
    if not ups and not coarse:
        raise Refused("bad_options", "No direction is asked for.", "Choose a direction, or take one of the list.", 422)
    ups = [_unit(up) for up in ups[:MOST_AT_ONCE]]
    require_closed(part, ": it has no inside to carry a load.")
    said, cases = queries.loads_of(part.job)
    if not said["cases"]:
        raise Refused("no_loads", "No load is written down.", "Write the loads and what holds the part first.", 422)
    if not said["fixed"]:
        raise Refused("no_loads", "Nothing is held.", "Point at the face that holds the part, and hold it.", 422)
    digest = queries.digest_of(part)
    made = part.checks.filter(digest=digest).exclude(work__state__in=Work.BROKEN_OFF).first()
    if made is None:
        made = Check.objects.create(
            part=part,
            process=process_of(part.workshop, part.job["process"])["numbers"],
            loads=said,
            cases=[c["id"] for c in cases],
            movements=queries.movements_of(part.job),
            bond=part.job["service"]["bond"],
            digest=digest,
        )
        record(user, "strength checked", made, after={"cases": [c["name"] for c in said["cases"]]})
    if made.work is None or (made.work.order.get("coarse") and not coarse):
        order = {"check": str(made.id), "ups": ups, "coarse": coarse, "later": later}
        made.work = order_work(user, "check", order, check_strength)
        made.save(update_fields=["work"])
    for up in [] if coarse else ups:
        order_stand(user, made, up)
    return made


def first_answer(user, part, later: bool = False) -> None:
    """Orders the first answer for all directions as soon as loads and what holds the part stand; nothing where it is
    known, on its way, or cannot be reckoned yet. One for loads that were written over meanwhile is called off.
    ``later``: nobody waits for it.
    """
    said, _ = queries.loads_of(part.job)
    if not (said["cases"] and said["fixed"] and part.facts["watertight"]):
        return
    made = order_check(user, part, [], coarse=True, later=later)
    others = part.checks.exclude(id=made.id).values("work")
    for work in Work.objects.filter(id__in=others, order__coarse=True, state__in=Work.OPEN):
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
    """Solves one direction with its own layers, once; ``again`` reckons anew what would fix it."""
    from strength.tasks import solve_stand

    require(user, "edit")
    up = _unit(up)
    known = [s for s in check.stands.select_related("work") if bridge.same_direction(s.up, up)]
    stand = known[0] if known else Stand.objects.create(of=check, up=up)
    busy = stand.work is not None and (stand.work.open or stand.work.state == Work.State.DONE)
    if not busy or (again and not stand.work.open):
        stand.work = order_work(user, "stand", {"stand": str(stand.id)}, solve_stand)
        stand.save(update_fields=["work"])
    return stand


@transaction.atomic
def order_exploration(user, stand: Stand) -> Stand:
    from strength.tasks import explore_infill

    require(user, "edit")
    if stand.exploring is None or not stand.exploring.open:
        stand.explored = []
        stand.explored_for = queries.service_digest(stand.of.part.job, stand.of.cases)
        stand.exploring = order_work(user, "explore", {"stand": str(stand.id)}, explore_infill)
        stand.save(update_fields=["explored", "explored_for", "exploring"])
    return stand


@transaction.atomic
def order_field(user, stand: Stand) -> Stand:
    from strength.tasks import write_field

    require(user, "edit")
    if stand.field_id is None and (stand.fielding is None or not stand.fielding.open):
        stand.fielding = order_work(user, "field", {"stand": str(stand.id)}, write_field)
        stand.save(update_fields=["fielding"])
    return stand


# ------------------------------------------------------------------ what tasks find


def keep_of_check(work: Work, name: str, value) -> None:
    """One result of a check, as soon as it is known."""
    with still_ours(work):
        check = Check.objects.select_for_update().get(id=work.order["check"])
        if check.work_id != work.id:  # a full one was ordered while the first answer was on its way
            return
        if name == "net":
            before, check.net = check.net, store.put(value)
            check.save(update_fields=["net"])
            if before:
                store.forget(before.digest)
        elif name == "level":
            check.level = value
            check.save(update_fields=["level"])
        else:
            known = [s for s in check.stands.all() if bridge.same_direction(s.up, value["up"])]
            stand = known[0] if known else Stand.objects.create(of=check, up=value["up"])
            Stand.objects.filter(id=stand.id).update(screened=value["told"])


def keep_of_stand(work: Work, name: str, value) -> None:
    """One result of a direction."""
    with still_ours(work):
        stand = Stand.objects.select_for_update().get(id=work.order["stand"])
        before = getattr(stand, f"{name}_id", None)
        if name in ("volume", "field"):
            value = store.put(value)
        elif name == "pair":
            name, value = "explored", [*stand.explored, value]
        elif name == "fixes":
            stand.fixes_for = work.order["service"]
        setattr(stand, name, value)
        stand.save(update_fields=[name, "fixes_for"])
        if before:
            store.forget(before)


def order_of(stand: Stand, work: Work) -> dict:
    """What a task of one direction is given; the circumstances it reckons with are kept with its order."""
    job, check = stand.of.part.job, stand.of
    service = queries.service_of(job)
    work.order["service"] = queries.service_digest(job, check.cases)
    Work.objects.filter(id=work.id).update(order=work.order)
    return {
        "up": stand.up,
        "services": json.loads(json.dumps(queries.services_of(job, check.cases))),
        "around": queries.around(service),
        "factor": service["factor"],
    }
