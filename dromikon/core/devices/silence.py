"""Whether something has fallen silent: told by how long it usually is quiet."""

import itertools
from collections.abc import Mapping
from dataclasses import dataclass

#: So many events must have come before, on so many different days, to speak of a habit.
ENOUGH, ENOUGH_DAYS = 12, 4
#: Silent is what has been quiet for this many times its longest quiet so far.
TIMES = 2
#: Kinds that tell of trouble with what tells: nobody waits for the next.
OF_TROUBLE = frozenset({"device.lost", "device.clock_wrong", "device.changed", "point.silent", "step.expired"})


@dataclass(frozen=True, slots=True)
class Silence:
    """It has not come for `days` days; its longest quiet before was `usual` days."""

    days: int
    usual: int


def silence(kind: str, counts: Mapping[int, int], today: int) -> Silence | None:
    """From the events of a kind on each day (by the day's number) whether what usually comes has stopped; None when it has
    not, or too little is known. Today counts as quiet only once yesterday was: it is not over."""
    if kind in OF_TROUBLE:
        return None
    days = sorted(day for day, count in counts.items() if count and day <= today)
    if len(days) < ENOUGH_DAYS or sum(counts[day] for day in days) < ENOUGH:
        return None
    usual = max(later - earlier - 1 for earlier, later in itertools.pairwise(days))
    quiet = today - days[-1] - 1
    return Silence(quiet, usual) if quiet > TIMES * max(usual, 0) and quiet >= 1 else None
