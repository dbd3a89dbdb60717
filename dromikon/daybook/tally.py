"""What comes how often from where, and what has fallen silent."""

import json
from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

from dromikon.core.devices.silence import Silence, silence
from dromikon.core.events import Event
from dromikon.daybook.storage import Row, query

DAY = 86_400_000
#: Days are kept so long, in days; the last day on which something came stays for good.
KEPT = 60
#: So many days are drawn.
SHOWN = 7
Sent = tuple[str, str]

_ALL = """SELECT point, kind, MAX(last_at), json_group_object(day, count) FROM daybook_tally
    WHERE site = ? GROUP BY point, kind"""
_SOME = """SELECT point, kind, MAX(last_at), json_group_object(day, count) FROM daybook_tally
    WHERE site = ? AND point IN (SELECT value FROM json_each(?)) GROUP BY point, kind"""


@dataclass(slots=True)
class Tally:
    """Of one kind at one point: when it came last, and how often on each day."""

    kind: str
    last_at: int = 0
    days: dict[int, int] = field(default_factory=dict)

    def recent(self, today: int) -> list[int]:
        """How often on each of the last days, today last."""
        return [self.days.get(day, 0) for day in range(today - SHOWN + 1, today + 1)]

    def silence(self, today: int) -> Silence | None:
        """Whether it has fallen silent."""
        return silence(self.kind, self.days, today)


def day_of(at: int) -> int:
    """The number of the day in which an instant lies."""
    return at // DAY


def rows_of(events: Iterable[tuple[str, Event]]) -> list[Row]:
    """What a transaction's events add: one row for each kind, point and day. What was only told on the first connection
    did not happen."""
    counts: dict[tuple[str, str, str, int], list[int]] = defaultdict(lambda: [0, 0])
    for site, event in events:
        if not event.initial:
            found = counts[site, event.point, event.kind, day_of(event.occurred_at)]
            found[0], found[1] = found[0] + 1, max(found[1], event.occurred_at)
    return [(*key, count, last) for key, (count, last) in counts.items()]


def tallies(site: str, points: Sequence[str] | None = None) -> dict[Sent, Tally]:
    """By (point, kind), what is known of a site, or of some of its points. Days are gathered by the database: a thousand
    points have a hundred thousand of them."""
    rows = query(_ALL, (site,)) if points is None else query(_SOME, (site, json.dumps(list(points))))
    return {
        (point, kind): Tally(kind, last, {int(day): count for day, count in json.loads(days).items()})
        for point, kind, last, days in rows
    }
