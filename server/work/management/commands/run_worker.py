"""A worker: takes heavy tasks one at a time, each in a process of its own, and looks after work left behind."""

import logging
import threading
from argparse import ArgumentParser

from django.conf import settings
from django.core.management.base import BaseCommand
from django.db import connection
from procrastinate.contrib.django import app

from work.actions import requeue_stalled
from work.child import get_ready

log = logging.getLogger(__name__)


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: ArgumentParser):
        parser.add_argument("--quick", action="store_true", help="take no long work: a first answer waits for none")

    def handle(self, *, quick: bool, **options):
        get_ready()
        done = threading.Event()
        keeper = threading.Thread(target=self.look_after, args=(done,), daemon=True)
        keeper.start()
        try:
            connector = app.connector.get_worker_connector()  # type: ignore[attr-defined]
            with app.replace_connector(connector) as worker_app:
                queues = ["quick"] if quick else ["quick", "long", "default"]  # the last: queued by an earlier version
                worker_app.run_worker(queues=queues, concurrency=1, name="hewel", shutdown_graceful_timeout=2)
        finally:
            done.set()

    def look_after(self, done: threading.Event) -> None:
        while not done.wait(settings.WORK_STALE / 4):
            try:
                requeue_stalled()
            except Exception:  # the database may be away for a moment; the next look tries again
                log.exception("looking after work left behind")
                connection.close()
