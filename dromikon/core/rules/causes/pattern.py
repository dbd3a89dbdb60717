"""What causes over several events share: a pattern for one event, and the key that joins events to each other."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated, ClassVar, Literal

from pydantic import Field, field_validator, model_validator

from dromikon.core.events import Event, Phase
from dromikon.core.facts import Facts
from dromikon.core.kinds import KINDS
from dromikon.core.rules.causes.event import happens, known_kind
from dromikon.core.rules.condition import Pair, World
from dromikon.core.rules.conditions import AnyCondition
from dromikon.core.rules.controls import Choice, Inner, Name, Nodes, When
from dromikon.core.rules.parts import Part, Phrase, told
from dromikon.core.rules.selection import Selection
from dromikon.core.words import t


class Pattern(Part):
    """One event of a kind in a phase at the selected points, provided something of its own."""

    speaks_of: ClassVar[str] = "kind"

    kind: Annotated[str, Name("What happens", of="kind", bare=True)]
    phase: Annotated[Phase, Name("Phase", of="phase", bare=True)]
    where: Annotated[Selection, Inner("Where", bare=True)]
    provided: Annotated[AnyCondition | None, Nodes("Provided", of="condition")] = None

    @field_validator("kind")
    @classmethod
    def _known(cls, value: str) -> str:
        return known_kind(value)

    @model_validator(mode="after")
    def _phase_of_kind(self) -> "Pattern":
        if self.phase not in KINDS[self.kind].phases:
            raise ValueError(t("{kind} has no phase {value}", kind=self.kind, value=repr(self.phase.value)))
        return self

    def test(self, facts: Facts, world: World) -> Callable[[Event], bool]:
        """A function that says whether an event is of this pattern."""
        points = self.where.resolve(facts, KINDS[self.kind].point_kinds)
        provided = self.provided.compile("provided", world) if self.provided else None

        def matches(event: Event) -> bool:
            if event.kind != self.kind or event.phase is not self.phase or event.point not in points:
                return False
            return provided is None or provided(event, [])

        return matches

    def looks_at(self, facts: Facts) -> set[Pair]:
        """What its own condition looks at."""
        points = set(self.where.resolve(facts, KINDS[self.kind].point_kinds))
        return self.provided.concerns(points) if self.provided else set()

    def phrases(self, facts: Facts) -> list[Phrase]:
        words = happens(self.where.phrases(facts, "cause"), KINDS[self.kind], self.phase)
        if self.provided is None:
            return words
        return told(
            "{event} ({conditions})", "cause", event=words, conditions=self.provided.phrases(facts, self.kind, "cause")
        )


class Join(Part):
    """What must be the same for events to belong together. `sightline`: the first camera that looks at the point."""

    per: Annotated[
        Literal["nothing", "point", "area", "sightline", "field"],
        Choice("of one", words={"nothing": "anything", "sightline": "camera that looks there"}),
    ] = "nothing"
    field: Annotated[
        str, Name("Field", of="field", only="text,choice,number", bare=True, when=When("per", ("field",)))
    ] = Field(default="", max_length=64)

    @model_validator(mode="after")
    def _field_named(self) -> "Join":
        if (self.per == "field") != bool(self.field):
            raise ValueError(t("name a field exactly when joining per field"))
        return self

    def key(self, facts: Facts) -> Callable[[Event], str | None]:
        """The join key of an event; None for one that lacks the field, which then belongs to nothing."""
        if self.per == "nothing":
            return lambda event: ""
        if self.per == "point":
            return lambda event: event.point
        if self.per == "area":
            areas = {p.id: p.area or "" for p in facts.points}
            return lambda event: areas.get(event.point, "")
        if self.per == "sightline":
            return lambda event: next(iter(facts.cameras_of(event.point)), event.point)
        name = self.field
        return lambda event: None if event.fields.get(name) is None else str(event.fields[name])[:200]

    def words(self) -> str:
        """How it reads behind a cause; empty for no join."""
        return "" if self.per == "nothing" else t(" at the same {value}", value=self.field or self.per)


@dataclass(frozen=True, slots=True)
class Joined:
    """Patterns and join of a cause, made ready for a site."""

    tests: tuple[Callable[[Event], bool], ...]
    key: Callable[[Event], str | None]

    def places(self, event: Event) -> list[int]:
        """Which patterns an event is of."""
        return [i for i, test in enumerate(self.tests) if test(event)]
