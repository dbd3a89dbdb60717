"""How far back a camera's recordings go, and whether it is recorded all the time or only when something moves."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from dromikon.core.instants import Instant

Sort = Literal["continuous", "events", "none"]
HOUR, WEEK = 3_600_000, 7 * 86_400_000
#: Whoever records by event seldom records for so long without a break.
UNBROKEN = 6 * HOUR
#: Stretches that lie so close are one.
JOIN = 2_000


@dataclass(frozen=True, slots=True)
class Reach:
    """`since`: the oldest recording; None where there is none. `sort` goes by the last week."""

    since: Instant | None
    sort: Sort


def reach_of(stretches: Iterable[tuple[Instant, Instant]], now: Instant) -> Reach:
    """From the stretches that a recorder has, in any order."""
    joined: list[list[Instant]] = []
    for start, end in sorted(stretches):
        if joined and start - joined[-1][1] <= JOIN:
            joined[-1][1] = max(joined[-1][1], end)
        elif end > start:
            joined.append([start, end])
    if not joined:
        return Reach(None, "none")
    lately = [min(end, now) - max(start, now - WEEK) for start, end in joined if end > now - WEEK]
    # One that has been recorded for less than that is judged by all there is.
    enough = min(UNBROKEN, (now - joined[0][0]) // 2)
    sort: Sort = "none" if not lately else "continuous" if max(lately) >= enough else "events"
    return Reach(joined[0][0], sort)
