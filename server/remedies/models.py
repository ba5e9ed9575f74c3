"""Remedies worked out for a part in one direction: what was changed, what is left, the changed solid."""

from django.db import models

from stages.models import Result


class Proposal(Result):
    result = models.JSONField(null=True)
    """What was done, what is left, how the part stood before and stands after."""
    view = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+", null=True)
    """The changed part for drawing; the feature of a facet is the remedy that made it."""
    file = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+", null=True)
    """The changed part as a file that can come in as a revision."""
    exact = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+", null=True)
    """The same as STEP, where the part has an exact solid."""

    @property
    def steps(self) -> list[dict] | None:
        """The recipe that was asked for, see ``remedies.queries``; None where every remedy that fits was."""
        return self.inputs["steps"]


class AfterRemedies(Result):
    """What the remedies of the best directions of a part come to."""

    rows = models.JSONField(default=list)
    """One for each direction, as they come."""

    @property
    def ups(self) -> list[list[float]]:
        """The directions, the best by the plain ranking first."""
        return self.inputs["ups"]
