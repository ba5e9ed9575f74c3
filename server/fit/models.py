"""Touching faces drawn for their fit."""

from django.db import models

from stages.models import Result


class FitAnalysis(Result):
    """A job's touching faces drawn for their fits, in the direction it stands in."""

    result = models.JSONField(null=True)
    """Every row as it was measured, with its steps or why they cannot be done; how far anything else has moved."""
    view = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+", null=True)
    """The part as it is drawn then; the feature of a facet is 1 + the number of the step that made it."""
    file = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+", null=True)
    """The same as a file that can come in as a revision."""
    exact = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+", null=True)
    """The same as STEP, where the part has an exact solid."""
