"""What the farm is to print: orders with their plates, what somebody has pinned, when hands are there."""

import uuid

from django.conf import settings
from django.db import models


def working_days() -> list:
    return [[8.0, 17.0]] * 5 + [None] * 2


class Order(models.Model):
    """So many good parts of a job by a day, in the batch that was chosen; its plates are kept as they were ordered."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    workshop = models.ForeignKey("accounts.Workshop", on_delete=models.PROTECT, related_name="orders")
    part = models.ForeignKey("parts.Part", on_delete=models.CASCADE, related_name="orders")
    choice = models.ForeignKey("batch.BatchChoice", on_delete=models.CASCADE, related_name="orders")
    machine = models.ForeignKey("sheets.Sheet", on_delete=models.SET_NULL, null=True, related_name="+")
    """The record of the model that its plates are printed on, as long as there is one."""
    material = models.CharField(max_length=80)
    quantity = models.IntegerField()
    due = models.DateTimeField(null=True)
    urgent = models.BooleanField(default=False)
    plates = models.JSONField()
    """Of every plate ``copies``, ``seconds`` of the machine, ``stops`` [s after its first line, s of hands, what for],
    ``start_s`` and ``end_s`` of hands.
    """
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    withdrawn = models.DateTimeField(null=True)

    class Meta:
        ordering = ["at"]


class Pin(models.Model):
    """A plate of an order that somebody has put on a machine at a time; planning leaves it there."""

    order = models.ForeignKey(Order, on_delete=models.CASCADE, related_name="pins")
    number = models.IntegerField()
    machine = models.CharField(max_length=80)
    start = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["order", "number"], name="one_pin_a_plate")]


class Hands(models.Model):
    """When people are there, by day of the week from Monday, in hours of the day; None where nobody is."""

    workshop = models.OneToOneField("accounts.Workshop", on_delete=models.CASCADE, related_name="hands")
    days = models.JSONField(default=working_days)
    people = models.IntegerField(default=1)
