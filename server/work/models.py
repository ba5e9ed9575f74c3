"""Long work: what is being done for whom, how far it is, how it ended."""

import uuid

from django.conf import settings
from django.db import models
from django.utils import timezone


class Work(models.Model):
    class State(models.TextChoices):
        WAITING = "waiting"
        RUNNING = "running"
        DONE = "done"
        REFUSED = "refused"
        FAILED = "failed"
        CANCELLED = "cancelled"

    OPEN = (State.WAITING, State.RUNNING)
    BROKEN_OFF = (State.CANCELLED, State.FAILED, State.REFUSED)

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    workshop = models.ForeignKey("accounts.Workshop", on_delete=models.CASCADE)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    kind = models.CharField(max_length=20)
    """Which computation it is, see ``work.computations``."""
    title = models.CharField(max_length=120, blank=True)
    """What it is of: a part's name."""
    note = models.CharField(max_length=200, blank=True)
    """What whoever ordered it should know at once."""
    part = models.UUIDField(null=True)
    """Whose page shows what comes of it; None while there is none."""
    arguments = models.JSONField(default=dict)
    """What to do it with, kept so that the work can be queued again."""
    state = models.CharField(max_length=10, choices=State, default=State.WAITING)
    done = models.IntegerField(default=0)
    total = models.IntegerField(default=0)
    doing = models.CharField(max_length=200, blank=True)
    problem = models.JSONField(null=True)
    result = models.JSONField(null=True)
    lane = models.CharField(max_length=5, default="long")
    """Which workers take it: *quick* before anything long, by those that take no long work as well."""
    started = models.DateTimeField(null=True)
    cancel_asked = models.BooleanField(default=False)
    job = models.BigIntegerField(null=True)
    """The queue's entry that stands for this work; a new one when the work is queued again."""
    attempt = models.IntegerField(default=1)
    """Counts the times it was queued. Only the latest attempt may store an outcome."""
    seen = models.DateTimeField(default=timezone.now)
    """When a worker last had it in hand."""
    created = models.DateTimeField(auto_now_add=True)
    ended = models.DateTimeField(null=True)

    found: dict
    """What has been found so far, for a computation that keeps several results as one; in the process that runs it."""

    @property
    def open(self) -> bool:
        return self.state in self.OPEN
