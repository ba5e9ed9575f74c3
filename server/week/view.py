"""The farm's week as it stands now: open orders, machines in service, what is printed, the hours of hands."""

from collections.abc import Iterable, Mapping
from datetime import datetime, time, timedelta
from typing import Any

from django.utils import timezone

from accounts.models import Workshop
from batch.queries import Batches
from farm import queries as farm
from hewel.digest import digest
from studies.view import DirectedJob
from week import bridge
from week.models import BetterWeek, Hands, Order, Plan, Print, working_days
from week.plates import plates_of

DAYS = 60
"""Days ahead that are planned for."""
URGENT = 5.0
"""How much more a second of lateness weighs of an urgent order."""


def hands_of(workshop: Workshop) -> dict:
    found = Hands.objects.filter(workshop=workshop).first()
    return {"days": found.days, "people": found.people} if found else {"days": working_days(), "people": 1}


BY_HAND = "by_hand"
"""How a machine is reached where somebody starts its plates."""
ALONE = {"id": "1", "in_service": True}
"""The one machine of a model whose record names none."""


def machines_of(workshop: Workshop) -> list[dict]:
    """Every machine in service of every model: ``key``, ``name``, how it is ``reached``, the ``model`` that it is of.
    One that was put out of service while it holds a plate is there until that is off.
    """
    holding = set(Print.objects.filter(order__workshop=workshop, cleared=None).values_list("machine", flat=True))
    rows = [
        {
            "key": f"{sheet.id}:{unit['id']}",
            "name": unit.get("name", sheet.content["record"]["name"]),
            "reached": unit.get("reached", BY_HAND),
            "holds": f"{sheet.id}:{unit['id']}" in holding,
            "in_service": unit["in_service"],
            "pushes": sheet.content["record"]["values"].get("release", {}).get("value") == "pushed off",
            "model": str(sheet.id),
            "model_name": sheet.content["record"]["name"],
        }
        for sheet in farm.machine_records(workshop)
        for unit in sheet.content["record"].get("machines") or [ALONE]
    ]
    return [m for m in rows if m["in_service"] or m["holds"]]


KEPT_DONE = timedelta(days=2)
"""How long an order that is done stays in sight."""


def orders_of(workshop: Workshop, now: datetime) -> list[Order]:
    rows = Order.objects.filter(workshop=workshop, withdrawn=None, part__sheet__struck=None)
    rows = rows.select_related("part__sheet", "by", "choice__analysis__layers").prefetch_related("pins", "prints")
    return [o for o in rows if (ended := done_at(o)) is None or ended > now - KEPT_DONE]


def done_at(order: Order) -> datetime | None:
    """When its last plate was taken off; None while there is more to do."""
    prints = [p for p in order.prints.all() if p.state == Print.State.DONE and p.cleared]
    return max(p.cleared for p in prints) if len({p.number for p in prints}) == len(order.plates) else None


def key(order_id: Any, number: int) -> str:
    """Names a plate."""
    return f"{order_id}/{number}"


