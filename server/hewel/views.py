"""The one page of the front end."""

from functools import cache

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.views.decorators.cache import never_cache
from django.views.decorators.csrf import ensure_csrf_cookie
from django.views.decorators.http import require_safe


@cache
def shell() -> str:
    """The page as it is built. Raises OSError where it is not."""
    return (settings.WEB_DIST / "index.html").read_text()


@require_safe
@never_cache
@ensure_csrf_cookie
def page(request: HttpRequest) -> HttpResponse:
    """The built page with this answer's nonce, which the primitives need for the styles they inject."""
    return HttpResponse(shell().replace("__NONCE__", str(request.csp_nonce)))
