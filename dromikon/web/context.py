"""What the frame around every page needs."""

from typing import Any

from django.http import HttpRequest

from dromikon.people.access import all_access
from dromikon.people.roles import May

NAV = (
    ("desk", "Desk"),
    ("daybook", "Daybook"),
    ("rulebook", "Rulebook"),
    ("sources", "Sources"),
    ("archive", "Archive"),
    ("lists", "Lists"),
    ("hours", "Hours"),
)


def frame(request: HttpRequest) -> dict[str, Any]:
    """Sites the person belongs to, the navigation, and which page this is."""
    person = getattr(request, "user", None)
    if person is None or not person.is_authenticated:
        return {"theme": request.COOKIES.get("theme", "auto") if hasattr(request, "COOKIES") else "auto"}
    match = request.resolver_match
    page = match.view_name.split(".")[0] if match and match.view_name else ""
    theme = request.COOKIES.get("theme", "auto")
    mine = all_access(person)
    return {
        "nav": NAV,
        "page": page,
        "my_sites": [a.site for a in mine],
        "theme": theme if theme in ("day", "night") else "auto",
        "told": getattr(request, "told", ""),
        "may_audit": any(a.may(May.SEE_AUDIT) for a in mine),
        "may_build": any(a.may(May.EDIT_RULES) for a in mine),
    }
