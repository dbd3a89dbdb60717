"""Cause: a reading passes a value, leaves a band, or changes too fast."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field, field_validator, model_validator

from dromikon.core.events import Event, Phase
from dromikon.core.facts import Facts
from dromikon.core.kinds import KINDS
from dromikon.core.rules.causes.base import FIRES, Answer, Cause, EventsOnly, Memory
from dromikon.core.rules.causes.event import known_kind
from dromikon.core.rules.condition import World
from dromikon.core.rules.controls import Choice, Inner, Name, Number, When
from dromikon.core.rules.parts import Phrase, seconds
from dromikon.core.rules.selection import Selection
from dromikon.core.stored import event_to_json
from dromikon.core.words import t


class LevelCause(Cause):
    """Fires once when a reading goes beyond a limit and stays there for `held` seconds; again only after it has come
    back by `hysteresis`. The first reading ever only says on which side things stand.

    `way`: `up` past `value`, `down` past `value`, `out` of the band from `low` to `value`, or `rate`: a change of at
    least `value` per minute since the reading before.
    """

    label: ClassVar[str] = "A level"
    speaks_of: ClassVar[str] = "kind"
    cause: Literal["level"] = "level"
    kind: Annotated[str, Name("Which reading", of="kind", only="readings", bare=True)] = "sensor.reading"
    field: Annotated[str, Name("Field", of="field", only="number", bare=True)] = "value"
    way: Annotated[
        Literal["up", "down", "out", "rate"],
        Choice(
            "How",
            bare=True,
            words={
                "up": "rises past",
                "down": "falls past",
                "out": "leaves the band",
                "rate": "changes in a minute by",
            },
        ),
    ]
    value: Annotated[float, Number("to", start=20, bare=True)]
    low: Annotated[float | None, Number("from", start=10, when=When("way", ("out",)))] = None
    hysteresis: Annotated[float, Number("back by", hint="How far it must come back before it counts again")] = Field(
        default=0, ge=0
    )
    held: Annotated[float, Number("for at least", unit="s")] = Field(default=0, ge=0, le=86_400)
    where: Annotated[Selection, Inner("Where", bare=True)]

    @field_validator("kind")
    @classmethod
    def _reads(cls, value: str) -> str:
        return kind_with_readings(value)

    @model_validator(mode="after")
    def _band(self) -> "LevelCause":
        if (self.way == "out") != (self.low is not None) or (self.low is not None and self.low >= self.value):
            raise ValueError(t("a band has a low below its value; the other ways have none"))
        return self

    def selections(self) -> tuple[tuple[str, str, Selection], ...]:
        return (("where", self.kind, self.where),)

    def watcher(self, facts: Facts, world: World) -> "LevelWatcher":
        return LevelWatcher(self)

    def phrases(self, facts: Facts) -> list[Phrase]:
        known = KINDS[self.kind].field(self.field)
        unit = f" {known.unit}" if known and known.unit else ""
        value, low = f"{self.value:g}{unit}", f"{self.low or 0:g}{unit}"
        limit = {
            "up": t(" rises to {value}", value=value),
            "down": t(" falls to {value}", value=value),
            "out": t(" leaves {low} to {value}", low=low.removesuffix(unit), value=value),
            "rate": t(" changes by {value} a minute", value=value),
        }[self.way]
        held = t(" for {time}", time=seconds(self.held)) if self.held else ""
        return [*self.where.phrases(facts, "cause"), Phrase(limit + held, "cause", name=True)]

    def event_kind(self) -> str:
        return self.kind

    @property
    def waits(self) -> float:
        return self.held

    @property
    def waits_by(self) -> str:
        return "held"

    @property
    def ends(self) -> bool:
        return True


def kind_with_readings(kind: str) -> str:
    """A kind of which there are readings. Raises ValueError."""
    if Phase.READING not in KINDS[known_kind(kind)].phases:
        raise ValueError(t("{value} has no readings", value=kind))
    return kind


def reading_of(event: Event, field: str) -> float | None:
    """What an event has read; None where that is no number."""
    reading = event.fields.get(field)
    return None if isinstance(reading, bool) or not isinstance(reading, int | float) else float(reading)


def passes(memory: Memory, waiting: str, beyond: bool, held: float, event: Event) -> Answer:
    """What it means that something has just gone beyond a limit, or come back, when it has to stay there for `held` seconds; `waiting`
    is the key of the row that waits for that."""
    if not beyond:
        left = memory.pop(waiting, None)
        return Answer(called_off=(left["event"]["seq"],) if left else (), ended=True)
    if not held:
        return FIRES
    due = event.at + round(held * 1000)
    memory[waiting] = {"due": due, "event": event_to_json(event)}
    return Answer(due=due)


@dataclass(frozen=True, slots=True)
class LevelWatcher(EventsOnly):
    """Two rows for each point: which side it is on, and, while it must be held, since when."""

    cause: LevelCause

    def on_event(self, event: Event, memory: Memory) -> Answer | None:
        reading = reading_of(event, self.cause.field)
        if reading is None:
            return None
        side, waiting = f"side|{event.point}", f"level|{event.point}"
        row = memory.get(side)
        beyond = self._beyond(reading, event.at, row)
        memory[side] = {"beyond": beyond, "value": reading, "at": event.at}
        if row is None or beyond == row["beyond"]:
            return None
        return passes(memory, waiting, beyond, self.cause.held, event)

    def _beyond(self, value: float, at: int, row: Mapping[str, Any] | None) -> bool:
        cause, was = self.cause, bool(row and row["beyond"])
        back = cause.hysteresis if was else 0.0
        # At the limit it is past, and without a hysteresis it comes back only beyond it.
        if cause.way == "up":
            return value > cause.value - back if back else value >= cause.value
        if cause.way == "down":
            return value < cause.value + back if back else value <= cause.value
        if cause.way == "out":
            low = cause.low if cause.low is not None else cause.value
            return value < low + back or value > cause.value - back
        if row is None or at <= row["at"]:
            return was
        return bool(abs(value - row["value"]) / ((at - row["at"]) / 60_000) >= cause.value - back)

    def on_due(self, key: str, memory: Memory) -> list[dict[str, Any]]:
        return [memory.pop(key)["event"]]
