"""The one task of the queue: it runs whatever computation the work is of. And what is cleared away every night."""

from django.utils import timezone
from procrastinate import JobContext, builtin_tasks
from procrastinate.contrib.django import app

from work.actions import KEPT_ENDED, forget_ended, run_in_child_process
from work.computations import computations
from work.models import Work


@app.task(name="work.compute")
def compute(work_id: str) -> None:
    run_in_child_process(work_id, computations()[Work.objects.get(id=work_id).kind])


@app.periodic(cron="41 3 * * *")
@app.task(name="work.forget_ended")
def forget_ended_work(timestamp: int) -> None:
    forget_ended(timezone.now())


@app.periodic(cron="47 3 * * *")
@app.task(name="work.forget_jobs", pass_context=True)
async def forget_jobs(context: JobContext, timestamp: int) -> None:
    """The queue's own entries of what ended long ago."""
    hours = int(KEPT_ENDED.total_seconds() // 3600)
    await builtin_tasks.remove_old_jobs(
        context, max_hours=hours, remove_failed=True, remove_cancelled=True, remove_aborted=True
    )
