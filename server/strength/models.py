"""How a part holds its loads: one solution for all build directions, and one for each direction's own layers."""

import uuid

from django.db import models

from stages.models import Result


class StrengthAnalysis(Result):
    """The stress of a part under its loads. No knock-down on all strengths and no required factor is in it, and nothing
    that people settle: those are put on when it is read.
    """

    class Level(models.TextChoices):
        NOTHING = "nothing"
        COARSE = "coarse"
        FULL = "full"

    cases = models.JSONField()
    """Ids of the job's cases and combinations, in the order of the file."""
    level = models.CharField(max_length=10, choices=Level, default=Level.NOTHING)
    net = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+", null=True)
    """Directions, each case's reserve in them, and the points that decide it, as JSON."""

    @property
    def loads(self) -> dict:
        """A loads file; of the natures only shock is in it."""
        return self.inputs["loads"]

    @property
    def movements(self) -> list[dict]:
        return self.inputs["movements"]

    @property
    def bond(self) -> float | None:
        return self.inputs["bond"]


class DirectionAnalysis(models.Model):
    """One build direction of a check: read from the solution for all directions, then solved with its own layers."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    of = models.ForeignKey(StrengthAnalysis, on_delete=models.CASCADE, related_name="directions")
    up = models.JSONField()
    work = models.ForeignKey("work.Work", on_delete=models.PROTECT, related_name="+", null=True)
    screened = models.JSONField(null=True)
    layered = models.JSONField(null=True)
    volume = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+", null=True)
    """The share of the strength used all over the part, for drawing."""
    fixes = models.JSONField(null=True)
    fixes_for = models.CharField(max_length=64, blank=True)
    """Digest of the knock-downs and factors that the fixes were calculated with; the same below."""
    explored = models.JSONField(default=list)
    """Perimeters against infill, pair by pair."""
    explored_for = models.CharField(max_length=64, blank=True)
    exploring = models.ForeignKey("work.Work", on_delete=models.PROTECT, related_name="+", null=True)
    field = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+", null=True)
    """The stress field for any viewer, once somebody has asked for it."""
    fielding = models.ForeignKey("work.Work", on_delete=models.PROTECT, related_name="+", null=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["created"]


class BatchWelds(models.Model):
    """What a batch that was chosen leaves of the weld of every layer, from the plate up: what a reserve stands on."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    part = models.ForeignKey("parts.Part", on_delete=models.CASCADE, related_name="+")
    up = models.JSONField()
    pitch = models.FloatField()
    """mm from layer to layer."""
    value = models.JSONField()
    low = models.JSONField()
    """The lower edge of its band."""
    words = models.CharField(max_length=120)
    """Which batch it is."""
    created = models.DateTimeField(auto_now_add=True)
