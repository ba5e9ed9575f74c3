"""The week in words and rows."""

from datetime import datetime
from typing import Any

from week import bridge
from week.models import Order, Print, PrintEvent
from week.view import WeekView, key, left_s

LAST = 40
"""Lines of the log that are shown."""


def week_out(view: WeekView) -> dict[str, Any]:
    orders = {str(o.id): o for o in view.orders} | {str(p.order_id): p.order for p in view.on_machine.values()}
    names = {m["key"]: m["name"] for m in view.machines}
    prints = {str(p.id): p for p in view.on_machine.values()}
    of_plate = {key(p.order_id, p.number): p for p in view.on_machine.values() if p.state in Print.ON_MACHINE}

    def of(plate_key: str) -> dict:
        order_id, number, *broken = plate_key.split("/")
        order = orders[order_id]
        found = prints[broken[0]] if broken else of_plate.get(plate_key)
        return {
            "order": order.id,
            "number": int(number),
            "of": len(order.plates),
            "copies": order.plates[int(number)]["copies"],
            "part": order.part.name,
            "print": found and print_out(found, view.now),
        }

    pinned = set(view.pins) - set(view.lost)
    runs = [of(r.plate.key) | bridge.run_out(r) | {"pinned": r.plate.key in pinned} for r in view.week.runs]
    return {
        "zero": view.zero,
        "now_s": view.seconds(view.now),
        "people": view.people,
        "machines": [m | {"out": view.is_out(m), "loaded": view.loaded.get(m["key"], "")} for m in view.machines],
        "windows": view.windows,
        "runs": runs,
        "left": [of(p.key) | {"why": _left(p, view)} for p in view.week.left],
        "lost_pins": [of(k) for k in view.lost],
        "late_s": sum(r["late_s"] for r in runs),
        "orders": _with_kits([_order(o, [r for r in runs if r["order"] == o.id]) for o in view.orders]),
        "day": _day(view, runs, names),
        "told": _told(view, names, of),
        "better": _better(view),
        "log": _log(view, names),
    }


def print_out(p: Print, now: datetime) -> dict:
    return {
        "id": p.id,
        "state": p.state,
        "layer": p.layer,
        "layers": p.layers,
        "left_s": left_s(p, now),
        "words": p.words,
        "wish": p.wish,
        "silent": p.silent,
    }


def _left(plate: Any, view: WeekView) -> str:
    if not any(m["model"] == plate.model and m["in_service"] for m in view.machines):
        return "no machine of its model is in service"
    return "its machines are out" if view.without else "no hands are there for as long as it asks"


def _order(order: Order, runs: list[dict]) -> dict:
    printed = [p for p in order.prints.all() if p.state == Print.State.DONE]
    there = {p.number for p in printed} | {r["number"] for r in runs}
    done = max((r["free_s"] for r in runs), default=None)
    late = max(runs, key=lambda r: r["late_s"], default=None)
    return {
        "id": order.id,
        "part_id": order.part_id,
        "part": order.part.name,
        "quantity": order.quantity,
        "due": order.due,
        "urgent": order.urgent,
        "dry_h": order.dry_h,
        "rest_h": order.rest_h,
        "kit": order.kit,
        "plates": len(order.plates),
        "planned": len(there),
        "printed": len(printed),
        "good": sum(p.good or 0 for p in printed),
        "bad": sum(p.bad or 0 for p in printed),
        "done_s": done + 3600 * order.rest_h if done is not None and len(there) == len(order.plates) else None,
        "late_s": late["late_s"] if late else 0.0,
        "why": late["why"] if late else "",
        "by": order.by.shown_name,
    }


def _with_kits(rows: list[dict]) -> list[dict]:
    """Orders of one kit after each other, with when the last of its parts is there."""
    done: dict[str, list] = {}
    for row in rows:
        done.setdefault(row["kit"], []).append(row["done_s"])
    last = lambda kit: max(done[kit]) if kit and None not in done[kit] else None
    kits = list(done)
    rows = sorted(rows, key=lambda r: kits.index(r["kit"]) if r["kit"] else -1)
    return [r | {"kit_done_s": last(r["kit"])} for r in rows]


def _day(view: WeekView, runs: list[dict], names: dict[str, str]) -> list[dict]:
    """What hands have to do on the first day that there is anything, in its order."""
    of = lambda r: {"machine": names[r["machine"]], **{n: r[n] for n in ("part", "copies", "order", "number")}}
    visits = [{**v, **of(r)} for r in runs for v in r["visits"] if v["at_s"] >= view.seconds(view.now) - 1]
    visits.sort(key=lambda v: (v["at_s"], v["machine"]))
    first = int(visits[0]["at_s"] // 86400) if visits else 0
    return [v for v in visits if int(v["at_s"] // 86400) == first]


def _told(view: WeekView, names: dict[str, str], of: Any) -> dict | None:
    """When people were told a plan, by whom, and what is no longer as it was told."""
    if view.plan is None:
        return None
    begun = {r.plate.key for r in view.kept}
    keys = [k for k in bridge.moved(view.told, view.week) if k not in begun]
    now = {r.plate.key: r for r in view.week.runs}
    left = {p.key for p in view.week.left}
    place = lambda machine, start: f"{names.get(machine, 'a machine out of service')}, {view.moment(start):%a %H:%M}"
    rows = []
    for k in keys:
        was, run = view.told.get(k), now.get(k)
        if run is None and k not in left:
            continue  # printed, or withdrawn
        rows.append(
            {
                **{n: v for n, v in of(k).items() if n != "print"},
                "was": place(was.machine, was.start) if was else "new",
                "now": place(run.machine, run.start) if run else "not planned",
            }
        )
    return {"at": view.plan.at, "by": view.plan.by.shown_name, "moved": rows}


def _better(view: WeekView) -> dict | None:
    """What the solver has found for this situation, and whether that is worth taking."""
    found = view.found
    if found is None:
        return None
    late, now = view.solvers_lateness(), view.week.lateness
    return {
        "late_s": late,
        "now_s": now,
        # What is printed by now counts no more.
        "bound_s": min(found.bound_s, late, now),
        "proved": found.proved,
        "at": found.at,
    }


def _log(view: WeekView, names: dict[str, str]) -> list[dict]:
    rows = PrintEvent.objects.filter(print__order__workshop=view.workshop)
    return [
        {
            "at": e.at,
            "words": e.words,
            "machine": names.get(e.print.machine, ""),
            "part": e.print.order.part.name,
            "number": e.print.number,
            "by": e.by and e.by.shown_name,
        }
        for e in rows.select_related("print__order__part__sheet", "by")[:LAST]
    ]


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
