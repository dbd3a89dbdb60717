"""Named weekly hours with seasons and exceptions, evaluated on the site's wall clock.

A wall time that a daylight-saving change skips belongs to neither side and simply never comes; one that comes twice is
inside both times. An interval whose end is not after its start runs past midnight into the next day.
"""

import re
from datetime import date, datetime, timedelta
from functools import lru_cache
from zoneinfo import ZoneInfo

from pydantic import BaseModel, ConfigDict, Field, field_validator

from dromikon.core.instants import Instant, to_datetime

DAYS = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")
_SPAN = re.compile(r"([01]\d|2[0-4]):(00|15|30|45)-([01]\d|2[0-4]):(00|15|30|45)")
_MONTH_DAY = re.compile(r"(0[1-9]|1[0-2])-(0[1-9]|[12]\d|3[01])")


def minutes(span: str) -> tuple[int, int]:
    """Minutes since midnight of "HH:MM-HH:MM", by quarter of an hour; the end may lie past 24:00."""
    match = _SPAN.fullmatch(span)
    if match is None:
        raise ValueError(f"{span!r} is not a span such as 09:00-17:30, by quarter of an hour")
    start, end = int(match[1]) * 60 + int(match[2]), int(match[3]) * 60 + int(match[4])
    if start >= 1440 or end > 1440:
        raise ValueError(f"{span!r} goes beyond 24:00")
    return start, end if end > start else end + 1440


class _Model(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class Week(_Model):
    """Spans for each weekday; a day that is not named is closed all day."""

    mon: tuple[str, ...] = ()
    tue: tuple[str, ...] = ()
    wed: tuple[str, ...] = ()
    thu: tuple[str, ...] = ()
    fri: tuple[str, ...] = ()
    sat: tuple[str, ...] = ()
    sun: tuple[str, ...] = ()

    @field_validator(*DAYS)
    @classmethod
    def _spans(cls, value: tuple[str, ...]) -> tuple[str, ...]:
        for span in value:
            minutes(span)
        return value

    def day(self, weekday: int) -> tuple[str, ...]:
        spans: tuple[str, ...] = getattr(self, DAYS[weekday])
        return spans


class Season(_Model):
    """A week that holds from one day of the year to another, both included ("04-01" to "10-31")."""

    start: str
    end: str
    week: Week

    @field_validator("start", "end")
    @classmethod
    def _month_day(cls, value: str) -> str:
        if not _MONTH_DAY.fullmatch(value):
            raise ValueError(f"{value!r} is not a month and day such as 04-01")
        return value

    def holds(self, day: date) -> bool:
        today = f"{day:%m-%d}"
        if self.start <= self.end:
            return self.start <= today <= self.end
        return today >= self.start or today <= self.end


class DayException(_Model):
    """One date on which other spans hold; none means closed."""

    date: date
    spans: tuple[str, ...] = ()
    why: str = ""

    @field_validator("spans")
    @classmethod
    def _spans(cls, value: tuple[str, ...]) -> tuple[str, ...]:
        for span in value:
            minutes(span)
        return value


class Hours(_Model):
    """A named Hours. The first season that holds a day decides; a date among the exceptions overrides it."""

    id: str
    name: str
    seasons: tuple[Season, ...] = ()
    exceptions: tuple[DayException, ...] = Field(default=())

    def spans_on(self, day: date) -> tuple[tuple[int, int], ...]:
        """The spans that start on a day, as minutes of its wall clock."""
        for exception in self.exceptions:
            if exception.date == day:
                return tuple(minutes(s) for s in exception.spans)
        for season in self.seasons:
            if season.holds(day):
                return tuple(minutes(s) for s in season.week.day(day.weekday()))
        return ()

    def contains(self, instant: Instant, zone: str) -> bool:
        """Whether an instant lies inside, on the wall clock of `zone` (an IANA name)."""
        wall = to_datetime(instant).astimezone(_zone(zone))
        now = wall.hour * 60 + wall.minute
        today = wall.date()
        if any(start <= now < end for start, end in self.spans_on(today)):
            return True
        return any(now + 1440 < end for _, end in self.spans_on(today - timedelta(days=1)))

    @property
    def is_empty(self) -> bool:
        """Whether there is no span at all, so that it is never inside."""
        weekly = any(season.week.day(d) for season in self.seasons for d in range(7))
        return not weekly and not any(e.spans for e in self.exceptions)


@lru_cache(maxsize=64)
def _zone(name: str) -> ZoneInfo:
    return ZoneInfo(name)


def wall_clock(instant: Instant, zone: str) -> datetime:
    """The site's wall clock at an instant."""
    return to_datetime(instant).astimezone(_zone(zone))
