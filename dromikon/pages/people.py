"""The audit trail, for those who may see it."""

from typing import Any

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.cache import never_cache

from dromikon.clock import now_ms
from dromikon.core import reading
from dromikon.people.access import Access
from dromikon.people.audit import first_break
from dromikon.people.models import ApiToken, AuditEntry
from dromikon.people.roles import May
from dromikon.people.tokens import make_token, revoke_token
from dromikon.refusals import Refused
from dromikon.web.views import person_of, site_view


@site_view(May.SEE_AUDIT)
def audit_trail(request: HttpRequest, access: Access) -> HttpResponse:
    """The latest entries of the site, and whether the chain of the whole trail is unbroken."""
    entries = AuditEntry.objects.filter(site=access.site).order_by("-id")[:200]
    shown = [(entry, _why(entry.detail)) for entry in entries]
    return render(request, "people/audit.html", {"access": access, "entries": shown, "broken_at": first_break()})


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
