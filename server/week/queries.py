"""The farm's week as it stands now: listed from the open orders, the machines in service and the hours of hands."""

from collections.abc import Iterable
from datetime import datetime, time, timedelta
from typing import Any

from django.utils import timezone

from accounts.models import User
from farm import queries as farm
from week import bridge
from week.models import Hands, Order, working_days

DAYS = 60
"""Days ahead that are planned for."""
URGENT = 5.0
"""How much more a second of lateness weighs of an urgent order."""


def hands_of(user: User) -> dict:
    found = Hands.objects.filter(workshop=user.workshop).first()
    return {"days": found.days, "people": found.people} if found else {"days": working_days(), "people": 1}


def machines_of(user: User) -> list[dict]:
    """Every machine in service of every model: ``key``, ``name``, the record it belongs to (``model``)."""
    out = []
    for sheet in farm.records(user, "machine"):
        given = sheet.content["record"]
        own = [u for u in given.get("machines", []) if u["in_service"]]
        model = {"model": str(sheet.id), "model_name": given["name"]}
        out += [{"key": f"{sheet.id}:{u['id']}", "name": u["name"], **model} for u in own]
        if not given.get("machines"):
            out.append({"key": f"{sheet.id}:1", "name": given["name"], **model})
    return out


def orders_of(user: User) -> list[Order]:
    rows = Order.objects.filter(workshop=user.workshop, withdrawn=None, part__sheet__struck=None)
    return list(rows.select_related("part__sheet", "by", "choice").prefetch_related("pins"))


class WeekView:
    """One plan: as things stand, or as they would with machines ``without``, other ``people`` or ``hours``."""

    def __init__(
        self, user: User, now: datetime, without: Iterable[str] = (), people: int | None = None, hours: float = 0.0
    ):
        self.now, self.without = now, set(without)
        self.zero = timezone.localtime(now).replace(hour=0, minute=0, second=0, microsecond=0)
        self.machines, self.orders = machines_of(user), orders_of(user)
        given = hands_of(user)
        self.people = people or given["people"]
        self.windows = [w for day in range(DAYS) if (w := self._window(given["days"], day, hours))]
        self.week, self.lost = bridge.plan(
            [plate for order in self.orders for plate in self._plates(order)],
            [bridge.machine_of(m["key"], m["model"], m["key"] in self.without) for m in self.machines],
            self.windows,
            self.people,
            self.seconds(now),
            {
                key(order, pin.number): (pin.machine, self.seconds(pin.start))
                for order in self.orders
                for pin in order.pins.all()
            },
        )

    def seconds(self, at: datetime) -> float:
        return (at - self.zero).total_seconds()

    def moment(self, seconds: float) -> datetime:
        return self.zero + timedelta(seconds=seconds)

    def _window(self, days: list, day: int, more: float) -> list[float] | None:
        """Hours of hands of the day so many after today, s from the plan's zero; ``more`` h at its end."""
        at = self.zero + timedelta(days=day)
        hours = days[at.weekday()]
        if hours is None:
            return None
        begin = datetime.combine(at.date(), time(), at.tzinfo)
        first = self.seconds(begin)
        return [first + 3600 * hours[0], first + 3600 * min(hours[1] + more, 24.0)]

    def _plates(self, order: Order) -> list:
        due = None if order.due is None else self.seconds(order.due)
        weight, model = URGENT if order.urgent else 1.0, str(order.machine_id)
        return [
            bridge.plate_of(key(order, i), row, model, order.material, due, weight)
            for i, row in enumerate(order.plates)
        ]


def key(order: Order, number: int) -> str:
    return f"{order.id}/{number}"


def week_out(view: WeekView) -> dict[str, Any]:
    orders = {str(o.id): o for o in view.orders}
    names = {m["key"]: m["name"] for m in view.machines}

    def of(plate_key: str) -> dict:
        order_id, number = plate_key.split("/")
        order = orders[order_id]
        return {
            "order": order.id,
            "number": int(number),
            "of": len(order.plates),
            "copies": order.plates[int(number)]["copies"],
            "part": order.part.name,
        }

    pinned = {key(o, p.number) for o in view.orders for p in o.pins.all()} - set(view.lost)
    runs = [of(r.plate.key) | bridge.run_out(r) | {"pinned": r.plate.key in pinned} for r in view.week.runs]
    return {
        "zero": view.zero,
        "now_s": view.seconds(view.now),
        "people": view.people,
        "machines": [m | {"out": m["key"] in view.without} for m in view.machines],
        "windows": view.windows,
        "runs": runs,
        "left": [of(p.key) | {"why": _left(p, view)} for p in view.week.left],
        "lost_pins": [of(k) for k in view.lost],
        "late_s": sum(r["late_s"] for r in runs),
        "orders": [_order(o, [r for r in runs if r["order"] == o.id]) for o in view.orders],
        "day": _day(view, runs, names),
    }


def _left(plate: Any, view: WeekView) -> str:
    if not any(m["model"] == plate.model for m in view.machines):
        return "no machine of its model is in service"
    return "its machines are out" if view.without else "no hands are there for as long as it asks"


def _order(order: Order, runs: list[dict]) -> dict:
    done = max((r["free_s"] for r in runs), default=None)
    late = max(runs, key=lambda r: r["late_s"], default=None)
    return {
        "id": order.id,
        "part_id": order.part_id,
        "part": order.part.name,
        "quantity": order.quantity,
        "due": order.due,
        "urgent": order.urgent,
        "plates": len(order.plates),
        "planned": len(runs),
        "done_s": done if len(runs) == len(order.plates) else None,
        "late_s": late["late_s"] if late else 0.0,
        "why": late["why"] if late else "",
        "by": order.by.shown_name,
    }


def _day(view: WeekView, runs: list[dict], names: dict[str, str]) -> list[dict]:
    """What hands have to do on the first day that there is anything, in its order."""
    of = lambda r: {"machine": names[r["machine"]], "part": r["part"], "copies": r["copies"]}
    visits = [{**v, **of(r)} for r in runs for v in r["visits"] if v["at_s"] >= view.seconds(view.now) - 1]
    visits.sort(key=lambda v: (v["at_s"], v["machine"]))
    first = int(visits[0]["at_s"] // 86400) if visits else 0
    return [v for v in visits if int(v["at_s"] // 86400) == first]


COLUMNS = ("machine", "part", "plate", "copies", "hands begin", "first line", "last line", "taken off", "late h")


def table_of(view: WeekView) -> list[list[Any]]:
    """The plan as rows, the first of them names."""
    told = week_out(view)
    names = {m["key"]: m["name"] for m in told["machines"]}
    at = lambda s: f"{view.moment(s):%Y-%m-%d %H:%M}"
    rows: list[list[Any]] = [list(COLUMNS)]
    for r in told["runs"]:
        plate = f"{r['number'] + 1} of {r['of']}"
        when = [at(r[n]) for n in ("start_s", "begin_s", "end_s", "free_s")]
        rows.append([names[r["machine"]], r["part"], plate, r["copies"], *when, round(r["late_s"] / 3600, 1)])
    return rows
