"""Cause: an operator presses a desk button."""

from typing import Annotated, ClassVar, Literal

from dromikon.core.events import Event, Phase
from dromikon.core.facts import Facts
from dromikon.core.rules.causes.base import FIRES, Answer, Cause, Memory
from dromikon.core.rules.controls import Inner
from dromikon.core.rules.parts import Phrase, told
from dromikon.core.rules.selection import Selection

PRESSED = "button.pressed"


class ButtonCause(Cause):
    """Fires when one of the desk buttons is pressed."""

    label: ClassVar[str] = "A desk button"
    speaks_of: ClassVar[str] = "=button.pressed"
    cause: Literal["button"] = "button"
    where: Annotated[Selection, Inner("Where", bare=True)]

    def selections(self) -> tuple[tuple[str, str, Selection], ...]:
        return (("where", PRESSED, self.where),)

    def on_event(self, event: Event, memory: Memory) -> Answer | None:
        return FIRES if event.phase is Phase.PULSE else None

    def phrases(self, facts: Facts) -> list[Phrase]:
        return told("somebody presses {button}", "cause", button=self.where.phrases(facts, "cause"))

    def event_kind(self) -> str:
        return PRESSED
