"""Background work on parts."""

from django.utils import timezone
from farm.queries import process_of
from procrastinate.contrib.django import app

from parts.actions import complete_part, create_part, forget_first_views, forget_source, throw_away
from parts.job import EMPTY
from parts.models import Part
from store import actions as store
from store.models import Blob
from studies.actions import keep_sweep, order_study_of_new_part
from work.actions import carry_out, still_ours, tell
from work.models import Work


@app.task(name="parts.intake")
def intake(work_id: str) -> None:
    """Reads a file into a part; the part is there, with its sweep, before its bores are found and candidates sliced."""
    pieces: dict = {}

    def arguments(work: Work) -> dict:
        data = store.get(Blob.objects.get(digest=work.order["source"]))
        before = Part.objects.filter(id=work.order.get("revises"), workshop=work.workshop).first()
        said = before.job["process"] if before else EMPTY["process"]
        known = before and {
            "solid": store.get(before.solid),
            "view": store.get(before.view),
            "regions": before.job["regions"]["rows"],
        }
        process = process_of(work.workshop, said)["numbers"]
        return {"data": data, "units": work.order["units"], "process": process, "before": known}

    def collect(work: Work, name: str, value: object) -> None:
        pieces[name] = value
        if name == "facts":
            with still_ours(work) as ours:
                if not ours.result:  # an earlier attempt may have made it
                    part = create_part(ours, pieces)
                    study = order_study_of_new_part(ours.by, part, later=bool(ours.order.get("later")))
                    tell(ours, {"part": str(part.id), "study": str(study.id)})
        elif name == "sweep":
            with still_ours(work) as ours:
                keep_sweep(ours.result["study"], value)

    def finish(work: Work) -> dict:
        ours = Work.objects.get(id=work.id)
        complete_part(ours, Part.objects.select_for_update().get(id=ours.result["part"]), pieces["features"])
        return ours.result

    carry_out(work_id, "parts.bridge", "intake", arguments, collect, finish)
    work = Work.objects.get(id=work_id)
    if work.state != Work.State.DONE and not work.open:  # what will be taken up again still needs its file
        forget_source(work)


@app.periodic(cron="23 3 * * *")
@app.task(name="parts.throw_away")
def empty_the_bin(timestamp: int) -> None:
    """Every night: what nobody brought back within its time goes."""
    forget_first_views(timezone.now())
    throw_away(timezone.now())
