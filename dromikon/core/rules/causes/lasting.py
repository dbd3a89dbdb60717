"""Cause: a state has lasted a while."""

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field, field_validator, model_validator

from dromikon.core.events import Event, Phase
from dromikon.core.facts import Facts
from dromikon.core.kinds import KINDS
from dromikon.core.rules.causes.base import Answer, Cause, Memory
from dromikon.core.rules.causes.event import known_kind
from dromikon.core.rules.controls import Inner, Name, Number
from dromikon.core.rules.parts import Phrase, seconds, told
from dromikon.core.rules.selection import Selection
from dromikon.core.stored import event_to_json
from dromikon.core.words import t


class LastingCause(Cause):
    """Fires once when a state of `kind` has gone on for `seconds`, however often it is told. For a late event it counts from learning it."""

    label: ClassVar[str] = "A state that lasts"
    speaks_of: ClassVar[str] = "kind"
    cause: Literal["lasting"] = "lasting"
    kind: Annotated[str, Name("What lasts", of="kind", only="states", bare=True)]
    seconds: Annotated[float, Number("for", unit="s", start=30)] = Field(gt=0, le=86_400)
    where: Annotated[Selection, Inner("Where", bare=True)]

    @field_validator("kind")
    @classmethod
    def _known(cls, value: str) -> str:
        return known_kind(value)

    @model_validator(mode="after")
    def _is_state(self) -> "LastingCause":
        if not KINDS[self.kind].is_state:
            raise ValueError(t("{kind} is momentary and cannot last; use the cause 'event'", kind=self.kind))
        return self

    def selections(self) -> tuple[tuple[str, str, Selection], ...]:
        return (("where", self.kind, self.where),)

    def on_event(self, event: Event, memory: Memory) -> Answer | None:
        key = f"lasting|{event.point}"
        if event.phase is Phase.END:
            row = memory.pop(key, None)
            return Answer(called_off=(row["event"]["seq"],)) if row and "event" in row else None
        if key in memory:
            # It waits already, or has fired: a state that is told again has not begun again.
            return None
        due = event.at + round(self.seconds * 1000)
        memory[key] = {"due": due, "event": event_to_json(event)}
        return Answer(due=due)

    def on_due(self, key: str, memory: Memory) -> list[dict[str, Any]]:
        event = memory[key]["event"]
        memory[key] = {"fired": event["seq"]}
        return [event]

    def phrases(self, facts: Facts) -> list[Phrase]:
        where, happens = self.where.phrases(facts, "cause"), Phrase(KINDS[self.kind].says, "cause")
        return told("{where} {happens} for {time}", "cause", where=where, happens=happens, time=seconds(self.seconds))

    def event_kind(self) -> str:
        return self.kind

    @property
    def waits(self) -> float:
        return self.seconds

    @property
    def waits_by(self) -> str:
        return "seconds"

    @property
    def ends(self) -> bool:
        return True
