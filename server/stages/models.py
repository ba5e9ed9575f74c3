"""What a stage works out for a part."""

import uuid

from django.db import models


class Result(models.Model):
    """One result of a stage: what it rests on, the work that makes it, and whatever the stage adds of its own.

    Nothing in it depends on what people settle: that is read when it is shown.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    part = models.ForeignKey("parts.Part", on_delete=models.CASCADE, related_name="%(class)s_results")
    process = models.JSONField()
    """The numbers of the job's process."""
    inputs = models.JSONField(default=dict)
    """What else it rests on, by the names of ``stages.inputs``."""
    digest = models.CharField(max_length=64)
    """Of the engine's version, the solid and all of the above: results with one digest are one."""
    work = models.ForeignKey("work.Work", on_delete=models.PROTECT, related_name="+", null=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        abstract = True
        ordering = ["-created"]

    @property
    def up(self) -> list[float] | None:
        """The build direction that it is of; None where it has none."""
        return self.inputs.get("up")
