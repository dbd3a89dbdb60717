"""Cause: a counter reaches a number."""

from collections.abc import Iterator
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from dromikon.core.events import Event
from dromikon.core.facts import Facts
from dromikon.core.kinds import COUNTED
from dromikon.core.rules.causes.base import FIRES, Answer, Cause, Memory
from dromikon.core.rules.controls import Choice, Number, Pick
from dromikon.core.rules.parts import Phrase, Ref, told
from dromikon.core.rules.selection import Selection


class LimitCause(Cause):
    """Fires when a counter, counted up or down by rules or set by hand, comes to a number from below (`up`) or from above
    (`down`); again only after it was on the other side, by `hysteresis` at least."""

    label: ClassVar[str] = "A counter reaches a number"
    speaks_of: ClassVar[str] = "=counter.changed"
    cause: Literal["limit"] = "limit"
    counter: Annotated[Ref, Pick("Counter", of="counter")]
    way: Annotated[Literal["up", "down"], Choice("It", words={"up": "rises to", "down": "falls to"})] = "up"
    value: Annotated[int, Number("Number", start=10)] = Field(ge=0, le=10_000_000)
    hysteresis: Annotated[int, Number("back by", hint="How far it must come back before it counts again")] = Field(
        default=0, ge=0, le=10_000_000
    )

    def selections(self) -> tuple[tuple[str, str, Selection], ...]:
        return ()

    def triggers(self, facts: Facts) -> Iterator[tuple[str, str]]:
        yield COUNTED, ""

    def named(self) -> list[tuple[str, str, Ref]]:
        return [("counter", "counter", self.counter)]

    def on_event(self, event: Event, memory: Memory) -> Answer | None:
        if event.fields.get("id") != self.counter.id:
            return None
        before, now = (float(str(event.fields.get(name, 0))) for name in ("before", "value"))
        row = memory.get("side")
        was = self._beyond(before, False) if row is None else bool(row["beyond"])
        beyond = self._beyond(now, was)
        if self.hysteresis:
            memory["side"] = {"beyond": beyond}
        return FIRES if beyond and not was else None

    def _beyond(self, value: float, was: bool) -> bool:
        """Whether it is at the number or past it; one that `was` has to come back first."""
        back = self.hysteresis if was else 0
        past = value - self.value if self.way == "up" else self.value - value
        return past > -back if back else past >= 0

    def phrases(self, facts: Facts) -> list[Phrase]:
        name = facts.name_of("counter", self.counter.id) or self.counter.name or self.counter.id
        number = Phrase(str(self.value), "cause", name=True)
        if self.way == "up":
            return told("{counter} rises to {number}", "cause", counter=name, number=number)
        return told("{counter} falls to {number}", "cause", counter=name, number=number)

    def event_kind(self) -> str:
        return COUNTED
