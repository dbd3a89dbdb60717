"""Alarm quality: how good a site's alarms are for those who answer them, by day and by rule."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from dromikon.core.alarms.quality import ACCEPTABLE, GUIDANCE, MOST, Day, Quality
from dromikon.core.alarms.states import OUTCOMES
from dromikon.operating.quality import PERIODS, measured
from dromikon.people.access import Access
from dromikon.web.templatetags.kit import day_words
from dromikon.web.views import in_address, site_view

#: Of the drawing of days, in its own units: how tall, and how wide a day is at most.
TALL, WIDEST, WIDE = 120, 108, 760


@site_view()
def quality(request: HttpRequest, access: Access) -> HttpResponse:
    days = in_address(request.GET.get("days")) or 7
    desks = in_address(request.GET.get("desks")) or 1
    found = measured(access, days, desks)
    figures = found.quality
    context = {
        "access": access,
        "measured": found,
        "figures": figures,
        "periods": PERIODS,
        "days": len(figures.days),
        "bars": _bars(figures.days, access.site.zone),
        "spread": _spread(figures),
        "outcomes": [(name, figures.outcomes.get(name, 0)) for name in OUTCOMES],
        "rules": [{"share": r, "name": found.names.get(r.rule, r.rule)} for r in figures.rules],
        "acceptable": ACCEPTABLE,
        "most": MOST,
        "tall": TALL,
        "wide": WIDE,
        "desk_counts": range(1, 6),
    }
    return render(request, "desk/quality.html", context)


def _bars(days: tuple[Day, ...], zone: str) -> list[dict[str, Any]]:
    """A bar for each day, as tall as its alarms; red where there was a flood."""
    most, step = max([d.count for d in days] + [1]), min(WIDEST, WIDE / max(1, len(days)))
    return [
        {
            "day": day, "look": "flooded" if day.floods else "", "name": day_words(day.start, zone), "x": round(i * step + step * 0.15, 1), "wide": round(step * 0.7, 1),
            "tall": round(TALL * day.count / most, 1), "y": round(TALL - TALL * day.count / most, 1),
            "middle": round(i * step + step / 2, 1), "labelled": len(days) <= 14 or i % 7 == 0,
        }
        for i, day in enumerate(days)
    ]  # fmt: skip


def _spread(figures: Quality) -> list[dict[str, Any]]:
    """How much of all each priority has, beside what the standard advises."""
    return [
        {"priority": priority, "has": round(figures.spread[priority] * 100, 1), "should": round(should * 100)}
        for priority, should in GUIDANCE.items()
    ]
