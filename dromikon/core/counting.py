"""What was counted, by quarters of an hour: gathered into bars of any length, compared, and drawn."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from itertools import pairwise
from typing import Literal
from zoneinfo import ZoneInfo

from dromikon.core.instants import Instant, from_datetime, to_datetime

#: A quarter of an hour, in ms: nothing is kept more finely.
QUARTER = 900_000
DAY = 86_400_000
Step = Literal["quarter", "hour", "day", "week"]


@dataclass(frozen=True, slots=True)
class Counts:
    """What came in a while: how many came and went, the most that were inside at once, and how many at its end. `most` and
    `stands` are None where nothing was counted."""

    start: Instant
    end: Instant
    came: int = 0
    went: int = 0
    most: int | None = None
    stands: int | None = None

    def with_(self, other: "Counts") -> "Counts":
        """With a later one inside."""
        most = max((m for m in (self.most, other.most) if m is not None), default=None)
        stands = other.stands if other.stands is not None else self.stands
        return replace(self, came=self.came + other.came, went=self.went + other.went, most=most, stands=stands)


def quarter_of(at: Instant) -> Instant:
    """The quarter in which an instant lies."""
    return at // QUARTER * QUARTER


def bars(quarters: Iterable[Counts], start: Instant, end: Instant, step: Step, zone: str) -> list[Counts]:
    """A stretch in steps by the wall clock of a zone: days begin at midnight there, so that one has 23 hours and one 25; weeks begin
    on Mondays. `quarters`: in order."""
    edges = list(_edges(start, end, step, ZoneInfo(zone)))
    made = [Counts(a, b) for a, b in pairwise(edges)]
    place = 0
    for quarter in quarters:
        while place < len(made) and quarter.start >= made[place].end:
            place += 1
        if place == len(made):
            break
        if quarter.start >= made[place].start:
            made[place] = made[place].with_(quarter)
    return made


def _edges(start: Instant, end: Instant, step: Step, zone: ZoneInfo) -> Iterable[Instant]:
    """Where steps begin, from the one in which `start` lies, to the first that is not before `end`."""
    if step in ("quarter", "hour"):
        length = QUARTER if step == "quarter" else 4 * QUARTER
        at = start // length * length
        while at < end:
            yield at
            at += length
        yield at
        return
    day = to_datetime(start).astimezone(zone).date()
    if step == "week":
        day -= timedelta(days=day.weekday())
    length_of = timedelta(days=7 if step == "week" else 1)
    while True:
        at = from_datetime(datetime(day.year, day.month, day.day, tzinfo=zone))
        yield at
        if at >= end:
            return
        day += length_of


def day_start(at: Instant, zone: str, days: int = 0) -> Instant:
    """Midnight of the day in which an instant lies on the wall clock of a zone, or of one so many days later."""
    day = to_datetime(at).astimezone(ZoneInfo(zone)).date() + timedelta(days=days)
    return from_datetime(datetime(day.year, day.month, day.day, tzinfo=ZoneInfo(zone)))


def whole(made: Sequence[Counts], start: Instant, end: Instant) -> Counts:
    """All of a stretch together."""
    total = Counts(start, end)
    for one in made:
        total = total.with_(one)
    return total
