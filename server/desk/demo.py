"""The demo's orders: once a part's directions are known, one is chosen, its plate filled, a batch chosen and ordered,
as an engineer of the demo would.
"""

from datetime import datetime, timedelta

from django.utils import timezone

from batch import actions as batches
from batch.models import BatchAnalysis
from batch.stage import BATCH
from demo.river_station import CHOSEN, ORDERS, PEOPLE, WORKSHOP, DemoOrder
from farm import queries as farm
from parts.models import Part
from stages.stage import calculate
from studies import actions as studies
from studies.models import Study
from studies.stage import DIRECTIONS
from studies.view import DirectedJob
from week import actions as week
from work.models import Work

MACHINE, MATERIAL = "Weir 220", "petg"
WHY = "stands flat, nothing hangs"


def _of_the_demo(part: Part, work: Work) -> bool:
    """A part as the demo brought it, no revision that somebody made of it."""
    brought = part.before_id is None and part.workshop.name == WORKSHOP
    return brought and work.by.username == PEOPLE[0][0]


def ordered(part: Part, work: Work) -> DemoOrder | None:
    """What the demo orders of a part; None of any other one."""
    return ORDERS.get(part.name) if _of_the_demo(part, work) else None


def _directions_known(work: Work) -> None:
    study = Study.objects.filter(id=work.arguments["result"]).select_related("part__sheet", "part__workshop").first()
    if study is None or study.part.job["choice"] or not _of_the_demo(study.part, work):
        return
    part, user = study.part, work.by
    chosen = CHOSEN.get(part.name)
    if chosen:
        given = part.job["process"]
        if any(given[name] != value for name, value in chosen.process.items()):
            studies.calculate_study(user, part, part.sheet.version, chosen.process)
        else:
            studies.choose(user, study, part.sheet.version, list(chosen.up), chosen.reason)
    if part.name not in ORDERS:
        return
    if part.job["process"]["machine"] is None:
        model = next(r.id for r in farm.records(user, "machine") if r.content["record"]["name"] == MACHINE)
        given = {"machine": str(model), "material": MATERIAL}
        studies.calculate_study(user, part, part.sheet.version, given)
        return
    studies.choose(user, study, part.sheet.version, study.candidates[0]["up"], WHY)
    calculate(BATCH, user, DirectedJob(Part.objects.get(id=part.id)), more={"later": True})


def _plate_filled(work: Work) -> None:
    rows = BatchAnalysis.objects.select_related("part__sheet", "part__workshop", "layers")
    analysis = rows.filter(id=work.arguments["result"]).first()
    found = analysis and ordered(analysis.part, work)
    if not found or analysis.part.job["batch"]:
        return
    user, view = work.by, DirectedJob(analysis.part)
    copies = min(found.copies, len(analysis.result["items"]["together"]))
    batches.choose(user, view, analysis, view.part.sheet.version, "together", copies, "as the order is packed", None)
    due = due_after(found.days, timezone.localtime())
    week.order(user, DirectedJob(Part.objects.get(id=view.part.id)), found.quantity, due)


def due_after(days: int, now: datetime) -> datetime:
    """Five in the afternoon so many days ahead; once that is past, or nobody is there, of the next working day. So what
    is wanted on the same day is late at whatever hour the demo is begun, and what has a week never is.
    """
    at = (now + timedelta(days=days)).replace(hour=17, minute=0, second=0, microsecond=0)
    while at <= now or at.weekday() > 4:
        at += timedelta(days=1)
    return at


FOLLOW_UPS = {DIRECTIONS.kind: _directions_known, BATCH.kind: _plate_filled}
COMPUTATIONS = ()
