"""Events and runs as marks along a time axis."""

from typing import Any

from dromikon.core.instants import Instant
from dromikon.daybook.models import EventRow, RunRow, Step

#: At most so many of each are told in one answer: the newest.
MOST_MARKS, MOST_BEGINS = 4_000, 3_000
#: An axis is at most so long, in ms.
LONGEST = 14 * 86_400_000
_RUNS_AT_A_TIME = 500


def marks_of(site: str, start: Instant, end: Instant) -> dict[str, Any]:
    """What happened at a site between two instants. Where there is too much, the newest; `cut` says from when."""
    events = EventRow.objects.filter(site=site, occurred_at__gte=start, occurred_at__lt=end, initial=False)
    rows = events.order_by("-occurred_at").values_list("seq", "kind", "point", "phase", "occurred_at", "late", "test")
    shown = list(rows[:MOST_MARKS])
    runs = list(RunRow.objects.filter(site=site, zero__gte=start, zero__lt=end).order_by("-zero")[:MOST_MARKS])
    steps = _steps_of([r.ref for r in runs])
    return {
        "events": [(str(seq), *rest) for seq, *rest in shown],
        "runs": [(r.ref, r.rule_name, r.point, r.zero, str(r.event), steps.get(r.ref, [])) for r in runs],
        "cut": shown[-1][4] if len(shown) == MOST_MARKS else None,
    }


def begins_of(site: str, points: list[str], start: Instant, end: Instant) -> list[Instant]:
    """When something began or happened at some points, oldest first."""
    found = EventRow.objects.filter(
        site=site, point__in=points, occurred_at__gte=start, occurred_at__lt=end, initial=False, test=False
    ).exclude(phase="end")
    return list(found.order_by("occurred_at").values_list("occurred_at", flat=True)[:MOST_BEGINS])


def _steps_of(refs: list[str]) -> dict[str, list[str]]:
    """What each run does, without its evidence and releases."""
    found: dict[str, list[str]] = {}
    for i in range(0, len(refs), _RUNS_AT_A_TIME):
        steps = Step.objects.filter(run__in=refs[i : i + _RUNS_AT_A_TIME], release=False).exclude(action="evidence")
        for run, action in steps.values_list("run", "action"):
            if action not in found.setdefault(run, []):
                found[run].append(action)
    return found
