"""Cause: an operator presses a desk button."""

from typing import ClassVar, Literal

from dromikon.core.events import Event, Phase
from dromikon.core.facts import Facts
from dromikon.core.rules.causes.base import FIRES, Answer, Cause, Memory
from dromikon.core.rules.parts import Phrase
from dromikon.core.rules.selection import Selection

PRESSED = "button.pressed"


class ButtonCause(Cause):
    """Fires when one of the desk buttons is pressed."""

    in_form: ClassVar[bool] = True
    label: ClassVar[str] = "A desk button"
    cause: Literal["button"] = "button"
    where: Selection

    def selections(self) -> tuple[tuple[str, str, Selection], ...]:
        return (("where", PRESSED, self.where),)

    def on_event(self, event: Event, memory: Memory) -> Answer | None:
        return FIRES if event.phase is Phase.PULSE else None

    def phrases(self, facts: Facts) -> list[Phrase]:
        return [Phrase("somebody presses ", "cause"), *self.where.phrases(facts, "cause")]

    def event_kind(self) -> str:
        return PRESSED
