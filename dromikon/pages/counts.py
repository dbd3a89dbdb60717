"""What counters counted: how many are inside, how that went over the day, and a board for those who come."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render

from dromikon.clock import now_ms
from dromikon.core.counting import DAY, Counts
from dromikon.core.words import t
from dromikon.operating.counts import PERIODS, Measured, counter_of, measured
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.sites.models import Counter
from dromikon.situation import situation_of
from dromikon.web.views import in_address, site_view

#: The chart's size in its own units; so many of its steps are named.
WIDE, TALL, NAMED = 960, 220, 8


@site_view()
def counts(request: HttpRequest, access: Access, counter_id: str = "") -> HttpResponse:
    """One counter; without an id the first that counts who is inside."""
    known = list(Counter.objects.filter(site=access.site, retired_at=None).order_by("-room", "name"))
    counter = next((c for c in known if c.id == counter_id), None) if counter_id else next(iter(known), None)
    if counter_id and counter is None:
        raise Http404("There is no such counter.")
    period = request.GET.get("over", "")
    last = in_address(request.GET.get("day")) or now_ms()
    context: dict[str, Any] = {
        "access": access, "known": known, "counter": counter, "may_set": access.may(May.SET_MODE),
        "periods": [(name, t(words)) for name, (_, _, words) in PERIODS.items()],
        "over": period if period in PERIODS else "hours",
    }  # fmt: skip
    if counter is not None:
        found = measured(access, counter, context["over"], min(last, now_ms()))
        context |= {
            "found": found, "now": _stands(access, counter), **_chart(found), **_beside(found),
            "rows": list(zip(found.steps, found.before, strict=False)),
            "axis": "day" if PERIODS[context["over"]][1] in ("quarter", "hour") else "week",
            "step": PERIODS[context["over"]][1], "until": found.end - 1,
            "forms": (("csv", t("CSV")), ("xlsx", t("XLSX"))), "several": PERIODS[context["over"]][0] > 1,
        }  # fmt: skip
    return render(request, "counts/counts.html", context)


@site_view()
def board(request: HttpRequest, access: Access, counter_id: str) -> HttpResponse:
    """How many are inside and for how many there is room, large, for a screen at a door."""
    counter = counter_of(access, counter_id)
    if counter is None:
        raise Http404("There is no such counter.")
    context = {"access": access, "counter": counter, "now": _stands(access, counter)}
    return render(request, "counts/board.html", context)


def _stands(access: Access, counter: Counter) -> int:
    known = {c["id"]: int(c["value"]) for c in situation_of(access.site)["counters"]}
    return known.get(counter.id, 0)


def _chart(found: Measured) -> dict[str, Any]:
    """Bars of those who came and went, and lines of the most inside, now and then."""
    tallest = max([1, *(s.came for s in found.steps), *(s.went for s in found.steps)])
    highest = max([1, found.counter.room, *(s.most or 0 for s in (*found.steps, *found.before))])
    step = WIDE / len(found.steps)
    every = max(1, len(found.steps) // NAMED)
    return {
        "wide": WIDE, "tall": TALL, "tallest": tallest, "highest": highest,
        "room_y": round(TALL - TALL * found.counter.room / highest, 1) if found.counter.room else None,
        "bars": [_bar(s, i, step, tallest, i % every == 0) for i, s in enumerate(found.steps)],
        "inside": _line(found.steps, step, highest), "inside_before": _line(found.before, step, highest),
    }  # fmt: skip


def _bar(counts: Counts, place: int, step: float, tallest: int, named: bool) -> dict[str, Any]:
    came, went = (round(TALL * n / tallest, 1) for n in (counts.came, counts.went))
    return {
        "counts": counts, "x": round(place * step + step * 0.1, 1), "half": round(step * 0.4, 1),
        "middle": round(place * step + step / 2, 1), "came": came, "went": went,
        "came_y": round(TALL - came, 1), "went_y": round(TALL - went, 1), "named": named,
    }  # fmt: skip


def _line(steps: list[Counts], step: float, highest: int) -> str:
    """The most that were inside, where anything is known."""
    return " ".join(
        f"{i * step + step / 2:.1f},{TALL - TALL * s.most / highest:.1f}"
        for i, s in enumerate(steps) if s.most is not None
    )  # fmt: skip


def _beside(found: Measured) -> dict[str, Any]:
    """The days before and after, and how this compares with then, in percent: by the steps that are over and of which both are known."""
    pairs = zip(found.steps, found.before, strict=False)
    known = [(s, b) for s, b in pairs if s.end <= now_ms() and s.most is not None and b.most is not None]
    came, then = (sum(one.came for one in of) for of in zip(*known, strict=True)) if known else (0, 0)
    later = found.end + DAY // 2
    return {
        "earlier": found.start - DAY // 2, "later": later if later < now_ms() + DAY else None,
        "share": round(100 * came / then) if then else None,
    }  # fmt: skip
