"""Remedies worked out for a part in one direction: what was changed, what is left, the changed solid."""

import uuid

from django.db import models


class Proposal(models.Model):
    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    part = models.ForeignKey("parts.Part", on_delete=models.CASCADE, related_name="proposals")
    up = models.JSONField()
    process = models.JSONField()
    steps = models.JSONField(null=True)
    """The recipe that was asked for, see ``remedies.queries``; None where every remedy that fits was."""
    digest = models.CharField(max_length=64)
    """Of the engine's version, the solid, the process, the direction, protected faces, policy, loads and steps."""
    work = models.ForeignKey("work.Work", on_delete=models.PROTECT, related_name="+", null=True)
    told = models.JSONField(null=True)
    """What was done, what is left, how the part stood before and stands after."""
    view = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+", null=True)
    """The changed part for drawing; the feature of a facet is the remedy that made it."""
    file = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+", null=True)
    """The changed part as a file that can come in as a revision."""
    exact = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+", null=True)
    """The same as STEP, where the part has an exact solid."""
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-created"]


class Afterwards(models.Model):
    """What the remedies of the best directions of a part come to."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    part = models.ForeignKey("parts.Part", on_delete=models.CASCADE, related_name="afterwards")
    process = models.JSONField()
    ups = models.JSONField()
    """The directions, the best by the plain ranking first."""
    digest = models.CharField(max_length=64)
    work = models.ForeignKey("work.Work", on_delete=models.PROTECT, related_name="+", null=True)
    rows = models.JSONField(default=list)
    """One for each direction, as they come."""
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-created"]
