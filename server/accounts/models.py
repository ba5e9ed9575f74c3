"""Who works here: workshops and their people."""

from collections.abc import Iterator
from typing import Any

from django.contrib.auth.models import AbstractUser
from django.db import models
from django.utils.crypto import salted_hmac

from accounts.names import name_key


class Workshop(models.Model):
    name = models.CharField(max_length=120, unique=True)
    currency = models.CharField(max_length=8, default="EUR")
    """What its prices and costs are in; a word of its own, nothing is converted."""

    def __str__(self):
        return self.name


class User(AbstractUser):
    """A person signs in with a name; everything they see belongs to their workshop."""

    class Role(models.TextChoices):
        ENGINEER = "engineer"
        TECHNICIAN = "technician"
        VIEWER = "viewer"

    role = models.CharField(max_length=10, choices=Role, default=Role.ENGINEER)
    name_key = models.CharField(max_length=150, unique=True)
    """The sign-in name as far as it tells people apart, see ``accounts.names``."""
    entries = models.IntegerField(default=0)
    """Counts how often entry was taken away or the password set by a link: sessions of before it are no longer good."""
    workshop = models.ForeignKey(Workshop, on_delete=models.PROTECT, null=True, related_name="people")

    def save(self, *args: Any, **kwargs: Any) -> None:
        self.name_key = name_key(self.username)
        super().save(*args, **kwargs)

    def get_session_auth_hash(self) -> str:
        return salted_hmac("accounts.session", f"{self.password} {self.entries}", algorithm="sha256").hexdigest()

    def get_session_auth_fallback_hash(self) -> Iterator[str]:
        """No key of before is good any longer."""
        return iter(())

    @property
    def shown_name(self) -> str:
        return self.get_full_name() or self.username


class Invitation(models.Model):
    """A link that lets one person join, or set a new password where it ``resets`` an account. Only the digest of its
    token is kept: the link is shown once.
    """

    workshop = models.ForeignKey(Workshop, on_delete=models.PROTECT, related_name="invitations")
    role = models.CharField(max_length=10, choices=User.Role)
    whom = models.CharField(max_length=120)
    resets = models.ForeignKey(User, on_delete=models.CASCADE, null=True, related_name="resets")
    token_digest = models.CharField(max_length=64, unique=True)
    by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    created = models.DateTimeField(auto_now_add=True)
    until = models.DateTimeField()
    joined = models.ForeignKey(User, on_delete=models.PROTECT, null=True, related_name="+")
    revoked = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-created"]
