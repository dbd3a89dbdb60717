"""Alarm quality of a site: its alarms, as far as somebody may see them, and the figures of a period."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, time, timedelta
from zoneinfo import ZoneInfo

from dromikon.clock import now_ms
from dromikon.core.alarms.quality import Quality, Told, quality
from dromikon.core.instants import Instant, to_datetime
from dromikon.desk.models import Alarm, AlarmAct
from dromikon.desk.services import visible_alarms
from dromikon.people.access import Access
from dromikon.rulebook.models import Rule

#: Periods that are offered, in days.
PERIODS = (1, 7, 30, 90)
#: At so many desks the load is shared at most.
MOST_DESKS = 20
#: So many alarms are looked at: half a year of a site in constant flood.
MOST = 500_000


@dataclass(frozen=True, slots=True)
class Measured:
    """The figures of a period, and what its rules are called."""

    start: Instant
    end: Instant
    desks: int
    quality: Quality
    names: dict[str, str]


def measured(access: Access, days: int, desks: int = 1) -> Measured:
    """The last so many days of the site's calendar, today included."""
    days, desks = max(PERIODS[0], min(PERIODS[-1], days)), max(1, min(MOST_DESKS, desks))
    end = now_ms()
    edges = _midnights(end, days, access.site.zone)
    found = quality(told(access, edges[0], end), edges[0], end, edges, desks)
    return Measured(edges[0], end, desks, found, _names(access, [r.rule for r in found.rules]))


def told(access: Access, start: Instant, end: Instant) -> list[Told]:
    """The alarms of a period as values."""
    rows = visible_alarms(access).filter(raised_at__gte=start, raised_at__lt=end).order_by("id")[:MOST]
    shelved = _shelved(access, start)
    return [
        Told(
            rule, point, priority, raised, ended, answered, lasting, outcome, max(0, count - 1), shelved.get(id, 0),
            suppressed or unheard,
        )
        for id, rule, point, priority, raised, ended, answered, lasting, outcome, count, suppressed, unheard in rows.values_list(
            "id", "rule", "point", "priority", "raised_at", "ended_at", "acknowledged_at", "lasting", "outcome", "count",
            "suppressed", "unheard",
        )
    ]  # fmt: skip


def _shelved(access: Access, start: Instant) -> Counter[int]:
    """How often each alarm was shelved."""
    acts = AlarmAct.objects.filter(site=access.site.id, act="shelved", at__gte=start)
    return Counter(acts.values_list("alarm_id", flat=True))


def _midnights(end: Instant, days: int, zone: str) -> list[Instant]:
    """Where each of the last days begins, the first one first."""
    today = to_datetime(end).astimezone(ZoneInfo(zone)).date()
    first = [today - timedelta(days=back) for back in range(days - 1, -1, -1)]
    return [round(datetime.combine(day, time(), ZoneInfo(zone)).timestamp() * 1000) for day in first]


def _names(access: Access, rules: Sequence[str]) -> dict[str, str]:
    """What rules are called now, also those that are deleted; one that is gone is called by its last alarm."""
    known = {r.id: r.name for r in Rule.objects.filter(site=access.site, id__in=rules)}
    for rule in rules:
        if not known.get(rule):
            last = Alarm.objects.filter(site=access.site, rule=rule).order_by("-id").first()
            known[rule] = last.title if last else rule
    return known
