"""Sheets: what people write down and change. Every edition is kept, so any edit can be taken back."""

import uuid

from django.conf import settings
from django.db import models


class Sheet(models.Model):
    """One record that people edit, as JSON whose form belongs to its ``kind``."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    workshop = models.ForeignKey("accounts.Workshop", on_delete=models.PROTECT, related_name="sheets")
    kind = models.CharField(max_length=20)
    version = models.IntegerField(default=1)
    content = models.JSONField()
    struck = models.DateTimeField(null=True)
    """When it was put in the bin; None while it is in use."""
    struck_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True, related_name="+")
    frozen = models.DateTimeField(null=True)
    """Since when nobody writes on it any more; None while it is in work."""
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        indexes = [models.Index(fields=["workshop", "kind"])]


class Edition(models.Model):
    """A sheet as it stood after one edit."""

    sheet = models.ForeignKey(Sheet, on_delete=models.CASCADE, related_name="editions")
    number = models.IntegerField()
    content = models.JSONField()
    words = models.CharField(max_length=120)
    """What was done, as the history shows it."""
    takes_back = models.IntegerField(null=True)
    """The number of the edit that this one undid."""
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-number"]
        constraints = [models.UniqueConstraint(fields=["sheet", "number"], name="one_edition_a_number")]
