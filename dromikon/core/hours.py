"""Named weekly hours with seasons, exceptions, daylight and calendars, evaluated on the site's wall clock.

A wall time that a daylight-saving change skips belongs to neither side and simply never comes; one that comes twice is
inside both times. A span whose end is not after its start runs past midnight into the next day.
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from functools import cached_property, lru_cache
from zoneinfo import ZoneInfo

from astral import Observer
from astral.sun import elevation, noon, sunrise, sunset
from pydantic import BaseModel, ConfigDict, Field, field_validator

from dromikon.core.calendars import Calendar
from dromikon.core.instants import Instant, from_datetime, to_datetime
from dromikon.core.words import t

DAYS = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")
_CLOCK = re.compile(r"([01]\d|2[0-4]):(00|15|30|45)")
_SUN = re.compile(r"(sunrise|sunset)([+-]\d{1,3})?")
_END = r"(?:\d\d:\d\d|(?:sunrise|sunset)(?:[+-]\d{1,3})?)"
_SPAN = re.compile(rf"({_END})-({_END})")
_MONTH_DAY = re.compile(r"(0[1-9]|1[0-2])-(0[1-9]|[12]\d|3[01])")
#: How far ahead the next start or end of an Hours is looked for, in days.
AHEAD = 400
Span = tuple[int, int]


@dataclass(frozen=True, slots=True)
class Place:
    """Where wall clock and sun are read: an IANA time zone, and degrees north and east."""

    zone: str
    latitude: float = 51.5
    longitude: float = 0.0


def minutes(span: str) -> Span:
    """Minutes since midnight of "HH:MM-HH:MM", by quarter of an hour; the end may lie past 24:00."""
    start, end = split(span)
    if not (_CLOCK.fullmatch(start) and _CLOCK.fullmatch(end)):
        raise ValueError(t("{span} is not a span such as 09:00-17:30, by quarter of an hour", span=repr(span)))
    return _in_order(_clock(start), _clock(end))


def split(span: str) -> tuple[str, str]:
    """The two ends of a span: clock times by quarter of an hour, or sunrise and sunset with an offset in minutes.
    Raises ValueError."""
    match = _SPAN.fullmatch(span)
    if match is None or not all(_CLOCK.fullmatch(end) or _SUN.fullmatch(end) for end in match.groups()):
        raise ValueError(
            t("{span} is not a span such as 09:00-17:30, by quarter of an hour, or sunset-sunrise+15", span=repr(span))
        )
    for end, latest in zip(match.groups(), (1439, 1440), strict=True):
        if _CLOCK.fullmatch(end) and _clock(end) > latest:
            raise ValueError(t("{span} goes beyond 24:00", span=repr(span)))
    return match[1], match[2]


def _clock(text: str) -> int:
    return int(text[:2]) * 60 + int(text[3:])


def _in_order(start: int, end: int) -> Span:
    return start, end if end > start else end + 1440


def _resolved(span: str, day: date, place: Place) -> Span:
    """The minutes of a span on a day. One that ends by the sun next morning takes that morning's sun."""
    start, end = split(span)
    first = _minute(start, day, place)
    last = _minute(end, day, place)
    if last <= first and start.startswith("sunrise") and end.startswith("sunset"):
        # A day without sun has no day; it does not begin one that lasts until tomorrow.
        return first, first
    if last <= first:
        last = _minute(end, day + timedelta(days=1), place) + 1440
    return first, last


def _minute(end: str, day: date, place: Place) -> int:
    sun = _SUN.fullmatch(end)
    if sun is None:
        return _clock(end)
    return max(0, min(1440, sun_minute(sun[1], day, place) + int(sun[2] or 0)))


@lru_cache(maxsize=4096)
def sun_minute(which: str, day: date, place: Place) -> int:
    """The minute of the wall clock at which the sun rises or sets (NOAA's solar equations, by astral). Where it does
    not rise that day both are its noon; where it does not set, the day's beginning and end."""
    observer = Observer(place.latitude, place.longitude)
    try:
        moment = (sunrise if which == "sunrise" else sunset)(observer, date=day, tzinfo=_zone(place.zone))
    except ValueError:
        midday = noon(observer, date=day, tzinfo=_zone(place.zone))
        if elevation(observer, midday) > 0:
            return 0 if which == "sunrise" else 1440
        moment = midday
    wall = moment.astimezone(_zone(place.zone))
    # Far from its zone's meridian a sunset can fall on the neighbouring date; that day it is at the end it ran over.
    return 0 if wall.date() < day else 1440 if wall.date() > day else wall.hour * 60 + wall.minute


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
            split(span)
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
            raise ValueError(t("{value} is not a month and day such as 04-01", value=repr(value)))
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
            split(span)
        return value


