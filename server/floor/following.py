"""Following the machines: what they say becomes the state of prints, and what people wish is told to them. A look may
be broken off anywhere and done again: a plate is given under its ticket, and a machine takes no ticket twice.
"""

import logging
from collections import defaultdict
from datetime import datetime
from uuid import UUID

from django.db import transaction

from accounts.models import User, Workshop
from floor.adapters import ADAPTERS, Adapter, Declined, Report, Ticket
from floor.plates import file_of
from week.improving import improve
from week.models import Print, PrintEvent
from week.view import machines_of

log = logging.getLogger(__name__)
State = Print.State
SAYS = {
    "heating": State.HEATING,
    "printing": State.PRINTING,
    "paused": State.PAUSED,
    "waiting": State.WAITING,
    "done": State.FINISHED,
    "failed": State.FAILED,
    "cancelled": State.CANCELLED,
}
TOLD = {
    State.HEATING: "heats",
    State.PRINTING: "prints",
    State.PAUSED: "is paused",
    State.WAITING: "waits for hands",
    State.FINISHED: "is finished and waits to be taken off",
    State.FAILED: "failed",
    State.CANCELLED: "was given up",
}
SILENT = "does not answer"
GONE = "Its machine no longer knows this plate."


def follow(now: datetime) -> int:
    """One look at every machine that holds, or is to get, a plate; how many there were."""
    open_ones = Print.objects.filter(cleared=None).values_list("id", "machine", "order__workshop")
    by_workshop = defaultdict(list)
    for print_id, machine, workshop in open_ones:
        by_workshop[workshop].append((print_id, machine))
    count = 0
    for workshop, rows in by_workshop.items():
        reached = {m["key"]: m["reached"] for m in machines_of(Workshop.objects.get(id=workshop))}
        for kind, adapter in ADAPTERS.items():
            own = [(print_id, machine) for print_id, machine in rows if reached.get(machine) == kind]
            reports = adapter.look([machine for _, machine in own]) if own else {}
            for print_id, machine in own:
                count += 1
                try:
                    _one(print_id, reports.get(machine), adapter, now)
                except OSError as error:
                    log.warning("%s: %s", machine, error)
    return count


@transaction.atomic
def _one(print_id: UUID, report: Report | None, adapter: Adapter, now: datetime) -> None:
    p = Print.objects.select_for_update(of=("self",)).select_related("order__part__sheet", "by").get(id=print_id)
    if p.cleared is not None:
        return
    if (report is None) != p.silent:
        p.silent = report is None
        p.save(update_fields=["silent"])
        said(p, now, f"the machine {SILENT}" if p.silent else "the machine answers again")
    if report is None:
        return
    ours = report.ticket == str(p.id)
    if p.state == State.SENT and not ours:
        _give(p, report, adapter, now)
    elif not ours:
        _forgotten(p, now)
    elif p.wish:
        _wish(p, adapter, now)
    else:
        _heard(p, report, now)


def _give(p: Print, report: Report, adapter: Adapter, now: datetime) -> None:
    if p.wish == "cancel":
        end(p, now, State.CANCELLED, "given up before it began")
        free(p, now)
        return
    if report.phase != "idle":
        wait = "its machine holds another plate: clear that at the machine"
        if p.words != wait:
            p.words = wait
            p.save(update_fields=["words"])
            said(p, now, wait)
        return
    row = p.order.plates[p.number]
    stops = [(at, what) for at, _, what, *_ in sorted(row["stops"])]
    name = f"{row['copies']} {p.order.part.name}, plate {p.number + 1}"
    ticket = Ticket(str(p.id), name, row["seconds"], row.get("layers", 1), stops, lambda: file_of(p.order, p.number))
    try:
        adapter.give(p.machine, ticket)
    except Declined as no:
        end(p, now, State.FAILED, f"not begun: {no}")
        free(p, now)


def _wish(p: Print, adapter: Adapter, now: datetime) -> None:
    try:
        adapter.tell(p.machine, str(p.id), p.wish)
    except Declined as no:
        said(p, now, str(no))
    else:
        if p.wish == "continue" and p.state == State.WAITING:
            p.stops_done += 1
        if p.wish == "clear":
            free(p, now)
    p.wish = ""
    p.save(update_fields=["wish", "stops_done"])


def _forgotten(p: Print, now: datetime) -> None:
    """Its machine holds something else, or nothing."""
    if p.state in Print.ON_MACHINE:
        end(p, now, State.FAILED, GONE)
    if p.state != State.FINISHED:
        free(p, now)


def _heard(p: Print, report: Report, now: datetime) -> None:
    state = SAYS.get(report.phase, p.state)
    if p.state in (State.DONE, *Print.BROKEN_OFF):
        return
    changed = state != p.state or report.words != p.words
    p.layer, p.layers, p.left_s, p.heard = report.layer, report.layers, report.left_s, now
    if state in Print.BROKEN_OFF:
        end(p, now, state, report.words)
        return
    p.state, p.words = state, report.words
    p.save(update_fields=["layer", "layers", "left_s", "heard", "state", "words"])
    if changed:
        at = f" at layer {report.layer}" if state in (State.WAITING, State.PAUSED) else ""
        said(p, now, f"{TOLD[state]}{at}{': ' + report.words if report.words else ''}")


def said(p: Print, now: datetime, words: str, by: User | None = None) -> None:
    PrintEvent.objects.create(print=p, at=now, words=words[:300], by=by)


def end(p: Print, now: datetime, state: str, words: str, by: User | None = None) -> None:
    """A print is broken off: its plate is to be printed anew, and the week is searched anew."""
    p.state, p.words, p.wish, p.left_s, p.heard = state, words[:200], "", 0.0, now
    p.save(update_fields=["state", "words", "wish", "left_s", "heard", "layer", "layers"])
    said(p, now, f"{TOLD[State(state)]}{f' at layer {p.layer}' if p.layer else ''}: {words}", by)
    improve(by or p.by)


def free(p: Print, now: datetime) -> None:
    p.cleared, p.wish = now, ""
    p.save(update_fields=["cleared", "wish"])
