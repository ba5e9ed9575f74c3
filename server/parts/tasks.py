"""Background work on parts."""

from django.utils import timezone
from procrastinate.contrib.django import app

from parts.actions import create_part, forget_source, throw_away
from store import actions as store
from store.models import Blob
from studies.actions import order_study_of_new_part, plain_process
from work.actions import carry_out
from work.models import Work


@app.task(name="parts.intake")
def intake(work_id: str) -> None:
    """Reads a file into a part, and orders its first study of directions."""
    pieces: dict = {}

    def finish(work: Work) -> dict:
        part = create_part(work, pieces, plain_process())
        study = order_study_of_new_part(work.by, part)
        return {"part": str(part.id), "study": str(study.id)}

    def arguments(work: Work) -> dict:
        return {"data": store.get(Blob.objects.get(digest=work.order["source"])), "units": work.order["units"]}

    def collect(work: Work, name: str, value: object) -> None:
        pieces[name] = value

    carry_out(work_id, "parts.bridge", "intake", arguments, collect, finish)
    work = Work.objects.get(id=work_id)
    if work.state != Work.State.DONE:
        forget_source(work)


@app.periodic(cron="23 3 * * *")
@app.task(name="parts.throw_away")
def empty_the_bin(timestamp: int) -> None:
    """Every night: what nobody brought back within its time goes."""
    throw_away(timezone.now())
