"""Pages that belong to no one part: the way in, the event stream, health, and the kit."""

from django.conf import settings
from django.contrib.auth.decorators import login_required
from django.http import Http404, HttpRequest, HttpResponse, StreamingHttpResponse
from django.shortcuts import redirect, render
from django.views.i18n import JavaScriptCatalog

from dromikon.clock import now_ms
from dromikon.core import reading
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.sentence import sentence
from dromikon.facts import facts_of
from dromikon.people.access import Everywhere, all_access
from dromikon.people.roles import May
from dromikon.web.hub import stream
from dromikon.web.views import admitted, person_of


@login_required
def home(request: HttpRequest) -> HttpResponse:
    """To the desk of the person's first site."""
    mine = all_access(person_of(request))
    if not mine and Everywhere(person_of(request)).may:
        return redirect("installation")
    if not mine:
        return render(request, "no_site.html", status=403)
    return redirect(f"/s/{mine[0].site.id}/desk")


async def feed(request: HttpRequest, site_id: str) -> StreamingHttpResponse:
    """The event stream of a site."""
    found = await admitted(request, site_id)
    # Whoever comes back says where they were; a page that has just been made, how far it knows.
    last = request.headers.get("last-event-id") or request.GET.get("after")
    response = StreamingHttpResponse(stream(found, reading.whole_or_none(last)), content_type="text/event-stream")
    response["Cache-Control"] = "no-store"
    response["X-Accel-Buffering"] = "no"
    return response


class Words(JavaScriptCatalog):
    """The words of scripts in the page's language; for English there are none to be fetched."""

    domain = "django"

    def get_paths(self, packages: list[str]) -> list[str]:
        return [str(path) for path in settings.LOCALE_PATHS]


@login_required
def kit(request: HttpRequest) -> HttpResponse:
    """Every component of the kit on one page, for those who build screens."""
    mine = [a for a in all_access(person_of(request)) if a.may(May.EDIT_RULES)]
    if not mine:
        raise Http404
    facts = facts_of(mine[0].site)
    document = RuleDocument.model_validate(facts.rules[0].document) if facts.rules else None
    context = {
        "access": mine[0],
        "now": now_ms(),
        "phrases": sentence(document, facts) if document else [],
        "tokens": ("paper", "sheet", "raised", "ink", "quiet", "line", "line-strong", "own", "good", "wait", "alert"),
        "strip": (-10_000, -6_000, -3_000, 0, 3_000, 6_000),
    }
    return render(request, "kit.html", context)
