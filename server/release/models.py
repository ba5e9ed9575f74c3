"""Releases: a job frozen as it was proven, its packet, and who looked at it."""

import uuid

from django.conf import settings
from django.db import models


class Release(models.Model):
    class Kind(models.TextChoices):
        PORTABLE = "portable"
        """The geometry alone: it holds with generic settings, on any machine."""
        LOCKED = "locked"
        """Geometry with its process: perimeters, infill, order, mode, pauses, size of the batch."""

    class State(models.TextChoices):
        ASKED = "asked"
        """A second person has to look at it: the part could injure somebody."""
        RELEASED = "released"
        REFUSED = "refused"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    part = models.ForeignKey("parts.Part", on_delete=models.CASCADE, related_name="releases")
    kind = models.CharField(max_length=10, choices=Kind)
    state = models.CharField(max_length=10, choices=State)
    version = models.IntegerField()
    """The edition of the job that was released."""
    waiver = models.TextField(blank=True)
    """Why no trial printed as the batch will be was asked for; empty where there is one."""
    note = models.TextField(blank=True)
    told = models.JSONField()
    """What the packet's manifest says beside its files."""
    packet = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()
    reviewer = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True, related_name="+")
    reviewed = models.DateTimeField(null=True)
    review = models.TextField(blank=True)
    """What the reviewer said."""

    class Meta:
        ordering = ["-at"]
