"""Follows the farm's machines: looks at them once a second, and does what people have asked of them."""

import logging
import signal
import threading

from django.conf import settings
from django.core.management.base import BaseCommand
from django.db import connection
from django.utils import timezone

from floor.following import follow

log = logging.getLogger(__name__)


class Command(BaseCommand):
    help = __doc__

    def handle(self, **options):
        done = threading.Event()
        signal.signal(signal.SIGTERM, lambda *_: done.set())
        while not done.wait(settings.FOLLOW_SECONDS):
            try:
                follow(timezone.now())
            except Exception:  # the database may be away for a moment; the next look tries again
                log.exception("following the machines")
                connection.close()
