"""Which points have fallen silent: asked every hour, and told as events that rules can use."""

from django.db import transaction

from dromikon.clock import now_ms
from dromikon.core.kinds import KINDS
from dromikon.daybook.models import ActRow
from dromikon.daybook.services import record_act
from dromikon.daybook.tally import day_of, tallies
from dromikon.sites.models import Site
from dromikon.sources.models import Point

HOUR = 3_600_000
#: What no longer comes, and for how many days.
Silent = dict[str, dict[str, str | int]]


def silences_every() -> int:
    return HOUR


def look_for_silences() -> str:
    """Tell the engine of each site whose silent points are others than before."""
    now, count = now_ms(), 0
    for site in Site.objects.values_list("id", flat=True):
        found = silent_points(site, now)
        count += len(found)
        if found.keys() != _told(site):
            with transaction.atomic():
                record_act(site, "silent", now, points=found)
    return f"{count} points are silent."


def silent_points(site: str, now: int) -> Silent:
    """By point, what usually comes and does not. Nobody waits for points that are retired, or whose
    device is or is switched off."""
    listened_to = set(
        Point.objects.filter(site=site, retired_at=None)
        .exclude(device__retired_at__isnull=False)
        .exclude(device__enabled=False)
        .values_list("id", flat=True)
    )
    found: Silent = {}
    for (point, kind), tally in sorted(tallies(site).items()):
        quiet = tally.silence(day_of(now)) if point in listened_to else None
        if quiet is None:
            continue
        known = KINDS.get(kind)
        label = known.called if known else kind
        before = found.get(point)
        what = f"{before['what']}, {label}" if before else label
        found[point] = {"what": what[:200], "days": max(quiet.days, int(before["days"]) if before else 0)}
    return found


def _told(site: str) -> set[str]:
    """Which points were silent when that was last told."""
    last = ActRow.objects.filter(site=site, type="silent").order_by("-id").first()
    return set(last.body["points"]) if last else set()
