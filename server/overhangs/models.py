"""The layers of a part standing in one direction for one process: what hangs, and how long each takes."""

from django.db import models

from stages.models import Result


class OverhangAnalysis(Result):
    """One check of the layers. Nothing in it depends on duties or on what people settle: that is read when asked."""

    truth = models.JSONField(null=True)
    """Regions and sums, see the engine's ``Truth``."""
    log = models.JSONField(null=True)
    """Columns over the layers: section area, lines, seconds of the lines."""
    facets = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+", null=True)
    outlines = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+", null=True)

    @property
    def complete(self) -> bool:
        """Whether it came to its end."""
        return self.log is not None
