"""Who changed what, when, from what to what. Rows are added and never changed."""

from django.conf import settings
from django.db import models


class Entry(models.Model):
    workshop = models.ForeignKey("accounts.Workshop", on_delete=models.PROTECT, related_name="+")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    action = models.CharField(max_length=40)
    thing = models.CharField(max_length=40)
    """Kind of the record."""
    thing_id = models.CharField(max_length=64)
    about = models.CharField(max_length=200, default="")
    """What people call the record, or the part that it belongs to, when it was written."""
    before = models.JSONField(null=True)
    after = models.JSONField(null=True)

    class Meta:
        ordering = ["-at", "-id"]
        indexes = [models.Index(fields=["workshop", "thing", "thing_id"])]
