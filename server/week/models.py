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
    dry_h = models.FloatField(default=0.0)
    """h that the material is dried before the first plate."""
    rest_h = models.FloatField(default=0.0)
    """h that parts take after they are off until they can be used: conditioned, glued, inspected."""
    kit = models.CharField(max_length=80, blank=True)
    """Orders of one name are wanted together: an assembly's parts."""
    plates = models.JSONField()
    """Of every plate ``copies``, ``mode``, ``items`` (where each stands), ``seconds`` of the machine, ``layers``,
    ``stops`` [s after its beginning, s of hands, what for, mm over the plate], ``grams`` of a copy, ``start_s`` and
    ``end_s`` of hands.
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


class Plan(models.Model):
    """The week that people were told: of every plate its machine and when hands come to it."""

    workshop = models.OneToOneField("accounts.Workshop", on_delete=models.CASCADE, related_name="plan")
    told = models.JSONField()
    """By the key of a plate ``machine`` and ``moments`` (s since 1970)."""
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now=True)


class BetterWeek(models.Model):
    """What the solver found for a situation: a week as a plan keeps it, and how little late any week is."""

    workshop = models.OneToOneField("accounts.Workshop", on_delete=models.CASCADE, related_name="better_week")
    situation = models.CharField(max_length=64)
    """Digest of what it was found for."""
    told = models.JSONField()
    late_s = models.FloatField()
    """Weighted, as the solver counts it."""
    bound_s = models.FloatField()
    proved = models.BooleanField()
    at = models.DateTimeField(auto_now=True)


class Print(models.Model):
    """A plate of an order on a machine, from the moment that somebody starts it."""

    class State(models.TextChoices):
        SENT = "sent"
        HEATING = "heating"
        PRINTING = "printing"
        PAUSED = "paused"
        WAITING = "waiting"
        """For hands."""
        FINISHED = "finished"
        """It waits to be taken off."""
        DONE = "done"
        """Taken off and counted."""
        FAILED = "failed"
        CANCELLED = "cancelled"

    GOING = (State.SENT, State.HEATING, State.PRINTING, State.PAUSED, State.WAITING)
    ON_MACHINE = (*GOING, State.FINISHED)
    BROKEN_OFF = (State.FAILED, State.CANCELLED)

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    """The ticket that a machine knows it by; none is printed twice."""
    order = models.ForeignKey(Order, on_delete=models.CASCADE, related_name="prints")
    number = models.IntegerField()
    machine = models.CharField(max_length=80)
    state = models.CharField(max_length=10, choices=State, default=State.SENT)
    started = models.DateTimeField()
    layer = models.IntegerField(default=0)
    layers = models.IntegerField(default=0)
    left_s = models.FloatField()
    """s of printing left when its machine was last ``heard``."""
    heard = models.DateTimeField()
    silent = models.BooleanField(default=False)
    """Its machine does not answer."""
    stops_done = models.IntegerField(default=0)
    words = models.CharField(max_length=200, blank=True)
    """What it waits for, or what went wrong."""
    wish = models.CharField(max_length=10, blank=True)
    """What its machine has yet to be told: pause, continue, cancel or clear."""
    good = models.IntegerField(null=True)
    bad = models.IntegerField(null=True)
    cleared = models.DateTimeField(null=True)
    """When its machine was free again."""
    photo = models.ForeignKey("store.Blob", on_delete=models.PROTECT, related_name="+", null=True)
    """Of what went wrong."""
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["started"]
        constraints = [
            models.UniqueConstraint(
                fields=["machine"], condition=models.Q(cleared=None), name="one_print_on_a_machine"
            ),
            models.UniqueConstraint(
                fields=["order", "number"],
                condition=~models.Q(state__in=["failed", "cancelled"]),
                name="a_plate_is_printed_once",
            ),
        ]


class PrintEvent(models.Model):
    """A line of the farm's log."""

    print = models.ForeignKey(Print, on_delete=models.CASCADE, related_name="events")
    at = models.DateTimeField()
    words = models.CharField(max_length=300)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+", null=True)
    """None where a machine said so."""

    class Meta:
        ordering = ["-at", "-id"]


class Tick(models.Model):
    """A step of a plate's traveller, done by somebody; perhaps sent later than it was ticked."""

    order = models.ForeignKey(Order, on_delete=models.CASCADE, related_name="ticks")
    number = models.IntegerField()
    step = models.CharField(max_length=40)
    at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["order", "number", "step"], name="one_tick_a_step")]
