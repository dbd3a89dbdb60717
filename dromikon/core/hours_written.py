"""Hours as iCalendar (RFC 5545): each time that is inside is an event, in UTC, so that any calendar shows it as it is.

Daylight, seasons and exceptions have no repetition that a calendar could reckon with; so the times are written out.
"""

from collections.abc import Iterator
from datetime import timedelta

import icalendar

from dromikon.core.hours import Hours, Place
from dromikon.core.instants import Instant, to_datetime

MAKER = "-//Dromikon//Hours//EN"


def stretches(hours: Hours, start: Instant, end: Instant, place: Place) -> Iterator[tuple[Instant, Instant]]:
    """Each stretch of time between two instants in which it is inside, exactly; clipped to them."""
    at, inside = start, hours.contains(start, place)
    while at < end:
        change = hours.next_change(at, place, opens=not inside)
        until = end if change is None else min(change, end)
        if inside:
            yield at, until
        at, inside = until, not inside


def to_ical(hours: Hours, start: Instant, end: Instant, place: Place) -> bytes:
    """The times between two instants as a calendar. The same instants give the same text."""
    calendar = icalendar.Calendar()
    calendar.add("prodid", MAKER)
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", hours.name)
    calendar.add("x-wr-timezone", place.zone)
    for first, last in stretches(hours, start, end, place):
        event = icalendar.Event()
        event.add("uid", f"{hours.id}-{first}@dromikon")
        event.add("summary", hours.name)
        event.add("dtstart", to_datetime(first))
        event.add("dtend", to_datetime(last))
        event.add("dtstamp", to_datetime(start))
        calendar.add_component(event)
    return bytes(calendar.to_ical())


def a_year_on(start: Instant) -> Instant:
    """The end of what is written out from a moment on."""
    return start + int(timedelta(days=366).total_seconds() * 1000)
