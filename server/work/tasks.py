"""The one task of the queue: it runs whatever computation the work is of."""

from procrastinate.contrib.django import app

from work.actions import run_in_child_process
from work.computations import computations
from work.models import Work


@app.task(name="work.compute")
def compute(work_id: str) -> None:
    run_in_child_process(work_id, computations()[Work.objects.get(id=work_id).kind])
