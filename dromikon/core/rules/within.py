"""When a rule, or one step of it, counts: inside or outside a named Hours."""

from collections.abc import Callable
from typing import Annotated

from dromikon.core.facts import Facts
from dromikon.core.hours import wall_clock
from dromikon.core.instants import Instant
from dromikon.core.rules.controls import Flag, Pick
from dromikon.core.rules.parts import Part, Phrase, Ref, told


class HoursPart(Part):
    """When the rule counts: inside or outside a named Hours."""

    hours: Annotated[Ref, Pick("Hours", of="hours", bare=True)]
    inside: Annotated[bool, Flag("When", bare=True, words=("inside", "outside"))] = True

    def compile(self, facts: Facts) -> Callable[[Instant], bool]:
        """A test of an instant. Hours that are gone never count; a check says so before the rule goes live."""
        known, place, inside = facts.hours_by_id.get(self.hours.id), facts.place, self.inside
        if known is None:
            return lambda at: False
        last: list[tuple[int, bool]] = [(-1, False)]

        def within(at: Instant) -> bool:
            # Hours change by the quarter of an hour, so one answer serves every event of a minute.
            minute = at // 60_000
            if last[0][0] != minute:
                last[0] = (minute, known.contains(at, place) == inside)
            return last[0][1]

        return within

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        return told(", inside {hours}" if self.inside else ", outside {hours}", part, hours=self.named(facts))

    def explained(self, facts: Facts, at: Instant) -> tuple[str, str, str]:
        """For a line of a trace: what it is about, what was seen, what was wanted."""
        side = "inside" if self.inside else "outside"
        return "hours", f"{wall_clock(at, facts.zone):%a %H:%M}", f"{side} {self.named(facts)}"

    def named(self, facts: Facts) -> str:
        """What these hours are called."""
        known = facts.hours_by_id.get(self.hours.id)
        return known.name if known else self.hours.name or self.hours.id
