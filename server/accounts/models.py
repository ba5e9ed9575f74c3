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


class Invitation(models.Model):
    """A link that lets one person join. Only the digest of its token is kept: the link is shown once."""

    workshop = models.ForeignKey(Workshop, on_delete=models.PROTECT, related_name="invitations")
    role = models.CharField(max_length=10, choices=User.Role)
    whom = models.CharField(max_length=120)
    token_digest = models.CharField(max_length=64, unique=True)
    by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    created = models.DateTimeField(auto_now_add=True)
    until = models.DateTimeField()
    joined = models.OneToOneField(User, on_delete=models.PROTECT, null=True, related_name="invitation")
    revoked = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-created"]
