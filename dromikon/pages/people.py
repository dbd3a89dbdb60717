"""The way in, one's own password and tokens, and the audit trail."""

from typing import Any

from django.contrib.auth import login
from django.contrib.auth.decorators import login_required
from django.contrib.auth.views import LoginView
from django.http import HttpRequest, HttpResponse, QueryDict
from django.http.response import HttpResponseBase
from django.shortcuts import redirect, render
from django.views.decorators.cache import never_cache

from dromikon.clock import now_ms
from dromikon.core import reading
from dromikon.people.access import Access
from dromikon.people.audit import first_break, last_anchor
from dromikon.people.models import ApiToken, AuditEntry, Person
from dromikon.people.roles import May
from dromikon.people.services import set_password
from dromikon.people.tokens import make_token, revoke_token
from dromikon.refusals import Refused
from dromikon.setup.beginning import is_empty
from dromikon.web.views import person_of, site_view

BACKEND = "django.contrib.auth.backends.ModelBackend"


class LogIn(LoginView):
    """The way in; on an empty installation it leads to its beginning."""

    template_name = "people/login.html"
    redirect_authenticated_user = True

    def dispatch(self, request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponseBase:
        return redirect("begin") if is_empty() else super().dispatch(request, *args, **kwargs)


@login_required
@never_cache
def password(request: HttpRequest) -> HttpResponse:
    """One's own password."""
    person, problems = person_of(request), {}
    if request.method == "POST":
        problems = _change_password(person, request.POST)
        if not problems:
            login(request, person, BACKEND)
            return redirect("home")
    return render(request, "people/password.html", {"problems": problems}, status=422 if problems else 200)


def _change_password(person: Person, given: QueryDict) -> dict[str, str]:
    if not person.check_password(given.get("old", "")):
        return {"old": "That is not your password until now."}
    if given.get("password", "") != given.get("again", ""):
        return {"again": "The two passwords differ."}
    if given.get("password", "") == given.get("old", ""):
        return {"password": "Choose another one than until now."}
    try:
        set_password(person, person, given.get("password", ""))
    except Refused as refused:
        return {p.path: p.message for p in refused.problems}
    return {}


@site_view(May.SEE_AUDIT)
def audit_trail(request: HttpRequest, access: Access) -> HttpResponse:
    """The latest entries of the site, and whether the chain of the whole trail is unbroken."""
    entries = AuditEntry.objects.filter(site=access.site).order_by("-id")[:200]
    shown = [(entry, _why(entry.detail)) for entry in entries]
    return render(
        request,
        "people/audit.html",
        {"access": access, "entries": shown, "broken_at": first_break(last_anchor()), "anchor": last_anchor()},
    )


@login_required
@never_cache
def tokens(request: HttpRequest) -> HttpResponse:
    """One's own API tokens: POST makes one, which is then shown this once, or revokes one."""
    context: dict[str, Any] = {"now": now_ms(), "page": "tokens", "scopes": ApiToken.Scope.choices}
    if request.method == "POST" and "revoke" in request.POST:
        revoke_token(person_of(request), reading.whole_or_none(request.POST["revoke"]) or 0)
        return redirect("tokens")
    if request.method == "POST":
        days = reading.whole_or_none(request.POST.get("days"))
        try:
            made, text = make_token(
                person_of(request), request.POST.get("name", ""), scope=request.POST.get("scope", ""), days=days or None
            )
            context |= {"made": made, "text": text}
        except Refused as refused:
            context["problems"] = {p.path: p.message for p in refused.problems}
    context["tokens"] = person_of(request).tokens.all()
    return render(request, "people/tokens.html", context)


def _why(detail: dict[str, object]) -> str:
    """What an entry's detail says, in one line."""
    said = [str(detail[k]) for k in ("title", "name", "note") if detail.get(k)]
    tags = detail.get("tags")
    said += [f"#{tag}" for tag in tags] if isinstance(tags, list) else []
    return " · ".join(said)
