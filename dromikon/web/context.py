"""What the frame around every page needs."""

from typing import Any

from django.http import HttpRequest

from dromikon.people.access import all_access
from dromikon.people.roles import May
from dromikon.web.navigation import BAR, acts_of, screen_of

THEMES = ("day", "night")


def frame(request: HttpRequest) -> dict[str, Any]:
    """Sites the person belongs to, the navigation, and which page this is."""
    theme = request.COOKIES.get("theme", "auto") if hasattr(request, "COOKIES") else "auto"
    shown = {"theme": theme if theme in THEMES else "auto"}
    person = getattr(request, "user", None)
    if person is None or not person.is_authenticated:
        return shown
    view = request.resolver_match.view_name if request.resolver_match else ""
    screen = screen_of(view)
    mine = all_access(person)
    here = request.resolver_match.kwargs.get("site_id") if request.resolver_match else None
    return {
        **shown,
        "bar": BAR,
        "page": view.split(".")[0],
        "screen": screen,
        "acts": acts_of(screen),
        "my_sites": [a.site for a in mine],
        "told": getattr(request, "told", ""),
        "answers_here": any(a.site.id == here and a.may(May.ACKNOWLEDGE) for a in mine),
        "may_audit": any(a.may(May.SEE_AUDIT) for a in mine),
        "may_set_up": any(a.may(May.SET_UP) or a.may(May.SET_UP_PEOPLE) for a in mine),
        "may_install": person.is_superuser,
        "may_build": any(a.may(May.EDIT_RULES) for a in mine),
    }
