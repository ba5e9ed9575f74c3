"""How many copies of a part a plate takes, either way, and what was chosen."""

import uuid

from django.conf import settings
from django.db import models

from stages.models import Result


class BatchAnalysis(Result):
    """The full plate of a part in either mode, and what every number of copies is read from."""

    result = models.JSONField(null=True)
    """Outline, items of either mode, how it holds the plate and leaves it, grams of a copy."""
    layers = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+", null=True)
    """What every layer takes in time, and its weld against the wait."""


class PreparedFile(models.Model):
    """A file that some other program made for a machine, read beside a plate; only what it says is kept."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    analysis = models.ForeignKey(BatchAnalysis, on_delete=models.CASCADE, related_name="prepared")
    mode = models.CharField(max_length=12)
    copies = models.IntegerField()
    name = models.CharField(max_length=255)
    source = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+", null=True)
    """Until it is read."""
    result = models.JSONField(null=True)
    accepted = models.JSONField(default=dict)
    """By the number of a difference who accepted it, when and why."""
    work = models.ForeignKey("work.Work", on_delete=models.PROTECT, related_name="+", null=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-at"]


class BatchChoice(models.Model):
    """Kept as it was made: its numbers do not change when the plate is filled again."""

    analysis = models.ForeignKey(BatchAnalysis, on_delete=models.CASCADE, related_name="choices")
    welds = models.ForeignKey("strength.BatchWelds", on_delete=models.RESTRICT, related_name="+")
    mode = models.CharField(max_length=12)
    copies = models.IntegerField()
    items = models.JSONField()
    """Where every copy stands, in the order of printing."""
    measures = models.JSONField()
    prepared = models.CharField(max_length=255, null=True)
    """Name of the prepared file whose waits it stands on."""
    reason = models.TextField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-at"]
