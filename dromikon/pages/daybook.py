"""Daybook: lanes over time, one event with its trace, one run with its steps."""

from collections.abc import Iterable
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils.translation import gettext

from dromikon import config
from dromikon.authoring.sightings import lists_for
from dromikon.authoring.trace import trace_of
from dromikon.authoring.trace_picture import picture_of
from dromikon.clock import now_ms
from dromikon.core.instants import Instant
from dromikon.core.kinds import HIDDEN, KINDS, NOT_COMPARED, public_fields
from dromikon.core.words import t
from dromikon.daybook.models import EventRow, LineRow, RunRow
from dromikon.facts import names_of
from dromikon.intake import inbox
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.sources.models import Point
from dromikon.web.trace_drawing import drawing_of
from dromikon.web.views import in_address, site_view

#: So many latest events are listed.
RECENT = 40
#: So many characters of a raw message are shown.
LONGEST_RAW = 20_000


@site_view()
def daybook(request: HttpRequest, access: Access) -> HttpResponse:
    points = {p.id: p for p in Point.objects.filter(site=access.site).select_related("area")}
    lanes = [
        {"id": a.id, "name": a.name, "points": [p.id for p in points.values() if p.area_id == a.id]}
        for a in access.site.areas.all()
    ]
    # What the clock makes happens to the site as a whole.
    lanes.append(
        {"id": "", "name": access.site.name, "points": ["", *(p.id for p in points.values() if p.area_id is None)]}
    )
    context = {
        "access": access,
        "recent": recent_of(access),
        "lanes": lanes,
        "lines": lines_of(access),
        "point_names": {p.id: p.name for p in points.values()},
        "kinds": {k.name: {"label": k.label, "state": k.is_state} for k in KINDS},
    }
    return render(request, "daybook/daybook.html", context)


def recent_of(access: Access, at: Iterable[Point] | None = None, most: int = RECENT) -> list[dict[str, Any]]:
    """The latest events of the site, or at some points; states that were only learned at a start did not happen."""
    found = EventRow.objects.filter(site=access.site.id, initial=False).order_by("-seq")
    return rows_of((found if at is None else found.filter(point__in=[p.id for p in at]))[:most])


def rows_of(found: Iterable[EventRow]) -> list[dict[str, Any]]:
    """Events as they are listed."""
    events = list(found)
    points = Point.objects.select_related("area").in_bulk({e.point for e in events})
    return [_row(e, points.get(e.point)) for e in events]


def lines_of(access: Access) -> list[dict[str, Any]]:
    """The latest lines that steps and hold-offs wrote."""
    events = {}
    lines = list(LineRow.objects.filter(site=access.site.id).order_by("-at")[:12])
    for ref, event in RunRow.objects.filter(ref__in=[x.run for x in lines]).values_list("ref", "event"):
        events[ref] = event
    return [{"at": x.at, "text": x.text, "event": events.get(x.run)} for x in lines]


@site_view()
def lines(request: HttpRequest, access: Access) -> HttpResponse:
    """The latest lines again, for a page that heard of one."""
    return render(request, "daybook/_lines.html", {"access": access, "lines": lines_of(access)})


@site_view()
def event_sheet(request: HttpRequest, access: Access, seq: int) -> HttpResponse:
    """One event: fields, trace, runs, raw message."""
    event = EventRow.objects.filter(site=access.site.id, seq=seq).first()
    if event is None:
        raise Http404
    point = Point.objects.select_related("area", "channel").filter(id=event.point).first()
    facts = names_of(access.site)
    kind = KINDS.get(event.kind)
    fields = public_fields(event.fields)
    trace = trace_of(access, event, facts)
    context = {
        "access": access,
        "event": event,
        "kind": kind,
        "point": point,
        "fields": [
            (known.label, _shown(fields.get(known.name), known.unit)) for known in (kind.fields if kind else ())
        ],
        "trace": trace,
        "drawn": drawing_of(picture_of(trace, event.occurred_at)) if trace else None,
        # A raw message may hold personal data that the fields shown here do not.
        "raw": _raw(event.inbox) if access.may(May.EDIT_LISTS) else None,
        "cameras": facts.cameras_of(event.point),
        "may_edit": access.may(May.EDIT_RULES),
        "lists": lists_for(access, event),
        "from": event.occurred_at - 10_000,
        "now": now_ms(),
    }
    return render(request, "daybook/_event.html", context)


def _raw(inbox_id: int | None) -> str | None:
    message = inbox.read(config.inbox_path(), inbox_id) if inbox_id else None
    return message.body.decode("utf-8", "replace")[:LONGEST_RAW] if message else None


def _shown(value: Any, unit: str) -> str:
    if value is None:
        return gettext("not sent")
    shown = f"{value:g}" if isinstance(value, float) else str(value)
    return f"{shown} {unit}".strip()


@site_view()
def recent(request: HttpRequest, access: Access) -> HttpResponse:
    """The latest events again, for a page that heard of one or of many; with `start` and `end` those of a stretch of the past."""
    start, end = (in_address(request.GET.get(name)) for name in ("start", "end"))
    found = recent_of(access) if start is None or end is None else _of_stretch(access, start, end)
    return render(request, "daybook/_rows.html", {"access": access, "recent": found, "past": start is not None})


def _of_stretch(access: Access, start: Instant, end: Instant) -> list[dict[str, Any]]:
    """The latest events of a stretch, as many as are listed."""
    found = EventRow.objects.filter(site=access.site.id, initial=False, occurred_at__gte=start, occurred_at__lt=end)
    return rows_of(found.order_by("-occurred_at", "-seq")[:RECENT])


def _row(event: EventRow, point: Point | None) -> dict[str, Any]:
    fields = public_fields(event.fields)
    kind = KINDS.get(event.kind)
    known = {f.name: f for f in (kind.fields if kind else ())}
    shown = [
        (known[n].label if n in known else n, t(str(value)) if n in known and known[n].choices else value)
        for n, value in fields.items()
        if n != "object" and value != HIDDEN and not (n in known and known[n].type in NOT_COMPARED)
    ]
    return {"event": event, "point": point, "kind": kind, "fields": shown}
