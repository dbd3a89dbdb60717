"""Cause: two readings are too far apart."""

from collections.abc import Iterator
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field, field_validator, model_validator

from dromikon.core.events import Event
from dromikon.core.facts import Facts
from dromikon.core.kinds import KINDS
from dromikon.core.rules.causes.base import Answer, Cause, Memory
from dromikon.core.rules.causes.level import kind_with_readings, passes, reading_of
from dromikon.core.rules.controls import Choice, Name, Number, Pick
from dromikon.core.rules.parts import Phrase, Ref, seconds, told
from dromikon.core.rules.selection import Selection
from dromikon.core.words import t

SIDE, WAITING = "side", "apart"


class ApartCause(Cause):
    """Fires once when one reading is at least `value` above another (`above`), or either above the other (`apart`), and that stays so for
    `held` seconds; again only after they have come closer by `hysteresis`. The first two readings ever only say how things stand, and one
    that is older than the other by more than `fresh` seconds is compared no more."""

    label: ClassVar[str] = "Two readings apart"
    speaks_of: ClassVar[str] = "kind"
    cause: Literal["apart"] = "apart"
    kind: Annotated[str, Name("Which reading", of="kind", only="readings", bare=True)] = "scene.temperature"
    field: Annotated[str, Name("Field", of="field", only="number", bare=True)] = "value"
    first: Annotated[Ref, Pick("Of", of="point", bare=True)]
    way: Annotated[
        Literal["above", "apart"], Choice("How", bare=True, words={"above": "is above", "apart": "is away from"})
    ] = "above"
    second: Annotated[Ref, Pick("that of", of="point", bare=True)]
    value: Annotated[float, Number("by at least", start=10)] = Field(gt=0)
    hysteresis: Annotated[float, Number("back by", hint="How far it must come back before it counts again")] = Field(
        default=0, ge=0
    )
    held: Annotated[float, Number("for at least", unit="s")] = Field(default=0, ge=0, le=86_400)
    fresh: Annotated[float, Number("readings no further apart than", unit="s")] = Field(default=600, ge=1, le=86_400)

    @field_validator("kind")
    @classmethod
    def _reads(cls, value: str) -> str:
        return kind_with_readings(value)

    @model_validator(mode="after")
    def _two(self) -> "ApartCause":
        if self.first.id == self.second.id:
            raise ValueError(t("choose two different points"))
        if self.hysteresis > self.value:
            raise ValueError(t("it cannot come back by more than it has to be apart"))
        return self

    def selections(self) -> tuple[tuple[str, str, Selection], ...]:
        return ()

    def triggers(self, facts: Facts) -> Iterator[tuple[str, str]]:
        known = (ref.id for ref in (self.first, self.second) if ref.id in facts.point_by_id)
        yield from ((self.kind, point) for point in known)

    def named(self) -> list[tuple[str, str, Ref]]:
        return [("first", "point", self.first), ("second", "point", self.second)]

    def on_event(self, event: Event, memory: Memory) -> Answer | None:
        reading = reading_of(event, self.field)
        if reading is None:
            return None
        memory[f"reading|{event.point}"] = {"value": reading, "at": event.at}
        one, other = (memory.get(f"reading|{ref.id}") for ref in (self.first, self.second))
        if one is None or other is None or abs(one["at"] - other["at"]) > self.fresh * 1000:
            return None
        row = memory.get(SIDE)
        beyond = self._beyond(one["value"] - other["value"], bool(row and row["beyond"]))
        memory[SIDE] = {"beyond": beyond}
        if row is None or beyond == row["beyond"]:
            return None
        return passes(memory, WAITING, beyond, self.held, event)

    def _beyond(self, difference: float, was: bool) -> bool:
        """At the limit it is beyond, and without a hysteresis it comes back only below it."""
        apart = abs(difference) if self.way == "apart" else difference
        return apart > self.value - self.hysteresis if was and self.hysteresis else apart >= self.value

    def on_due(self, key: str, memory: Memory) -> list[dict[str, Any]]:
        return [memory.pop(key)["event"]]

    def phrases(self, facts: Facts) -> list[Phrase]:
        known = KINDS[self.kind].field(self.field)
        unit = f" {known.unit}" if known and known.unit else ""
        first, second = (
            Phrase(facts.name_of("point", ref.id) or ref.name or ref.id, f"cause.{path}", name=True)
            for path, ref in (("first", self.first), ("second", self.second))
        )
        held = t(" for {time}", time=seconds(self.held)) if self.held else ""
        value = Phrase(f"{self.value:g}{unit}", "cause", name=True)
        if self.way == "apart":
            words = told("{first} and {second} are {value} apart", "cause", first=first, second=second, value=value)
        else:
            words = told("{first} is {value} above {second}", "cause", first=first, second=second, value=value)
        return [*words, Phrase(held, "cause")] if held else words

    def event_kind(self) -> str:
        return self.kind

    @property
    def reach(self) -> float:
        return max(self.held, self.fresh)

    @property
    def waits(self) -> float:
        return self.held

    @property
    def waits_by(self) -> str:
        return "held"

    @property
    def ends(self) -> bool:
        return True
