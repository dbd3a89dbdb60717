"""Cause: an event of a kind, at a selection of points, in a phase."""

from typing import Annotated, ClassVar, Literal

from pydantic import field_validator, model_validator

from dromikon.core.events import Event, Phase
from dromikon.core.facts import Facts
from dromikon.core.kinds import CLOCK, KINDS
from dromikon.core.rules.causes.base import FIRES, Answer, Cause, Memory
from dromikon.core.rules.controls import Inner, Name
from dromikon.core.rules.parts import Phrase
from dromikon.core.rules.selection import Selection


class EventCause(Cause):
    """Fires on each event of `kind` in `phase` at one of the points."""

    label: ClassVar[str] = "An event"
    speaks_of: ClassVar[str] = "kind"
    cause: Literal["event"] = "event"
    kind: Annotated[str, Name("What happens", of="kind", bare=True)]
    phase: Annotated[Phase, Name("Phase", of="phase", bare=True)]
    where: Annotated[Selection, Inner("Where", bare=True)]

    @field_validator("kind")
    @classmethod
    def _known(cls, value: str) -> str:
        return known_kind(value)

    @model_validator(mode="after")
    def _phase_of_kind(self) -> "EventCause":
        phases = KINDS[self.kind].phases
        if self.phase not in phases:
            raise ValueError(
                f"{self.kind} has no phase {self.phase.value!r}; it has {', '.join(p.value for p in phases)}"
            )
        return self

    def selections(self) -> tuple[tuple[str, str, Selection], ...]:
        return (("where", self.kind, self.where),)

    def on_event(self, event: Event, memory: Memory) -> Answer | None:
        return FIRES if event.phase is self.phase else None

    def phrases(self, facts: Facts) -> list[Phrase]:
        kind = KINDS[self.kind]
        says = "no longer " + kind.says if self.phase is Phase.END else kind.says
        whole_site = kind.of_site and self.where.everywhere and not self.where.but
        where = [Phrase("the site", "cause")] if whole_site else self.where.phrases(facts, "cause")
        return [*where, Phrase(" "), Phrase(says, "cause")]

    def event_kind(self) -> str:
        return self.kind

    @property
    def ends(self) -> bool:
        return self.phase is Phase.BEGIN


def known_kind(value: str) -> str:
    """Pass a kind that comes from points through, or raise ValueError naming the known ones."""
    if value not in KINDS:
        raise ValueError(f"there is no kind {value!r}; known are {', '.join(KINDS.names())}")
    if value == CLOCK:
        raise ValueError("times come from the clock; use the cause 'at'")
    return value
