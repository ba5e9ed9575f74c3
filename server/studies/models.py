"""A study of directions: one part, one process, every direction; and what was chosen, why, by whom."""

from django.conf import settings
from django.db import models

from stages.models import Result


class Study(Result):
    sweep = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+", null=True)
    candidates = models.JSONField(default=list)


class Choice(models.Model):
    """Kept as it was made: the numbers and the alternatives do not change when the study is run again."""

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="choices")
    up = models.JSONField()
    measures = models.JSONField()
    alternatives = models.JSONField()
    reason = models.TextField()
    rests_on = models.JSONField(default=dict)
    """Digests of what it was decided by, see ``needs.queries.inputs``; empty in what was chosen before it was kept."""
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-at"]