def printed_otherwise(order: Order, how: str) -> list[dict]:
    """The plates of an order with half as many copies on each, or one after another."""
    choice = order.choice
    known = Batches(DirectedJob(order.part), choice.analysis)
    most = len(choice.analysis.result["items"]["sequential"])
    mode, copies = choice.mode, max(1, choice.copies // 2)
    if how == "in_turn":
        mode, copies = "sequential", max(1, min(choice.copies, most))
    return plates_of(known, choice, order.quantity, mode, copies)


class WeekView:
    """One plan: as things stand, or as they would with machines ``without``, other ``people`` or ``hours``, ``others``
    (names of orders, and how each would be printed: *half* the copies on a plate, or one after another, *in_turn*); or,
    where ``better``, as the solver found it; or, ``anew``, whatever people were told.
    """

    def __init__(
        self, workshop: Workshop, now: datetime, without: Iterable[str] = (), people: int | None = None,
        hours: float = 0.0, better: bool = False, others: Mapping[str, str] | None = None, anew: bool = False,
    ):  # fmt: skip
        self.now, self.without, self.workshop = now, set(without), workshop
        self.zero = timezone.localtime(now).replace(hour=0, minute=0, second=0, microsecond=0)
        self.machines, self.orders = machines_of(workshop), orders_of(workshop, now)
        for order in self.orders:
            if others and str(order.id) in others and not order.prints.all():
                order.plates = printed_otherwise(order, others[str(order.id)])
        given = hands_of(workshop)
        self.people = people or given["people"]
        self.windows = [w for day in range(DAYS) if (w := self._window(given["days"], day, hours))]
        self.plan = Plan.objects.filter(workshop=workshop).select_related("by").first()
        # The newest print of every machine: what it holds, and what is loaded.
        here = Print.objects.filter(order__workshop=workshop, machine__in=[m["key"] for m in self.machines])
        latest = here.select_related("order__part__sheet", "by").order_by("machine", "-started").distinct("machine")
        self.on_machine = {p.machine: p for p in latest if p.cleared is None}
        self.loaded = {p.machine: p.order.material for p in latest}
        self.pins = {
            key(o.id, p.number): bridge.Told(p.machine, (self.seconds(p.start),))
            for o in self.orders
            for p in o.pins.all()
        }
        found = BetterWeek.objects.filter(workshop=workshop).first()
        self.situation = self._situation(given)
        self.found = found if found and found.situation == self.situation else None
        self.kept = self._kept()
        # With other hands or other plates all may be planned otherwise; a machine that is out moves what it has to.
        anew = anew or people is not None or hours > 0 or bool(others)
        told = self.solvers if better and self.found else None if anew else self.told
        self.week, self.lost = self._planned(told)

    def _planned(self, told: dict | None) -> tuple:
        return bridge.plan(
            self.to_print(), self.planned_on(), self.crew, self.seconds(self.now), self.pins, self.kept, told
        )

    @property
    def solvers(self) -> dict:
        """The week that the solver found."""
        return self._told(self.found.told)

    def solvers_lateness(self) -> float:
        """Weighted lateness of the solver's week as it still can be."""
        return self._planned(self.solvers)[0].lateness

    @property
    def told(self) -> dict | None:
        """The week that people were told."""
        return self.plan and self._told(self.plan.told)

    @property
    def crew(self) -> Any:
        return bridge.crew_of(self.windows, self.people)

    def planned_on(self) -> list:
        return [
            bridge.machine_of(m["key"], m["model"], self.loaded.get(m["key"], ""), m["pushes"], self.is_out(m))
            for m in self.machines
        ]

    def is_out(self, machine: dict) -> bool:
        """Whether nothing more is planned on it."""
        return machine["key"] in self.without or not machine["in_service"]

    def to_print(self) -> list:
        """Every plate that is on no machine yet, and not done."""
        return [self.plate(order, number) for order in self.orders for number in undone(order)]

    def plate(self, order: Order, number: int) -> Any:
        mates = [o for o in self.orders if o.kit == order.kit] if order.kit else [order]
        days = [self.seconds(o.due) for o in mates if o.due]
        # A kit is wanted when the first of its parts is, and as urgently as the most urgent.
        due = min(days) - 3600 * order.rest_h if days else None
        ready = self.seconds(order.at) + 3600 * order.dry_h
        weight = URGENT if any(o.urgent for o in mates) else 1.0
        row, model = order.plates[number], str(order.machine_id)
        return bridge.plate_of(key(order.id, number), row, model, order.material, due, weight, ready)

    def seconds(self, at: datetime) -> float:
        return (at - self.zero).total_seconds()

    def moment(self, seconds: float) -> datetime:
        return self.zero + timedelta(seconds=seconds)

    def _told(self, kept: dict) -> dict:
        zero = self.zero.timestamp()
        return {k: bridge.Told(t["machine"], tuple(s - zero for s in t["moments"])) for k, t in kept.items()}

    def _window(self, days: list, day: int, more: float) -> list[float] | None:
        """Hours of hands of the day so many after today, s from the plan's zero; ``more`` h at its end."""
        at = self.zero + timedelta(days=day)
        hours = days[at.weekday()]
        if hours is None:
            return None
        begin = datetime.combine(at.date(), time(), at.tzinfo)
        first = self.seconds(begin)
        return [first + 3600 * hours[0], first + 3600 * min(hours[1] + more, 24.0)]

    def _kept(self) -> list:
        """Runs of what is on the machines: what is left of it, and hands to come."""
        out: list = []
        machines = {m.key: m for m in self.planned_on()}
        for p in self.on_machine.values():
            plate = self.plate(p.order, p.number)
            if p.state in Print.BROKEN_OFF:
                plate = bridge.broken_off(plate, f"{plate.key}/{p.id}")
            begun = self.seconds(p.started)
            run = bridge.going(
                plate,
                machines[p.machine],
                self.crew,
                self.seconds(self.now),
                begun,
                left_s(p, self.now),
                p.stops_done,
                out,
            )
            if run is not None:
                out.append(run)
        return out

    def _situation(self, hands: dict) -> str:
        """Digest of all that a search rests on; that time passes and plates are started as planned changes nothing."""
        orders = [
            (
                str(o.id),
                o.urgent,
                o.kit,
                str(o.due),
                o.rest_h,
                str(o.machine_id),
                o.material,
                len(o.plates),
                broken_off(o),
            )
            for o in self.orders
        ]
        machines = sorted(m["key"] for m in self.machines if m["in_service"])
        pins = sorted((k, t.machine, t.start + self.zero.timestamp()) for k, t in self.pins.items())
        return digest(hands, machines, sorted(orders), pins)


def broken_off(order: Order) -> int:
    """How many of its prints failed or were given up."""
    return sum(p.state in Print.BROKEN_OFF for p in order.prints.all())


def undone(order: Order) -> list[int]:
    """Numbers of the plates that are neither printed nor being printed."""
    begun = {p.number for p in order.prints.all() if p.state not in Print.BROKEN_OFF}
    return [n for n in range(len(order.plates)) if n not in begun]


def left_s(p: Print, now: datetime) -> float:
    """s of printing that a plate has left by now."""
    if p.state not in Print.GOING:
        return 0.0
    moving = p.state in (Print.State.SENT, Print.State.HEATING, Print.State.PRINTING)
    return max(p.left_s - (now - p.heard).total_seconds(), 1.0) if moving else p.left_s
