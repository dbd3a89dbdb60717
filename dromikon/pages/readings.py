"""What a sensor has read: a chart with the limits of its rules, and the same in numbers."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render

from dromikon.authoring.points import how_points_are
from dromikon.authoring.readings import MEASURING, limits_by_point
from dromikon.clock import now_ms
from dromikon.core.readings.chart import Sheet, chart
from dromikon.core.words import N_
from dromikon.daybook.readings import pieces
from dromikon.people.access import Access
from dromikon.sources.models import Point
from dromikon.web.views import site_view

HOUR, DAY = 3_600_000, 86_400_000
#: How far back a chart can reach, by its name in the address, and what that is called.
SPANS = {"day": (DAY, N_("24 hours")), "week": (7 * DAY, N_("7 days")), "month": (30 * DAY, N_("30 days"))}
#: Into so many parts its axis is divided.
PARTS = {"day": 6, "week": 7, "month": 6}
PIECES, WIDE, TALL = 320, 960.0, 320.0
#: A pause longer than a twelfth of the chart, and than this, breaks the line.
PAUSE = 2 * HOUR


@site_view()
def readings(request: HttpRequest, access: Access, point_id: str) -> HttpResponse:
    point = access.site.points.filter(pk=point_id, retired_at=None, kind__in=MEASURING).select_related("device").first()
    if point is None:
        raise Http404
    over = request.GET.get("over", "")
    over = over if over in SPANS else "day"
    return render(request, "sources/readings.html", _context(access, point, over))


def _context(access: Access, point: Point, over: str) -> dict[str, Any]:
    span, _ = SPANS[over]
    end = now_ms()
    sheet = Sheet(end - span, end, WIDE, TALL)
    read = pieces(access.site.id, [point.id], sheet.start, end, PIECES).get(point.id, [])
    limits = limits_by_point(access.site).get(point.id, [])
    drawn = chart(read, [limit.value for limit in limits], sheet, max(PAUSE, span // 12))
    now = how_points_are(access.site, [point])[point.id].now
    return {
        "access": access, "point": point, "over": over, "spans": [(name, label) for name, (_, label) in SPANS.items()], "now": now,
        "chart": drawn, "wide": WIDE, "tall": TALL, "limits": limits, "unit": point.unit or now.partition(" ")[2],
        "times": [(round(WIDE * i / PARTS[over], 1), sheet.start + span * i // PARTS[over]) for i in range(PARTS[over] + 1)],
        "least": min((r.low for r in read), default=None), "most": max((r.high for r in read), default=None),
        "mean": sum(r.mean for r in read) / len(read) if read else None,
    }  # fmt: skip
