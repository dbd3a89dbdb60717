"""Hours: each named Hours drawn as a week, and whether it is open now."""

from datetime import timedelta
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import dateformat
from django.utils.translation import gettext

from dromikon.clock import now_ms
from dromikon.core.hours import Hours as HoursDocument
from dromikon.core.hours import Place, wall_clock
from dromikon.facts import names_of
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.web.views import site_view


@site_view()
def hours(request: HttpRequest, access: Access) -> HttpResponse:
    facts, now = names_of(access.site), now_ms()
    drawn = [
        {"hours": h, "inside": h.contains(now, facts.place), "days": _coming_week(h, now, facts.place)}
        for h in facts.hours
    ]
    wall = wall_clock(now, facts.zone)
    context = {
        "access": access,
        "drawn": drawn,
        "now_x": _drawn(wall.hour * 60 + wall.minute),
        "zone": facts.zone,
        "may_edit": access.may(May.EDIT_RULES),
    }
    return render(request, "hours/hours.html", context)


def _coming_week(document: HoursDocument, now: int, place: Place) -> list[dict[str, Any]]:
    """The spans of today and the six days after, in units of a drawing 960 wide."""
    today = wall_clock(now, place.zone).date()
    days = []
    for i in range(7):
        day = today + timedelta(days=i)
        spans = [(s, min(e, 1440)) for s, e in document.spans_on(day, place)]
        spans += [
            (max(0, s - 1440), e - 1440) for s, e in document.spans_on(day - timedelta(days=1), place) if e > 1440
        ]
        spans.sort()
        why = next((x.why for x in document.exceptions if x.date == day), "")
        bars = [{"x": _drawn(s), "width": _drawn(e - s)} for s, e in spans]
        text = ", ".join(f"{s // 60:02d}:{s % 60:02d}–{e // 60:02d}:{e % 60:02d}" for s, e in spans)
        days.append(
            {
                "label": dateformat.format(day, "D d M"),
                "bars": bars,
                "y": 20 + i * 24,
                "text": text or (why or gettext("closed")),
            }
        )
    return days


def _drawn(minutes: int) -> str:
    """Minutes of a day in units of the drawing, as SVG writes numbers whatever the language."""
    return f"{minutes / 1440 * 960:.1f}"
