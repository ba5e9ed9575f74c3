"""A question asked again while nothing in the database has changed gets the answer that it got.

Of what is committed PostgreSQL's snapshot says all: two of the same text see the same rows, and none comes back once
another transaction has ended. So an answer is kept under the snapshot that stood before it was worked out, and needs
nobody to say what it rests on. Who asks is known by the session in the same way, and read no more often.
"""

import time
from collections.abc import Callable
from typing import Any

from django.conf import settings
from django.contrib.auth import get_user
from django.db import connection
from django.http import HttpRequest, HttpResponse
from django.utils.cache import patch_vary_headers

from hewel.one_state import is_question
from hewel.single_flight import SingleFlightCache

AGE = 10
"""Seconds that an answer may be old: some tell how long ago things were."""
MOST, LARGEST = 200, 300_000
"""Answers that a process keeps, and bytes of one."""
SESSIONS = 500


class _NotKept(Exception):
    """An answer that only whoever asked for it gets."""

    def __init__(self, answer: HttpResponse):
        self.answer = answer


class RepeatedQuestions:
    """Middleware close round the view: what it keeps is what a view gives."""

    def __init__(self, view: Callable[[HttpRequest], HttpResponse]):
        self._view = view
        self._answers: SingleFlightCache[tuple[bytes, dict[str, str]]] = SingleFlightCache(MOST)
        self._people: SingleFlightCache[Any] = SingleFlightCache(SESSIONS)

    def __call__(self, request: HttpRequest) -> HttpResponse:
        if not is_question(request) or request.path.startswith("/api/session"):
            return self._view(request)
        session = request.COOKIES[settings.SESSION_COOKIE_NAME]
        now = f"{_snapshot()} {int(time.monotonic() // AGE)}"
        person = self._people.get(f"{now} {session}", lambda: get_user(request))
        if not person.is_authenticated:
            return self._view(request)
        request.user = person
        try:
            body, heads = self._answers.get(f"{now} {person.pk} {request.get_full_path()}", lambda: self._made(request))
        except _NotKept as own:
            return own.answer
        answer = HttpResponse(body)
        for name, value in heads.items():
            answer[name] = value
        patch_vary_headers(answer, ["Cookie"])
        return answer

    def _made(self, request: HttpRequest) -> tuple[bytes, dict[str, str]]:
        """The answer of the view, where it is one for all who ask the same."""
        answer = self._view(request)
        told = answer.status_code == 200 and answer.get("Content-Type", "").startswith("application/json")
        if not told or answer.streaming or answer.cookies or len(answer.content) > LARGEST:
            raise _NotKept(answer)
        return answer.content, dict(answer.items())


def _snapshot() -> str:
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_current_snapshot()::text")
        return cursor.fetchone()[0]
