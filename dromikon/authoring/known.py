"""What checks want to know of a site's past: how busy each kind is, and which hosts have answered a call."""

import time
from dataclasses import replace

from django.db import connection

from dromikon import scripts
from dromikon.clock import now_ms
from dromikon.core.rules.checks import Known
from dromikon.core.rules.state import FORGOTTEN
from dromikon.daybook.models import EvaluatorRow, Step, TallyRow
from dromikon.lists.models import WatchList
from dromikon.sources.models import Point
from dromikon.sources.offers import kinds_of, taught_kinds

DAY, HOUR = 86_400_000, 3_600_000
WEEK = 7 * DAY
#: How long an answer is remembered, in seconds: counting a week's events takes a while.
FRESH = 300.0

_BUSIEST = (
    "SELECT kind, point, MAX(times) FROM (SELECT kind, point, COUNT(*) AS times FROM daybook_event "
    "WHERE site = %s AND occurred_at > %s AND NOT initial AND NOT test GROUP BY kind, point, occurred_at / %s) GROUP BY kind, point"
)
Pairs = frozenset[tuple[str, str]]
_remembered: dict[str, tuple[float, Pairs, Known]] = {}


def known_of(site: str) -> Known:
    """What is known of a site: its past at most five minutes old, but anew as soon as a point sends what it never sent; the
    scripts as they lie now."""
    return replace(_past_of(site), scripts=scripts.names())


def _past_of(site: str) -> Known:
    now = time.monotonic()
    kept = _remembered.get(site)
    pairs = _lately(site)
    if kept is not None and now - kept[0] < FRESH and kept[1] == pairs:
        return kept[2]
    with connection.cursor() as cursor:
        cursor.execute(_BUSIEST, [site, now_ms() - WEEK, HOUR])
        busiest = {(kind, point): times for kind, point, times in cursor.fetchall()}
    calls = Step.objects.filter(site=site, action__in=("http", "webhook"), status=Step.Status.DONE)
    hosts = calls.values_list("target", flat=True).distinct()
    rows = EvaluatorRow.objects.filter(site=site, key=FORGOTTEN).values_list("rule", "row")
    forgotten = {rule: int(row["count"]) for rule, row in rows}
    stale = frozenset(w.id for w in WatchList.objects.filter(site=site).exclude(source="") if w.stale(now_ms()))
    tested = frozenset(h.removeprefix("host:") for h in hosts)
    recorded = dict(Point.objects.filter(site=site).exclude(recorded="").values_list("id", "recorded"))
    known = Known(busiest, tested, forgotten, stale, senders(site, set(busiest)), recorded)
    _remembered[site] = now, pairs, known
    return known


def _lately(site: str) -> Pairs:
    """Which kinds came from which points in the past week: the few rows of the daily tally tell it at once."""
    since = (now_ms() - WEEK) // DAY
    return frozenset(TallyRow.objects.filter(site=site, day__gte=since).values_list("kind", "point").distinct())


def senders(site: str, seen: set[tuple[str, str]]) -> dict[str, frozenset[str]]:
    """What each point can send: what its device has told, what a detector of our own watches, or else what it has sent in the
    past week. Points of which none is known are left out."""
    found: dict[str, set[str]] = {}
    for kind, sender in seen:
        found.setdefault(sender, set()).add(kind)
    taught = taught_kinds(site)
    for point in Point.objects.filter(site=site, retired_at=None).select_related("device"):
        if point.watch is not None or (point.device and point.device.catalogue):
            found.setdefault(point.id, set()).update(k.name for k in kinds_of(point, taught))
    return {point: frozenset(kinds) for point, kinds in found.items()}


def forget(site: str) -> None:
    """Look again at the next question."""
    _remembered.pop(site, None)
