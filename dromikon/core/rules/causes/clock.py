"""Cause: a time comes: of day, of the sun, or the start or end of an Hours."""

from dataclasses import dataclass
from datetime import timedelta
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field, model_validator

from dromikon.core.events import Event
from dromikon.core.facts import Facts
from dromikon.core.hours import DAYS, instants_of, sun_minute, wall_clock
from dromikon.core.instants import Instant
from dromikon.core.kinds import CLOCK
from dromikon.core.rules.causes.base import Answer, Cause, Memory
from dromikon.core.rules.condition import World
from dromikon.core.rules.controls import Choice, ClockTime, Number, Pick, When
from dromikon.core.rules.parts import Phrase, Ref, enumerated, told
from dromikon.core.rules.selection import Selection
from dromikon.core.words import t

Day = Literal["mon", "tue", "wed", "thu", "fri", "sat", "sun"]
WORDS = {"mon": "Mondays", "tue": "Tuesdays", "wed": "Wednesdays", "thu": "Thursdays", "fri": "Fridays",
         "sat": "Saturdays", "sun": "Sundays"}  # fmt: skip
AHEAD = 16


class ClockCause(Cause):
    """Fires at a time of the site's day, `offset` minutes around sunrise or sunset, or when an Hours starts or ends.
    A time that a clock change skips fires at the jump, one that comes twice fires the first time."""

    label: ClassVar[str] = "At a time"
    speaks_of: ClassVar[str] = "=time.reached"
    cause: Literal["at"] = "at"
    at: Annotated[
        Literal["time", "sunrise", "sunset", "start", "end"],
        Choice("When", bare=True, words={"time": "a time", "start": "the start of", "end": "the end of"}),
    ] = "time"
    time: Annotated[str, ClockTime("Time of day", start="18:00", bare=True, when=When("at", ("time",)))] = Field(
        default="", pattern=r"^(([01]\d|2[0-3]):[0-5]\d)?$"
    )
    offset: Annotated[int, Number("later by", unit="min", when=When("at", ("time",), negated=True))] = Field(
        default=0, ge=-240, le=240
    )
    days: Annotated[tuple[Day, ...], Choice("Only on")] = Field(default=(), max_length=7)
    hours: Annotated[Ref | None, Pick("Hours", of="hours", bare=True, when=When("at", ("start", "end")))] = None

    @model_validator(mode="after")
    def _fits(self) -> "ClockCause":
        if (self.at == "time") != bool(self.time):
            raise ValueError(t("give a time such as 18:30 exactly when the rule is about a time of day"))
        if (self.at in ("start", "end")) != (self.hours is not None):
            raise ValueError(t("name an Hours exactly when the rule is about its start or end"))
        if self.offset and self.at == "time":
            raise ValueError(t("an offset belongs to sunrise, sunset, or the start or end of an Hours"))
        return self

    def selections(self) -> tuple[tuple[str, str, Selection], ...]:
        return ()

    def named(self) -> list[tuple[str, str, Ref]]:
        return [("hours", "hours", self.hours)] if self.hours else []

    def watcher(self, facts: Facts, world: World) -> "ClockWatcher":
        return ClockWatcher(self, facts)

    def phrases(self, facts: Facts) -> list[Phrase]:
        if self.hours is not None:
            name = facts.name_of("hours", self.hours.id) or self.hours.name or self.hours.id
            message = "{hours} start{offset}" if self.at == "start" else "{hours} end{offset}"
            words = told(message, "cause", hours=name, offset=Phrase(self._offset(), "cause"))
        elif self.at == "time":
            words = told("it is {time}", "cause", time=self.time)
        else:
            words = told("it is {time}", "cause", time=f"{t(self.at)}{self._offset()}")
        if not self.days:
            return words
        days = enumerated([[Phrase(t(WORDS[day]), "cause", name=True)] for day in self.days])
        return told("{time} on {days}", "cause", time=words, days=list(days))

    def _offset(self) -> str:
        if not self.offset:
            return ""
        later = t(" plus {minutes} min", minutes=self.offset)
        return later if self.offset > 0 else t(" less {minutes} min", minutes=-self.offset)

    def event_kind(self) -> str:
        return CLOCK


@dataclass(frozen=True, slots=True)
class ClockWatcher:
    """Says when next; the evaluator keeps the clock."""

    cause: ClockCause
    facts: Facts

    def on_event(self, event: Event, memory: Memory) -> Answer | None:
        return None

    def on_due(self, key: str, memory: Memory) -> list[dict[str, Any]]:
        return []

    def next_after(self, at: Instant) -> Instant | None:
        """The next time it fires after an instant; None when there is none in sight."""
        if self.cause.hours is not None:
            return self._next_of_hours(at)
        today = wall_clock(at, self.facts.zone).date()
        for ahead in range(-1, AHEAD):
            day = today + timedelta(days=ahead)
            if self.cause.days and DAYS[day.weekday()] not in self.cause.days:
                continue
            if self.cause.at == "time":
                minute = int(self.cause.time[:2]) * 60 + int(self.cause.time[3:])
            else:
                minute = sun_minute(self.cause.at, day, self.facts.place) + self.cause.offset
            instant = next(instants_of(day, minute, self.facts.zone))
            if instant > at:
                return instant
        return None

    def _next_of_hours(self, at: Instant) -> Instant | None:
        assert self.cause.hours is not None
        known = self.facts.hours_by_id.get(self.cause.hours.id)
        offset, found = self.cause.offset * 60_000, at - self.cause.offset * 60_000
        for _ in range(20 if known else 0):
            change = known.next_change(found, self.facts.place, self.cause.at == "start") if known else None
            if change is None:
                return None
            day = DAYS[wall_clock(change, self.facts.zone).weekday()]
            if not self.cause.days or day in self.cause.days:
                return change + offset
            found = change
        return None
