"""What all parts of the API share: who asks, at which site, and how trouble is told."""

from typing import Annotated, Any

from django.core.exceptions import PermissionDenied
from django.http import HttpRequest
from ninja import Path, Query, Schema
from ninja.parser import Parser
from ninja.security import HttpBearer

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


class SafeJson(Parser):
    """Reads bodies in the one way in which JSON from outside is read."""

    def parse_body(self, request: HttpRequest) -> Any:
        return reading.content(request.body)


class Error(Schema):
    """What went wrong, and for documents where."""

    error: str
    problems: list[dict[str, str]] = []


def at_site(request: HttpRequest, site: str | None) -> Access:
    """The site asked for; it may be left out by people who belong to one only."""
    mine = all_access(request.auth)  # type: ignore[attr-defined]
    if site is None and len(mine) != 1:
        raise Refused([])
    return access(request.auth, site if site is not None else mine[0].site.id)  # type: ignore[attr-defined]


Site = Annotated[
    str | None, Query(description="Id of the site; may be left out by people who belong to one site only.")
]
#: A growing number in an address, within what the database keeps.
Number = Annotated[int, Path(ge=0, le=reading.MOST)]
Limit = Annotated[int, Query(ge=1, le=MOST)]
