"""The API: one router an app; every refusal has the same shape."""

import logging
from collections.abc import Callable
from importlib import import_module
from typing import Any

from django.conf import settings
from django.http import Http404, HttpRequest, HttpResponse
from ninja import NinjaAPI
from ninja.errors import AuthenticationError, HttpError, ValidationError
from ninja.security import SessionAuth

from hewel import errors
from hewel.refusal import Refused
from hewel.signs import troubles

log = logging.getLogger(__name__)


class SignedIn(SessionAuth):
    """A signed-in member of a workshop; the CSRF token is checked on every write."""

    def __call__(self, request: HttpRequest) -> Any:
        """Whoever is signed out is refused before a byte of what they send is read; the token's check would read it."""
        return super().__call__(request) if self.authenticate(request, None) else None

    def authenticate(self, request: HttpRequest, key: str | None):
        user = request.user
        return user if user.is_authenticated and user.workshop_id else None


def for_members(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
    """What describes the API is for those who may use it."""

    def answer(request: HttpRequest, *words: Any, **more: Any) -> HttpResponse:
        if SignedIn().authenticate(request, None) is None:
            return errors.answer(request, errors.SIGNED_OUT)
        return view(request, *words, **more)

    return answer


api = NinjaAPI(
    title="Hewel", version="1", urls_namespace="api", docs_url=None, docs_decorator=for_members, auth=SignedIn()
)


@api.exception_handler(Refused)
def refused(request: HttpRequest, error: Refused) -> HttpResponse:
    return api.create_response(request, error.as_dict(), status=error.status)


@api.exception_handler(AuthenticationError)
def signed_out(request: HttpRequest, error: AuthenticationError) -> HttpResponse:
    return refused(request, errors.SIGNED_OUT)


@api.exception_handler(ValidationError)
def unreadable(request: HttpRequest, error: ValidationError) -> HttpResponse:
    """Says of each value that cannot be read where it stands and what is wrong with it."""
    said = [f"{'.'.join(str(at) for at in row['loc'][1:])}: {row['msg']}" for row in error.errors[:3]]
    hint = "Reload the page and try again."
    return refused(request, Refused("unreadable", f"This cannot be read: {'; '.join(said)}.", hint, 422))


@api.exception_handler(HttpError)
def no_request(request: HttpRequest, error: HttpError) -> HttpResponse:
    return refused(request, Refused("bad_request", f"{error}.", "Reload the page and try again.", error.status_code))


@api.exception_handler(Http404)
def no_address(request: HttpRequest, error: Http404) -> HttpResponse:
    return refused(request, errors.NO_ADDRESS)


@api.exception_handler(Exception)
def defect(request: HttpRequest, error: Exception) -> HttpResponse:
    log.error("%s %s", request.method, request.path, exc_info=error)
    return refused(request, errors.DEFECT)


from accounts.api import people, router as accounts  # noqa: E402, I001  (after the handlers, so that a router cannot reach them half made)
from desk.api import router as parts  # noqa: E402
from desk.beside import router as beside  # noqa: E402
from desk.rail import router as stages  # noqa: E402
from desk.requirements import router as needs  # noqa: E402
from farm.api import router as farm  # noqa: E402
from floor.api import router as floor  # noqa: E402
from gauge.api import router as gauge  # noqa: E402
from coupons.api import router as coupons  # noqa: E402
from practice.api import router as practice  # noqa: E402
from release.api import router as release  # noqa: E402
from sheets.api import router as sheets  # noqa: E402
from trials.api import router as trials  # noqa: E402
from week.api import router as week  # noqa: E402
from work.api import router as work  # noqa: E402

api.add_router("/session", accounts)
api.add_router("/people", people)
api.add_router("/work", work)
api.add_router("/sheets", sheets)
api.add_router("/farm", farm)
api.add_router("/parts", parts)
api.add_router("/beside", beside)
api.add_router("/needs", needs)
api.add_router("/stages", stages)
api.add_router("/cards", gauge)
api.add_router("/coupons", coupons)
api.add_router("/trials", trials)
api.add_router("/release", release)
api.add_router("/practice", practice)
api.add_router("/week", week)
api.add_router("/floor", floor)
for app in settings.STAGES:
    api.add_router(f"/{app}", import_module(f"{app}.api").router)


@api.get("/signs", response=list[str], operation_id="list_signs", tags=["signs"])
def list_signs(request: HttpRequest):
    """What whoever keeps this Hewel running should know; nothing while all is well."""
    return troubles()