class Hours(_Model):
    """A named Hours. The first season that holds a day decides; a date among the exceptions overrides it. Calendars
    add what they hold to the rest of the days, or take it away."""

    id: str
    name: str
    seasons: tuple[Season, ...] = ()
    exceptions: tuple[DayException, ...] = Field(default=())
    calendars: tuple[Calendar, ...] = Field(default=(), max_length=5)

    @field_validator("exceptions")
    @classmethod
    def _one_a_day(cls, value: tuple[DayException, ...]) -> tuple[DayException, ...]:
        days = [e.date for e in value]
        twice = next((d for d in days if days.count(d) > 1), None)
        if twice is not None:
            raise ValueError(t("{twice} is excepted twice; say once what holds that day", twice=twice))
        return value

    @field_validator("seasons")
    @classmethod
    def _each_reachable(cls, value: tuple[Season, ...]) -> tuple[Season, ...]:
        for i, season in enumerate(value):
            if any((s.start, s.end) == (season.start, season.end) for s in value[:i]):
                raise ValueError(
                    t(
                        "two weeks hold from {start} to {end}; the second never would",
                        start=season.start,
                        end=season.end,
                    )
                )
        return value

    def spans_on(self, day: date, place: Place) -> tuple[Span, ...]:
        """The spans that start on a day, as minutes of its wall clock."""
        exception = self._exception.get(day)
        if exception is not None:
            return tuple(_resolved(s, day, place) for s in exception.spans)
        season = next((s for s in self.seasons if s.holds(day)), None)
        spans = [_resolved(s, day, place) for s in season.week.day(day.weekday())] if season else []
        for calendar in self.calendars:
            spans = calendar.applied(spans, day, _zone(place.zone))
        return tuple(spans)

    def contains(self, instant: Instant, place: Place) -> bool:
        """Whether an instant lies inside, on the wall clock of a place."""
        wall = to_datetime(instant).astimezone(_zone(place.zone))
        now = wall.hour * 60 + wall.minute
        today = wall.date()
        if any(start <= now < end for start, end in self.spans_on(today, place)):
            return True
        return any(now + 1440 < end for _, end in self.spans_on(today - timedelta(days=1), place))

    def next_change(self, after: Instant, place: Place, opens: bool) -> Instant | None:
        """The next instant after another at which the hours begin (`opens`) or end; None within the next 400 days."""
        first = to_datetime(after).astimezone(_zone(place.zone)).date() - timedelta(days=2)
        for offset in range(AHEAD):
            day = first + timedelta(days=offset)
            ends = sorted({s[0 if opens else 1] for s in self.spans_on(day, place)})
            for minute in ends:
                for instant in instants_of(day, minute, place.zone):
                    inside = self.contains(instant, place)
                    if instant > after and inside == opens and self.contains(instant - 1, place) != opens:
                        return instant
        return None

    @property
    def is_empty(self) -> bool:
        """Whether there is no span at all, so that it is never inside."""
        weekly = any(season.week.day(d) for season in self.seasons for d in range(7))
        adding = any(c.adds for c in self.calendars)
        return not weekly and not adding and not any(e.spans for e in self.exceptions)

    @property
    def is_always(self) -> bool:
        """Whether it is the whole of every day, so that it is never outside."""
        whole = any(s.start == "01-01" and s.end == "12-31" for s in self.seasons[:1])
        days = [self.seasons[0].week.day(d) for d in range(7)] if whole else []
        return whole and not self.exceptions and not self.calendars and all("00:00-24:00" in d for d in days)

    @cached_property
    def _exception(self) -> dict[date, DayException]:
        return {e.date: e for e in reversed(self.exceptions)}


def instants_of(day: date, minute: int, zone: str) -> Iterator[Instant]:
    """The instants at which a wall clock shows a minute of a day (which may run past 24:00): one, or two where clocks
    go back; the moment of the jump where they go forward over it."""
    wall = datetime(day.year, day.month, day.day) + timedelta(minutes=minute)
    known = _zone(zone)
    seen = set()
    for fold in (0, 1):
        instant = from_datetime(wall.replace(tzinfo=known, fold=fold).astimezone(UTC))
        shown = to_datetime(instant).astimezone(known)
        if (shown.hour, shown.minute) != (wall.hour, wall.minute):
            instant = _jump_near(instant, known)
        if instant not in seen:
            seen.add(instant)
            yield instant


def _jump_near(instant: Instant, zone: ZoneInfo) -> Instant:
    """The moment at which the zone's offset changes, within a day of an instant, to the minute."""
    low, high = instant - 86_400_000, instant + 86_400_000
    before = to_datetime(low).astimezone(zone).utcoffset()
    while high - low > 60_000:
        middle = (low + high) // 120_000 * 60_000
        if to_datetime(middle).astimezone(zone).utcoffset() == before:
            low = middle
        else:
            high = middle
    return high // 60_000 * 60_000


@lru_cache(maxsize=64)
def _zone(name: str) -> ZoneInfo:
    return ZoneInfo(name)


def wall_clock(instant: Instant, zone: str) -> datetime:
    """The site's wall clock at an instant."""
    return to_datetime(instant).astimezone(_zone(zone))
