"""The layers of a part standing in one direction for one process: what hangs, and how long each takes."""

import uuid

from django.db import models


class Walk(models.Model):
    """One walk up the layers. Nothing in it depends on duties or on what people settle: that is read when asked."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    part = models.ForeignKey("parts.Part", on_delete=models.CASCADE, related_name="walks")
    up = models.JSONField()
    process = models.JSONField()
    digest = models.CharField(max_length=64)
    """Of the engine's version, the solid, the process and the direction."""
    work = models.ForeignKey("work.Work", on_delete=models.PROTECT, related_name="+", null=True)
    truth = models.JSONField(null=True)
    """Regions and sums, see the engine's ``Truth``."""
    log = models.JSONField(null=True)
    """Columns over the layers: section area, lines, seconds of the lines."""
    facets = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+", null=True)
    outlines = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+", null=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-created"]

    @property
    def told(self) -> bool:
        """Whether it came to its end."""
        return self.log is not None
