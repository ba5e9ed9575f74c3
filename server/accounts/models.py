"""Who works here: workshops and their people."""

from django.contrib.auth.models import AbstractUser
from django.db import models


class Workshop(models.Model):
    name = models.CharField(max_length=120, unique=True)

    def __str__(self):
        return self.name


class User(AbstractUser):
    """A person signs in with a name; everything they see belongs to their workshop."""

    class Role(models.TextChoices):
        ENGINEER = "engineer"
        TECHNICIAN = "technician"
        VIEWER = "viewer"

    role = models.CharField(max_length=10, choices=Role, default=Role.ENGINEER)
    workshop = models.ForeignKey(Workshop, on_delete=models.PROTECT, null=True, related_name="people")

    @property
    def shown_name(self) -> str:
        return self.get_full_name() or self.username
