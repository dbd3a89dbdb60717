"""iCalendar files (RFC 5545) as a part of an Hours: recurring events are expanded, floating times are the site's."""

from datetime import date, datetime, time, timedelta
from functools import cached_property
from typing import Any
from zoneinfo import ZoneInfo

import icalendar
import recurring_ical_events
from pydantic import BaseModel, ConfigDict, Field, field_validator

from dromikon.core.words import t

Span = tuple[int, int]
LARGEST = 500_000
MOST_EVENTS = 2_000


class Calendar(BaseModel):
    """The events of an iCalendar text. With `adds` the time they cover is inside, otherwise it is outside."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    name: str = Field(default="", max_length=120)
    text: str = Field(max_length=LARGEST)
    adds: bool = True

    @field_validator("text")
    @classmethod
    def _readable(cls, value: str) -> str:
        try:
            events = icalendar.Calendar.from_ical(value).walk("VEVENT")
        except (ValueError, IndexError, KeyError, AttributeError) as error:
            raise ValueError(t("this is no iCalendar text: {error}", error=error)) from error
        if not 0 < len(events) <= MOST_EVENTS:
            raise ValueError(
                t(
                    "the calendar holds {count} events; 1 to {most} can be used",
                    count=len(events),
                    most=MOST_EVENTS,
                )
            )
        for event in events:
            rule = event.get("RRULE") or {}
            if any(f in ("SECONDLY", "MINUTELY") for f in rule.get("FREQ", [])):
                raise ValueError(t("an event repeats every minute or second; hours are for days and weeks"))
            if "DTSTART" not in event:
                raise ValueError(t("an event has no DTSTART"))
        return value

    def applied(self, spans: list[Span], day: date, zone: ZoneInfo) -> list[Span]:
        """Spans of a day with those of the calendar added or taken away."""
        covered = self._covered(day, zone)
        if self.adds:
            return spans + covered
        for start, end in covered:
            spans = [
                piece
                for first, last in spans
                for piece in ((first, min(last, start)), (max(first, end), last))
                if piece[0] < piece[1]
            ]
        return spans

    def _covered(self, day: date, zone: ZoneInfo) -> list[Span]:
        key = day, zone.key
        if key not in self._days:
            if len(self._days) > 1000:
                self._days.clear()
            found = self._query.between(
                datetime.combine(day, time(0), zone), datetime.combine(day + timedelta(days=1), time(0), zone)
            )
            spans = [_span(event, day, zone) for event in found]
            self._days[key] = sorted((s, e) for s, e in spans if s < e)
        return self._days[key]

    @cached_property
    def _query(self) -> Any:
        return recurring_ical_events.of(icalendar.Calendar.from_ical(self.text), skip_bad_series=True)

    @cached_property
    def _days(self) -> dict[tuple[date, str], list[Span]]:
        return {}


def _span(event: Any, day: date, zone: ZoneInfo) -> Span:
    """The minutes of a day that an occurrence covers, by quarter of an hour or finer, clipped to the day."""
    start, end = (_wall(moment, zone) for moment in (event.start, event.end))
    midnight = datetime.combine(day, time(0))
    return tuple(max(0, min(1440, round((moment - midnight).total_seconds() / 60))) for moment in (start, end))  # type: ignore[return-value]


def _wall(moment: date | datetime, zone: ZoneInfo) -> datetime:
    if not isinstance(moment, datetime):
        return datetime.combine(moment, time(0))
    return (moment.astimezone(zone) if moment.tzinfo else moment).replace(tzinfo=None)
