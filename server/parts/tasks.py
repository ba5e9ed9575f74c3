"""What is done to parts every night."""

from django.utils import timezone
from procrastinate.contrib.django import app

from parts.actions import forget_first_views, forget_left_behind, throw_away


@app.periodic(cron="23 3 * * *")
@app.task(name="parts.throw_away")
def empty_the_bin(timestamp: int) -> None:
    """Every night: what nobody brought back within its time goes."""
    forget_first_views(timezone.now())
    throw_away(timezone.now())
    forget_left_behind(timezone.now())
