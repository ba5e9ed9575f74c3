"""A question sees one state of the database, from its first look to its last.

What an answer rests on is written anew while it is put together: a result's content is replaced by a better one as
soon as that is known, and what is replaced goes. Under PostgreSQL's snapshot both are still there for whoever began
to read before.
"""

from collections.abc import Callable

from django.conf import settings
from django.db import connection, transaction
from django.http import HttpRequest, HttpResponse


def is_question(request: HttpRequest) -> bool:
    """Whether somebody who may be signed in asks for something, and no transaction is open yet."""
    asks = request.method == "GET" and request.path.startswith("/api/")
    return asks and settings.SESSION_COOKIE_NAME in request.COOKIES and not connection.in_atomic_block


class OneState:
    """Middleware round the view alone: the connection is held no longer than the view takes. Whoever is signed out
    reads nothing of the kind.
    """

    def __init__(self, view: Callable[[HttpRequest], HttpResponse]):
        self._view = view

    def __call__(self, request: HttpRequest) -> HttpResponse:
        if not is_question(request):
            return self._view(request)
        with transaction.atomic(), connection.cursor() as cursor:
            cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ")
            return self._view(request)
