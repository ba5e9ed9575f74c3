"""Where a request comes from, and how many wrong passwords have come from there."""

from axes.models import AccessAttempt
from django.conf import settings
from django.db.models import Sum
from django.http import HttpRequest
from django.utils import timezone

MOST_FROM_ONE = 40
"""Wrong passwords from one address within the time that a name is locked for: many people may share an address."""


def address_of(request: HttpRequest) -> str:
    """The address of whoever asks. Behind proxies of ours it is the one that the outermost of them saw; what stands
    further left in the header anybody can write.
    """
    near = request.META.get("REMOTE_ADDR", "")
    proxies = settings.PROXIES
    seen = [a.strip() for a in request.headers.get("X-Forwarded-For", "").split(",") if a.strip()]
    return seen[-proxies] if proxies and len(seen) >= proxies else near


def too_many_from(request: HttpRequest) -> bool:
    since = timezone.now() - settings.AXES_COOLOFF_TIME
    tries = AccessAttempt.objects.filter(ip_address=address_of(request), attempt_time__gt=since)
    return (tries.aggregate(n=Sum("failures_since_start"))["n"] or 0) >= MOST_FROM_ONE
