"""The audit trail, for those who may see it."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from dromikon.people.access import Access
from dromikon.people.audit import first_break
from dromikon.people.models import AuditEntry
from dromikon.people.roles import May
from dromikon.web.views import site_view


@site_view(May.SEE_AUDIT)
def audit_trail(request: HttpRequest, access: Access) -> HttpResponse:
    """The latest entries of the site, and whether the chain of the whole trail is unbroken."""
    entries = AuditEntry.objects.filter(site=access.site).order_by("-id")[:200]
    shown = [(entry, _why(entry.detail)) for entry in entries]
    return render(request, "people/audit.html", {"access": access, "entries": shown, "broken_at": first_break()})


def _why(detail: dict[str, object]) -> str:
    """What an entry's detail says, in one line."""
    said = [str(detail[k]) for k in ("title", "name", "note") if detail.get(k)]
    tags = detail.get("tags")
    said += [f"#{tag}" for tag in tags] if isinstance(tags, list) else []
    return " · ".join(said)
