"""The first page of an empty installation."""

from typing import Any

from django.contrib.auth import login
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.cache import never_cache
from pydantic import ValidationError

from dromikon.core import reading
from dromikon.core.rules.document import Problem
from dromikon.refusals import Refused
from dromikon.setup.beginning import USUAL_MODES, Beginning, BegunAlready, begin, is_empty
from dromikon.setup.place import zones
from dromikon.setup.sort import problems_of
from dromikon.setup.zones import places

BACKEND = "django.contrib.auth.backends.ModelBackend"


@never_cache
def begin_here(request: HttpRequest) -> HttpResponse:
    """Makes the administrator, the customer and the first site; ends where a device is added. Once somebody can log in, it
    leads there."""
    if not is_empty():
        return redirect("login")
    if request.method != "POST":
        return _page(request, {"modes": ", ".join(USUAL_MODES)}, {})
    given = {name: str(value).strip() for name, value in request.POST.items()}
    # A password is kept as it was typed.
    given["password"] = request.POST.get("password", "")
    try:
        person, site = begin(_read(given))
    except BegunAlready:
        return redirect("login")
    except Refused as refused:
        return _page(request, given, {p.path: p.message for p in refused.problems})
    login(request, person, BACKEND)
    return redirect(reverse("sources", args=[site.id]) + "?open=new-device")


def _read(given: dict[str, str]) -> Beginning:
    if given.get("password") != given.get("again"):
        raise Refused([Problem(path="again", message="The two passwords differ.")])
    content: dict[str, Any] = {
        "code": given.get("code", ""), "username": given.get("username", ""), "password": given.get("password", ""),
        "first_name": given.get("first_name", ""), "last_name": given.get("last_name", ""),
        "customer": given.get("customer", ""), "areas": tuple(_lines(given.get("areas", ""))),
        "site": {
            "name": given.get("site", ""), "zone": given.get("zone", ""), "modes": _words(given.get("modes", "")),
            "latitude": _degrees(given, "latitude"), "longitude": _degrees(given, "longitude"),
        },
    }  # fmt: skip
    try:
        return Beginning.model_validate(content)
    except ValidationError as error:
        problems = problems_of(error)
        raise Refused([p.model_copy(update={"path": _place(p.path)}) for p in problems]) from error


def _place(path: str) -> str:
    """The field of the page that a problem belongs to."""
    parts = path.split(".")
    return "site" if path == "site.name" else parts[1] if parts[0] == "site" and len(parts) > 1 else parts[0]


def _degrees(given: dict[str, str], name: str) -> float:
    try:
        return reading.number(given.get(name, ""))
    except reading.NotReadable as error:
        raise Refused([Problem(path=name, message="Give degrees as a number, such as 54.2.")]) from error


def _lines(text: str) -> list[str]:
    return list(dict.fromkeys(line.strip() for line in text.splitlines() if line.strip()))


def _words(text: str) -> tuple[str, ...]:
    return tuple(word.strip() for word in text.split(",") if word.strip())


def _page(request: HttpRequest, given: dict[str, str], problems: dict[str, str]) -> HttpResponse:
    given = {k: v for k, v in given.items() if k not in ("password", "again")}
    context = {"given": given, "problems": problems, "zones": zones(), "places": places()}
    return render(request, "people/begin.html", context, status=422 if problems else 200)
