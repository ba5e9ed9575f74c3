"""A worker: takes heavy tasks one at a time, each in a process of its own, and looks after work left behind."""

import logging
import threading

from django.conf import settings
from django.core.management.base import BaseCommand
from django.db import connection
from procrastinate.contrib.django import app

from work.actions import requeue_stalled
from work.child import get_ready

log = logging.getLogger(__name__)


class Command(BaseCommand):
    help = __doc__

    def handle(self, **options):
        get_ready()
        done = threading.Event()
        keeper = threading.Thread(target=self.look_after, args=(done,), daemon=True)
        keeper.start()
        try:
            with app.replace_connector(app.connector.get_worker_connector()) as worker_app:
                worker_app.run_worker(concurrency=1, name="hewel", shutdown_graceful_timeout=2)
        finally:
            done.set()

    def look_after(self, done: threading.Event) -> None:
        while not done.wait(settings.WORK_STALE / 4):
            try:
                requeue_stalled()
            except Exception:  # the database may be away for a moment; the next look tries again
                log.exception("looking after work left behind")
                connection.close()
