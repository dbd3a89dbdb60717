"""What all parts of the API share: who asks, at which site, and how trouble is told."""

from typing import Annotated

from django.http import HttpRequest
from ninja import Query, Schema
from ninja.security import HttpBearer

from dromikon.people.access import Access, access, all_access
from dromikon.people.models import Person
from dromikon.people.services import person_of_token
from dromikon.refusals import Refused

MOST = 500


class Bearer(HttpBearer):
    """A person's API token. It may do what the person may do."""

    def authenticate(self, request: HttpRequest, token: str) -> Person | None:
        return person_of_token(token)


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
Limit = Annotated[int, Query(ge=1, le=MOST)]
