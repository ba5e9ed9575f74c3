"""The demo's orders: once a part's directions are known, one is chosen, its plate filled, a batch chosen and ordered,
as an engineer of the demo would.
"""

from datetime import datetime, timedelta

from django.utils import timezone

from accounts.models import User
from batch import actions as batches
from batch.models import BatchAnalysis
from batch.stage import BATCH
from demo.river_station import CHOSEN, ORDERS, PEOPLE, WORKSHOP, DemoOrder
from demo.trials import TRIALS
from farm import queries as farm
from parts.models import Part
from stages.stage import calculate
from strength.models import StrengthAnalysis
from strength.stage import STRENGTH
from studies import actions as studies
from studies.models import Study
from studies.stage import DIRECTIONS
from studies.view import DirectedJob
from trials import actions as written
from trials import queries as trials
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
        given, wanted = part.job["process"], chosen.process | {"machine": _machine(user, chosen.process["machine"])}
        if any(given[name] != value for name, value in wanted.items()):
            studies.calculate_study(user, part, part.sheet.version, wanted)
        else:
            studies.choose(user, study, part.sheet.version, list(chosen.up), chosen.reason)
            _tried(part, work)
    if part.name not in ORDERS:
        return
    if part.job["process"]["machine"] is None:
        given = {"machine": _machine(user, MACHINE), "material": MATERIAL}
        studies.calculate_study(user, part, part.sheet.version, given)
        return
    studies.choose(user, study, part.sheet.version, study.candidates[0]["up"], WHY)
    calculate(BATCH, user, DirectedJob(Part.objects.get(id=part.id)), more={"later": True})


def _machine(user: User, name: str) -> str:
    return str(next(r.id for r in farm.records(user, "machine") if r.content["record"]["name"] == name))


def _strength_known(work: Work) -> None:
    """The demo's trials, once it is known what was predicted."""
    rows = StrengthAnalysis.objects.select_related("part__sheet", "part__workshop")
    check = rows.filter(id=work.arguments["result"]).first()
    if check:
        _tried(check.part, work)


def _tried(part: Part, work: Work) -> None:
    """A direction is chosen and its strength known in either order."""
    if part.name not in TRIALS or not _of_the_demo(part, work):
        return
    view = DirectedJob(Part.objects.get(id=part.id))
    told = next((c for c in trials.cases(view) if c["times"]), None)
    if told is None or not view.choice or trials.trials_of(work.by).filter(part=part).exists():
        return
    today = timezone.localdate()
    for row in TRIALS[part.name]:
        written.begin(work.by, part.id, {
            "tested": (today - timedelta(days=row.days)).isoformat(), "plate": row.plate, "copies": row.copies,
            "mode": "together", "case": told["id"], "load": f"{row.share * told['times'] * told['load']:.0f} N",
            "how": row.how, "verdict": row.verdict, "at": list(row.at), "lesson": row.lesson,
        })  # fmt: skip


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


FOLLOW_UPS = {DIRECTIONS.kind: _directions_known, BATCH.kind: _plate_filled, STRENGTH.kind: _strength_known}
COMPUTATIONS = ()
