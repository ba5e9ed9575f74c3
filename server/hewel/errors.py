"""What is answered where nothing of the product answers: a refusal like every other, or a page that looks like ours."""

import re
from functools import cache

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.utils.html import format_html
from django.utils.safestring import mark_safe

from hewel.refusal import Refused
from hewel.views import shell

SIGNED_OUT = Refused("signed_out", "You are signed out.", "Sign in again; nothing that was saved is lost.", 401)
NO_ADDRESS = Refused("no_address", "There is nothing at this address.", "Go back to the list of parts.", 404)
DEFECT = Refused("defect", "This went wrong through a fault of ours.", "Reload the page: what was saved is there.", 500)
NOT_READ = Refused("not_read", "The request could not be read.", "Go back to the list of parts.", 400)
NOT_ALLOWED = Refused("not_allowed", "This page was open for too long, or is not ours.", "Reload the page.", 403)

PAGE = """<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Hewel</title>{}</head>
<body class="bg-paper text-ink"><main class="p-5"><h1 class="text-[15px] font-bold">Hewel</h1>
<p class="mt-3 font-semibold">{}</p><p>{}</p><p class="mt-3"><a class="underline" href="/">List of parts</a></p>
</main></body></html>"""


@cache
def _styles() -> str:
    """The built page's own style sheets; without a build, none."""
    try:
        return "".join(re.findall(r'<link[^>]*rel="stylesheet"[^>]*>', shell()))
    except OSError:
        return ""


def answer(request: HttpRequest, problem: Refused) -> HttpResponse:
    """The problem as whoever asks reads it: the API's callers as data, people as a page."""
    if request.path.startswith("/api/"):
        return JsonResponse(problem.as_dict(), status=problem.status)
    page = format_html(PAGE, mark_safe(_styles()), problem.message, problem.hint)
    return HttpResponse(page, status=problem.status)


def bad_request(request: HttpRequest, exception: Exception) -> HttpResponse:
    return answer(request, NOT_READ)


def forbidden(request: HttpRequest, exception: Exception | None = None, reason: str = "") -> HttpResponse:
    """Also where the token that every write carries is missing or old."""
    return answer(request, NOT_ALLOWED)


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    return answer(request, NO_ADDRESS)


def server_error(request: HttpRequest) -> HttpResponse:
    return answer(request, DEFECT)
