"""Views that belong to no one part: the way in, the event stream, health, and the kit."""

from collections.abc import Callable
from functools import wraps
from typing import Any

from asgiref.sync import sync_to_async
from django.contrib.auth.decorators import login_required
from django.db import DatabaseError, connection
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse, StreamingHttpResponse
from django.shortcuts import redirect, render

from dromikon.clock import now_ms
from dromikon.core import reading
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.sentence import sentence
from dromikon.daybook.models import EnginePosition
from dromikon.daybook.services import last_told
from dromikon.people.access import Access, access, all_access
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.sites.facts import facts_of
from dromikon.sites.services import set_mode
from dromikon.sources.models import Device
from dromikon.start import key_fits
from dromikon.web.hub import stream

View = Callable[..., HttpResponse]


def site_view(what: May = May.LOOK) -> Callable[[View], View]:
    """A view below /s/<site>/ for people who may do `what` there; it is given their Access."""

    def wrap(view: View) -> View:
        @login_required
        @wraps(view)
        def wrapped(request: HttpRequest, site_id: str, *args: Any, **kwargs: Any) -> HttpResponse:
            request.told = last_told()  # type: ignore[attr-defined]
            return view(request, access(request.user, site_id, what), *args, **kwargs)

        return wrapped

    return wrap


def body_of(request: HttpRequest) -> Any:
    """The request's JSON; None when it is not JSON."""
    try:
        return reading.content(request.body or b"null")
    except ValueError:
        return None


@login_required
def home(request: HttpRequest) -> HttpResponse:
    """To the desk of the person's first site."""
    mine = all_access(request.user)
    if not mine:
        return render(request, "no_site.html", status=403)
    return redirect(f"/s/{mine[0].site.id}/desk")


@site_view(May.SET_MODE)
def mode(request: HttpRequest, access: Access) -> JsonResponse:
    """POST {mode}: the site goes to a mode."""
    content = body_of(request)
    if request.method != "POST" or not isinstance(content, dict):
        return JsonResponse({"error": "POST {mode}."}, status=400)
    try:
        set_mode(access, str(content.get("mode", "")))
    except Refused as refused:
        return JsonResponse({"problems": [p.model_dump() for p in refused.problems]}, status=422)
    return JsonResponse({"mode": content["mode"]})


async def feed(request: HttpRequest, site_id: str) -> HttpResponse:
    """The event stream of a site."""
    person = await request.auser()
    if not person.is_authenticated:
        return HttpResponse("log in first", status=401)
    found = await sync_to_async(access)(person, site_id)
    # Whoever comes back says where they were; a page that has just been made, how far it knows.
    last = request.headers.get("last-event-id") or request.GET.get("after")
    response = StreamingHttpResponse(stream(found, reading.whole_or_none(last)), content_type="text/event-stream")
    response["Cache-Control"] = "no-store"
    response["X-Accel-Buffering"] = "no"
    return response


def healthz(request: HttpRequest) -> HttpResponse:
    """The state of database, engine and device sessions; 503 when the engine or the database is not working."""
    state: dict[str, Any] = {
        "database": "ok",
        "engine": "ok",
        "key": "ok" if key_fits() else "another one",
        "devices": {},
    }
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1")
        position = EnginePosition.objects.filter(id=1).first()
        if position is None or now_ms() - position.beat > 5000:
            state["engine"] = "not running"
        for device_state in Device.objects.values_list("state", flat=True):
            state["devices"][device_state] = state["devices"].get(device_state, 0) + 1
    except DatabaseError:
        state["database"] = state["engine"] = "unknown"
    well = all(state[part] == "ok" for part in ("database", "engine", "key"))
    return JsonResponse({"healthy": well, **state}, status=200 if well else 503)


@login_required
def kit(request: HttpRequest) -> HttpResponse:
    """Every component of the kit on one page, for those who build screens."""
    mine = [a for a in all_access(request.user) if a.may(May.EDIT_RULES)]
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
