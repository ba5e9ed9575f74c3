"""How thick a part is everywhere, and what whole lines make of that under a process."""

import uuid

from django.db import models


class Gauging(models.Model):
    """One measuring of a part's walls, and of what its layers draw in the direction it stands in."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    part = models.ForeignKey("parts.Part", on_delete=models.CASCADE, related_name="gaugings")
    process = models.JSONField()
    up = models.JSONField(null=True)
    """The direction it stands in; null while no direction is known."""
    loads = models.JSONField(null=True)
    """A loads file; null where nothing is written."""
    service = models.JSONField(default=dict)
    """What a reserve is divided by."""
    digest = models.CharField(max_length=64)
    """Of the engine's version, the solid and all of the above."""
    work = models.ForeignKey("work.Work", on_delete=models.PROTECT, related_name="+", null=True)
    told = models.JSONField(null=True)
    """Thinnest place, histogram, comb, zones, and what else wants sizing."""
    layers = models.JSONField(null=True)
    """What the nozzle leaves in every layer, by columns."""
    view = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+", null=True)
    """The part with its large facets divided, for drawing; the feature of a facet is 1 + the number of its zone."""
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-created"]
