"""Ordering parts, withdrawing orders, pinning plates, taking a plan, saying when hands are there."""

from datetime import datetime
from uuid import UUID

from django.db import transaction
from django.utils import timezone

from accounts.models import User
from accounts.roles import require
from audit.actions import record
from batch.queries import Batches, chosen_of, outdated
from farm import actions as records
from farm import queries as farm
from hewel.refusal import Refused, not_found
from studies.view import DirectedJob
from week import bridge
from week.improving import improve
from week.models import Hands, Order, Pin, Plan
from week.plates import plates_of
from week.view import WeekView, hands_of


@transaction.atomic
def order(
    user: User, view: DirectedJob, quantity: int, due: datetime | None = None, urgent: bool = False,
    dry_h: float = 0.0, rest_h: float = 0.0, kit: str = "",
) -> Order:  # fmt: skip
    """So many good parts in the batch that the job has chosen, scrap added: full plates and one of the rest."""
    require(user, "edit")
    choice = chosen_of(view)
    if choice is None:
        raise Refused("no_batch", "No batch is chosen for this part.", "Choose one under Batch first.", 409)
    if outdated(view, choice):
        raise Refused("stale", "The batch was chosen on a plate that has changed.", "Choose it anew first.", 409)
    machine = view.job["process"]["machine"]
    if machine is None:
        raise Refused("no_machine", "The job names no machine.", "Take a machine record for it under Direction.", 409)
    known = Batches(view, choice.analysis)
    made = Order.objects.create(
        workshop=user.workshop,
        part=view.part,
        choice=choice,
        machine=farm.record(user, machine),
        material=view.farm_process["names"]["material"] or "",
        quantity=quantity,
        due=due,
        urgent=urgent,
        dry_h=dry_h,
        rest_h=rest_h,
        kit=kit.strip(),
        plates=plates_of(known, choice, quantity, choice.mode, choice.copies),
        by=user,
    )
    record(user, "ordered", made, after={"part": str(view.part.id), "quantity": quantity})
    improve(user)
    return made


def order_of(user: User, order_id: UUID | str) -> Order:
    """Raises Refused where it is none of the workshop's, or withdrawn."""
    found = Order.objects.filter(id=order_id, workshop=user.workshop_id, withdrawn=None).first()
    if found is None:
        raise not_found("order")
    return found


@transaction.atomic
def withdraw(user: User, given: Order) -> None:
    require(user, "edit")
    if given.prints.filter(cleared=None).exists():
        raise Refused(
            "printing", "A plate of this order is on a machine.", "Take it off, or give it up and clear it, first.", 409
        )
    given.withdrawn = timezone.now()
    given.save(update_fields=["withdrawn"])
    record(user, "order withdrawn", given)
    improve(user)


@transaction.atomic
def pin(user: User, given: Order, number: int, machine: str | None, start: datetime | None) -> None:
    """Leaves a plate on that machine from that time on; without a machine planning is free again."""
    require(user, "edit")
    if not 0 <= number < len(given.plates):
        raise not_found("plate")
    Pin.objects.filter(order=given, number=number).delete()
    if machine is not None and start is not None:
        Pin.objects.create(order=given, number=number, machine=machine, start=start)
    record(user, "plate pinned" if machine else "plate unpinned", given, after={"plate": number, "machine": machine})
    improve(user)


@transaction.atomic
def take_plan(user: User, better: bool = False, anew: bool = False) -> Plan:
    """The week as it stands now, as the solver found it, or planned anew, is what people are told from now on."""
    require(user, "edit")
    view = WeekView(user.workshop, timezone.now(), better=better, anew=anew)
    if better and view.found is None:
        raise Refused("changed", "Something has changed since the solver searched.", "Have it search again.", 409)
    begun = {r.plate.key for r in view.kept}
    zero = view.zero.timestamp()
    told = {r.plate.key: bridge.kept_as(r, zero) for r in view.week.runs if r.plate.key not in begun}
    plan, _ = Plan.objects.update_or_create(workshop=user.workshop, defaults={"told": told, "by": user})
    record(user, "plan taken", plan, after={"plates": len(told), "solver": better})
    return plan


@transaction.atomic
def take_what_if(user: User, without: list[str], people: int | None, hours: float) -> None:
    """What was looked at becomes so: machines are out of service, other people or longer hours are written."""
    require(user, "edit")
    for sheet in farm.machine_records(user.workshop):
        units = sheet.content["record"].get("machines", [])
        out = [u["id"] for u in units if f"{sheet.id}:{u['id']}" in without and u["in_service"]]
        if out:
            changed = [u | {"in_service": u["in_service"] and u["id"] not in out} for u in units]
            records.set_machines(user, sheet, changed)
    given = hands_of(user.workshop)
    if people is not None or hours > 0:
        days = [day and [day[0], min(day[1] + hours, 24.0)] for day in given["days"]]
        _write_hands(user, days, people or given["people"])
        if Plan.objects.filter(workshop=user.workshop_id).exists():
            take_plan(user, anew=True)
    improve(user)


@transaction.atomic
def set_hands(user: User, days: list[list[float] | None], people: int) -> None:
    require(user, "edit")
    _write_hands(user, days, people)
    improve(user)


def _write_hands(user: User, days: list[list[float] | None], people: int) -> None:
    for hours in days:
        if hours is not None and not 0 <= hours[0] < hours[1] <= 24:
            raise Refused("bad_value", "A day begins before it ends.", "Give hours from 0 to 24, like 8 and 17.", 422)
    if all(hours is None for hours in days):
        raise Refused("bad_value", "Nobody would ever be there.", "Give at least one day its hours.", 422)
    made, _ = Hands.objects.update_or_create(workshop=user.workshop, defaults={"days": days, "people": people})
    record(user, "hands' hours set", made, after={"days": days, "people": people})
