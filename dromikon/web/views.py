"""What every page's view needs: who asks, for which site, and how far the page knows what has happened."""

from collections.abc import Callable
from functools import wraps
from typing import Any

from asgiref.sync import sync_to_async
from django.contrib.auth.decorators import login_required
from django.core.exceptions import PermissionDenied
from django.http import HttpRequest
from django.http.response import HttpResponseBase

from dromikon.core import reading
from dromikon.daybook.services import last_told
from dromikon.people.access import Access, access
from dromikon.people.models import Person
from dromikon.people.roles import May

View = Callable[..., HttpResponseBase]


def site_view(what: May = May.LOOK) -> Callable[[View], View]:
    """A view below /s/<site>/ for people who may do `what` there; it is given their Access."""

    def wrap(view: View) -> View:
        @login_required
        @wraps(view)
        def wrapped(request: HttpRequest, site_id: str, *args: Any, **kwargs: Any) -> HttpResponseBase:
            request.told = last_told()  # type: ignore[attr-defined]
            return view(request, access(person_of(request), site_id, what), *args, **kwargs)

        return wrapped

    return wrap


def person_of(request: HttpRequest) -> Person:
    """Who is logged in. Raises PermissionDenied when nobody is."""
    if not isinstance(request.user, Person):
        raise PermissionDenied("Log in first.")
    return request.user


async def admitted(request: HttpRequest, site_id: str) -> Access:
    """Whoever asks in an event loop, at a site of theirs. Raises PermissionDenied, Http404."""
    person = await request.auser()
    if not isinstance(person, Person):
        raise PermissionDenied("Log in first.")
    return await sync_to_async(access)(person, site_id)


def in_address(text: str | None) -> int | None:
    """A number or instant in an address; None when it is none."""
    return reading.whole_or_none(text, most=reading.LATEST)
