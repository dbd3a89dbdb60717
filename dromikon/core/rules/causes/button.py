"""Cause: an operator presses a desk button."""

from collections.abc import Iterator
from typing import ClassVar, Literal

from dromikon.core.events import Event, Phase
from dromikon.core.facts import Facts
from dromikon.core.rules.causes.base import FIRES, Answer, Cause, Memory
from dromikon.core.rules.parts import Phrase

PRESSED = "button.pressed"


class ButtonCause(Cause):
    """Fires when one of the desk buttons is pressed."""

    label: ClassVar[str] = "A desk button"
    cause: Literal["button"] = "button"

    def triggers(self, facts: Facts) -> Iterator[tuple[str, str]]:
        for point in self.where.resolve(facts, ("button",)):
            yield PRESSED, point

    def on_event(self, event: Event, memory: Memory) -> Answer | None:
        return FIRES if event.phase is Phase.PULSE else None

    def phrases(self, facts: Facts) -> list[Phrase]:
        return [Phrase("somebody presses ", "cause"), *self.where.phrases(facts, "cause")]

    def event_kind(self) -> str:
        return PRESSED
