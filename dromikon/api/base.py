"""What all parts of the API share: who asks, at which site, and how trouble is told."""

from typing import Annotated, Any

from django.conf import settings
from django.core.exceptions import PermissionDenied
from django.http import HttpRequest
from ninja import Path, Query, Schema
from ninja.parser import Parser
from ninja.security import APIKeyCookie, HttpBearer
from ninja.utils import check_csrf

from dromikon.core import reading
from dromikon.people.access import Access, access, all_access
from dromikon.people.models import ApiToken, Person
from dromikon.people.tokens import token_of
from dromikon.refusals import Refused

MOST = 500


class Bearer(HttpBearer):
    """A person's API token. It may do what the person may do, or with the scope *read* only ask."""

    def authenticate(self, request: HttpRequest, token: str) -> Person | None:
        known = token_of(token)
        if known is None:
            return None
        if known.scope == ApiToken.Scope.READ and request.method not in ("GET", "HEAD"):
            raise PermissionDenied("This token may only read.")
        return known.person


class Session(APIKeyCookie):
    """Whoever is logged in: the pages' own way in. What changes something needs the page's X-CSRFToken as well."""

    param_name = settings.SESSION_COOKIE_NAME

    def __init__(self) -> None:
        # Checked below, and only for those who are logged in: a caller without anything is told 401, not 403.
        super().__init__(csrf=False)

    def authenticate(self, request: HttpRequest, key: str | None) -> Person | None:
        person: Person = request.user  # type: ignore[assignment]
        # Whoever shows a token is judged by it, also in a browser that is logged in.
        if not person.is_authenticated or "authorization" in request.headers:
            return None
        if check_csrf(request):
            raise PermissionDenied("This page is not of this session any more. Load it again.")
        return person


class SafeJson(Parser):
    """Reads bodies in the one way in which JSON from outside is read."""

    def parse_body(self, request: HttpRequest) -> Any:
        return reading.content(request.body)


class Error(Schema):
    """What went wrong, and for documents where."""

    error: str
    problems: list[dict[str, str]] = []


def person_of(request: HttpRequest) -> Person:
    """Who asks, by token or session."""
    person: Person = request.auth  # type: ignore[attr-defined]
    return person


def at_site(request: HttpRequest, site: str | None) -> Access:
    """The site asked for; it may be left out by people who belong to one only."""
    person = person_of(request)
    if site is not None:
        return access(person, site)
    mine = all_access(person)
    if len(mine) != 1:
        raise Refused([])
    return access(person, mine[0].site.id)


Site = Annotated[
    str | None, Query(description="Id of the site; may be left out by people who belong to one site only.")
]
#: A growing number in an address, within what the database keeps.
Number = Annotated[int, Path(ge=0, le=reading.MOST)]
#: An instant in ms since 1970, UTC.
Millis = Annotated[int, Query(ge=0, le=reading.LATEST, description="Milliseconds since 1970, UTC.")]
Limit = Annotated[int, Query(ge=1, le=MOST)]
