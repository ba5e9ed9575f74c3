"""Guesses: what somebody thought before they saw what is calculated."""

from django.conf import settings
from django.db import models


class Guess(models.Model):
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="guesses")
    part = models.ForeignKey("parts.Part", on_delete=models.CASCADE, related_name="guesses")
    kind = models.CharField(max_length=12)
    picked = models.TextField()
    answer = models.TextField()
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["at"]

    @property
    def right(self) -> bool:
        return self.picked == self.answer
