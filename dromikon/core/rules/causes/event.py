"""Cause: an event of a kind, at a selection of points, in a phase."""

from typing import Annotated, ClassVar, Literal

from pydantic import field_validator, model_validator

from dromikon.core.events import Event, Phase
from dromikon.core.facts import Facts
from dromikon.core.kinds import CLOCK, KINDS, Kind
from dromikon.core.rules.causes.base import FIRES, Answer, Cause, Memory
from dromikon.core.rules.controls import Inner, Name
from dromikon.core.rules.parts import Phrase, told
from dromikon.core.rules.selection import Selection
from dromikon.core.words import N_, t


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
                t(
                    "{kind} has no phase {value}; it has {list}",
                    kind=self.kind,
                    value=repr(self.phase.value),
                    list=", ".join(p.value for p in phases),
                )
            )
        return self

    def selections(self) -> tuple[tuple[str, str, Selection], ...]:
        return (("where", self.kind, self.where),)

    def on_event(self, event: Event, memory: Memory) -> Answer | None:
        return FIRES if event.phase is self.phase else None

    def phrases(self, facts: Facts) -> list[Phrase]:
        kind = KINDS[self.kind]
        whole_site = kind.of_site and self.where.everywhere and not self.where.but
        where = [Phrase(t("the site"), "cause")] if whole_site else self.where.phrases(facts, "cause")
        return happens(where, kind, self.phase)

    def event_kind(self) -> str:
        return self.kind

    @property
    def ends(self) -> bool:
        return self.phase is Phase.BEGIN


def known_kind(value: str) -> str:
    """Pass a kind that comes from points through, or raise ValueError naming the known ones."""
    if value not in KINDS:
        raise ValueError(
            t("there is no kind {value}; known are {list}", value=repr(value), list=", ".join(KINDS.names()))
        )
    if value == CLOCK:
        raise ValueError(t("times come from the clock; use the cause 'at'"))
    return value


def happens(where: list[Phrase], kind: Kind, phase: Phase) -> list[Phrase]:
    """ "Jetty line is crossed", "Vault door no longer is open"."""
    message = N_("{where} no longer {happens}") if phase is Phase.END else "{where} {happens}"
    return told(message, "cause", where=where, happens=Phrase(kind.says, "cause"))
