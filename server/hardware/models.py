"""Steel in a part: where its places were cut, and what it makes of the reserve."""

from django.db import models

from stages.models import Result


class HardwareAnalysis(Result):
    """One working out of a job's hardware in the direction it stands in."""

    result = models.JSONField(null=True)
    """Every row with its place or why it has none; the part's volume before and after; what hand's sums say of its
    loads."""
    view = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+", null=True)
    """The part with its places cut, for drawing; the feature of a facet is the row that made it."""
    steel = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+", null=True)
    """What goes in, for drawing; the feature of a facet is 1 + the number of its row."""
    file = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+", null=True)
    """The cut part as a file that can come in as a revision."""
    exact = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+", null=True)
    """The same as STEP, where the part has an exact solid."""
    least = models.JSONField(null=True)
    """The least reserve as it was last read: what it was read from, and what it is."""
    points = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+", null=True)
    """Stress of every case and of a newton in every bolt, where the part fails first; null without loads or bolts."""
