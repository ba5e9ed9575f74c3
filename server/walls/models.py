"""How thick a part is everywhere, and what whole lines make of that under a process."""

from django.db import models

from stages.models import Result


class WallAnalysis(Result):
    """One measuring of a part's walls, and of what its layers draw in the direction it stands in."""

    result = models.JSONField(null=True)
    """Thinnest place, histogram, comb, zones, and what else wants sizing."""
    layers = models.JSONField(null=True)
    """What the nozzle leaves in every layer, by columns; null while no direction is known."""
    view = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+", null=True)
    """The part with its large facets divided, for drawing; the feature of a facet is 1 + the number of its zone."""
