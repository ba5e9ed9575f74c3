"""A part worked out as several pieces, and what became of it."""

from django.db import models

from stages.models import Result


class Division(Result):
    result = models.JSONField(null=True)
    """Words, numbers, pieces, warnings, pauses, sockets; or why it cannot be."""
    view = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+", null=True)
    """All pieces put together, for drawing; the feature of a facet is 1 + the number of its piece."""
    file = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+", null=True)
    """Every copy of every piece side by side in its printing pose."""

    @property
    def request(self) -> dict:
        """How it was asked for: the way, the cut, pegs, fit; see ``pieces.schemas.DivideIn``."""
        return self.inputs["request"]

    @property
    def clearance(self) -> float:
        """mm per side, by the fit that was asked for."""
        return self.inputs["clearance"]


class PieceFile(models.Model):
    """One piece as a file that can come in as a part."""

    division = models.ForeignKey(Division, on_delete=models.CASCADE, related_name="files")
    number = models.IntegerField()
    file = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+")
    exact = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+", null=True)
    """The same as STEP, where the part has an exact solid."""

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["division", "number"], name="one_file_a_piece")]
