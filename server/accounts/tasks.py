"""What of sign-ins is cleared away every night."""

from axes.models import AccessAttempt
from django.conf import settings
from django.core.management import call_command
from django.utils import timezone
from procrastinate.contrib.django import app


@app.periodic(cron="53 3 * * *")
@app.task(name="accounts.forget_sign_ins")
def forget_sign_ins(timestamp: int) -> None:
    """Sessions that are over, and wrong passwords that hold nobody up any more."""
    call_command("clearsessions")
    AccessAttempt.objects.filter(attempt_time__lt=timezone.now() - settings.AXES_COOLOFF_TIME).delete()
