"""Hours as people look at them: what holds now and until when, and each day of a year."""

from dataclasses import dataclass
from datetime import date, timedelta

from dromikon.core.hours import Hours, Place, Span, instants_of, wall_clock
from dromikon.core.instants import Instant, parse
from dromikon.core.words import t


@dataclass(frozen=True, slots=True)
class Standing:
    """Whether it is inside, until when, and until when the other holds after that; None: not within 400 days."""

    inside: bool
    until: Instant | None
    then_until: Instant | None


def standing(hours: Hours, at: Instant, place: Place) -> Standing:
    """What holds at an instant, and what comes next."""
    inside = hours.contains(at, place)
    until = hours.next_change(at, place, opens=not inside)
    return Standing(inside, until, hours.next_change(until, place, opens=inside) if until is not None else None)


@dataclass(frozen=True, slots=True)
class DayShown:
    """One day of the wall clock: the minutes that are inside (merged, from 0 to 1440, those that began the day before among
    them), whether it is an exception and why."""

    day: date
    spans: tuple[Span, ...]
    excepted: bool
    why: str


def days_shown(hours: Hours, first: date, count: int, place: Place) -> list[DayShown]:
    """So many days from one on."""
    excepted = {e.date: e.why for e in hours.exceptions}
    before = hours.spans_on(first - timedelta(days=1), place)
    found = []
    for offset in range(count):
        day = first + timedelta(days=offset)
        here = hours.spans_on(day, place)
        spans = [(s - 1440, e - 1440) for s, e in before if e > 1440] + list(here)
        found.append(DayShown(day, _merged(spans), day in excepted, excepted.get(day, "")))
        before = here
    return found


def year_shown(hours: Hours, year: int, place: Place) -> list[DayShown]:
    """Every day of a year."""
    first = date(year, 1, 1)
    return days_shown(hours, first, (date(year + 1, 1, 1) - first).days, place)


def _merged(spans: list[Span]) -> tuple[Span, ...]:
    """Spans clipped to the day, in order, those that touch as one."""
    merged: list[Span] = []
    for start, end in sorted((max(0, s), min(1440, e)) for s, e in spans):
        if start >= end:
            continue
        if merged and start <= merged[-1][1]:
            merged[-1] = merged[-1][0], max(end, merged[-1][1])
        else:
            merged.append((start, end))
    return tuple(merged)


def moment_meant(text: str, after: Instant, zone: str) -> Instant:
    """What somebody means by "18:30", the next time that the wall clock shows it, or by an ISO 8601 instant after another.
    Raises ValueError."""
    hour, colon, minute = text.partition(":")
    if colon and hour.isdigit() and minute.isdigit() and int(hour) < 24 and int(minute) < 60:
        today = wall_clock(after, zone).date()
        shown = (
            instant
            for days in range(3)
            for instant in instants_of(today + timedelta(days=days), int(hour) * 60 + int(minute), zone)
        )
        return next(instant for instant in shown if instant > after)
    try:
        instant = parse(text)
    except ValueError as error:
        raise ValueError(t("{text} is no time such as 18:30", text=repr(text))) from error
    if instant <= after:
        raise ValueError(t("that is over already; name a moment to come"))
    return instant
