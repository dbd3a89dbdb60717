"""How the API tells trouble: one shape, with the place at fault where a document has one."""

from django.core.exceptions import PermissionDenied, RequestDataTooBig
from django.db import OperationalError
from django.http import Http404, HttpRequest, HttpResponse
from django.http.request import RawPostDataException
from ninja import NinjaAPI
from ninja.errors import AuthenticationError, ValidationError

from dromikon.core.rules.document import Problem
from dromikon.desk.services import AlreadyAnswered
from dromikon.refusals import Overtaken, Refused
from dromikon.setup.changes import StillNamed
from dromikon.web.middleware import unavailable, unkeepable

MANY_SITES = "You belong to several sites: name one with ?site=."
NOT_LOGGED_IN = "You are not logged in, or the token is not valid any more: log in and try again."
REFUSED = "Some of this cannot be accepted."


def tell_trouble(api: NinjaAPI) -> None:
    """Answer what services and the reading of requests raise."""

    def told(request: HttpRequest, status: int, error: str, problems: list[Problem] | None = None) -> HttpResponse:
        content = {"error": error, "problems": [p.model_dump() for p in problems or []]}
        return api.create_response(request, content, status=status)

    @api.exception_handler(Refused)
    def refused(request: HttpRequest, error: Refused) -> HttpResponse:
        if not error.problems:
            return told(request, 400, MANY_SITES)
        return told(request, 422, REFUSED, error.problems)

    @api.exception_handler(ValidationError)
    def unfit(request: HttpRequest, error: ValidationError) -> HttpResponse:
        return told(request, 422, REFUSED, [_problem(e["loc"], e["msg"]) for e in error.errors])

    @api.exception_handler(AuthenticationError)
    def unknown(request: HttpRequest, error: AuthenticationError) -> HttpResponse:
        return told(request, 401, NOT_LOGGED_IN)

    @api.exception_handler(OperationalError)
    def locked(request: HttpRequest, error: OperationalError) -> HttpResponse:
        return unavailable(request)

    @api.exception_handler(OverflowError)
    @api.exception_handler(UnicodeEncodeError)
    def cannot_be_kept(request: HttpRequest, error: Exception) -> HttpResponse:
        return unkeepable(request)

    @api.exception_handler(RawPostDataException)
    def no_json(request: HttpRequest, error: RawPostDataException) -> HttpResponse:
        return told(request, 422, "Send JSON, with Content-Type: application/json.")

    @api.exception_handler(RequestDataTooBig)
    def too_big(request: HttpRequest, error: RequestDataTooBig) -> HttpResponse:
        return told(request, 413, "The request is larger than is read here (5 MB).")

    @api.exception_handler(Http404)
    def not_found(request: HttpRequest, error: Http404) -> HttpResponse:
        return told(request, 404, str(error) or "There is nothing here.")

    @api.exception_handler(PermissionDenied)
    def denied(request: HttpRequest, error: PermissionDenied) -> HttpResponse:
        return told(request, 403, str(error))

    @api.exception_handler(AlreadyAnswered)
    @api.exception_handler(Overtaken)
    @api.exception_handler(StillNamed)
    def conflict(request: HttpRequest, error: Exception) -> HttpResponse:
        return told(request, 409, str(error))


def _problem(location: tuple[int | str, ...], message: str) -> Problem:
    """Where in the address or body, without the names of our own parameters."""
    parts = [str(part) for part in location if part not in ("body", "query", "path", "content")]
    return Problem(path=".".join(parts), message=f"{message}.")
