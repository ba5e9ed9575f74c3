"""Trials of printed parts: what was printed, how it was loaded, where and how it broke, what was learned."""

import uuid

from django.conf import settings
from django.db import models


class Trial(models.Model):
    """One printed part that was loaded until it broke, or held. What it was printed with is kept as it was then."""

    class How(models.TextChoices):
        BETWEEN = "between layers"
        ACROSS_LINES = "across lines"
        PULLED_OUT = "pulled out"
        CRUSHED = "crushed"
        BENT = "bent"
        HELD = "not broken"

    class Verdict(models.TextChoices):
        PASSED = "passed"
        FAILED = "failed"
        UNCLEAR = "unclear"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    workshop = models.ForeignKey("accounts.Workshop", on_delete=models.PROTECT, related_name="trials")
    part = models.ForeignKey("parts.Part", on_delete=models.CASCADE, related_name="trials")
    tested = models.DateField()
    plate = models.CharField(max_length=20)
    """Copies of one plate are one sample."""
    up = models.JSONField()
    process = models.JSONField()
    """Numbers, names of the records, and what the job chose."""
    copies = models.IntegerField(null=True)
    mode = models.CharField(max_length=12, blank=True)
    case = models.CharField(max_length=40, blank=True)
    """Id of the load case that the test stands for."""
    case_name = models.CharField(max_length=80, blank=True)
    load = models.JSONField(null=True)
    """Greatest load of the test as it was typed: ``typed``, ``n``, ``unit``."""
    case_load = models.FloatField(null=True)
    """The case's own greatest load, in the same unit."""
    how = models.CharField(max_length=20, choices=How)
    at = models.JSONField(null=True)
    """Where it broke, mm of the part."""
    layer = models.IntegerField(null=True)
    predicted = models.JSONField(null=True)
    """Of the case, without knock-downs: ``times`` its load, ``low``, ``high``, ``mode``, ``at``, ``z``, and ``welded``:
    whether the batch's welds are in it.
    """
    verdict = models.CharField(max_length=10, choices=Verdict)
    lesson = models.TextField(blank=True)
    photo = models.ForeignKey("store.Blob", on_delete=models.PROTECT, null=True, related_name="+")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    created = models.DateTimeField(auto_now_add=True)
    struck = models.DateTimeField(null=True)

    class Meta:
        ordering = ["tested", "created"]
