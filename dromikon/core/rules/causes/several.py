"""Causes over several events: together, in order, missing, repeated.

Memory is one row for each join key, woken and forgotten when its window is over.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any, ClassVar, Literal

from pydantic import Field

from dromikon.core.events import Event
from dromikon.core.facts import Facts
from dromikon.core.rules.causes.base import FIRES, Answer, Cause, EventsOnly, Memory
from dromikon.core.rules.causes.pattern import Join, Joined, Pattern
from dromikon.core.rules.condition import Condition, Pair, World
from dromikon.core.rules.parts import Phrase, listed, seconds
from dromikon.core.rules.selection import Selection
from dromikon.core.stored import event_to_json


def _ms(span: float) -> int:
    return round(span * 1000)


class SeveralCause(Cause):
    """What the four have in common."""

    within: float = Field(gt=0, le=86_400)
    join: Join = Join()

    def patterns(self) -> tuple[tuple[str, Pattern], ...]:
        """The patterns with their paths below the cause."""
        raise NotImplementedError

    def selections(self) -> tuple[tuple[str, str, Selection], ...]:
        return tuple((f"{path}.where", p.kind, p.where) for path, p in self.patterns())

    def joined(self, facts: Facts, world: World) -> Joined:
        return Joined(tuple(p.test(facts, world) for _, p in self.patterns()), self.join.key(facts))

    def looks_at(self, facts: Facts) -> set[Pair]:
        return set().union(*(p.looks_at(facts) for _, p in self.patterns()))

    def conditions(self) -> list[tuple[str, str, Condition]]:
        return [(f"{path}.provided", p.kind, p.provided) for path, p in self.patterns() if p.provided is not None]

    def event_kind(self) -> str:
        return self.patterns()[-1][1].kind

    @property
    def reach(self) -> float:
        return self.within


class OfCause(SeveralCause):
    """Several patterns of equal standing."""

    of: tuple[Pattern, ...] = Field(min_length=2, max_length=8)

    def patterns(self) -> tuple[tuple[str, Pattern], ...]:
        return tuple((f"of.{i}", p) for i, p in enumerate(self.of))


@dataclass(frozen=True, slots=True)
class JoinedWatcher(EventsOnly):
    """What the four ask first: which patterns an event is of, and what joins it to others. `within` in ms."""

    joined: Joined
    within: int

    def on_event(self, event: Event, memory: Memory) -> Answer | None:
        places, join = self.joined.places(event), self.joined.key(event)
        return self.look(event, places, join, memory) if places and join is not None else None

    def look(self, event: Event, places: list[int], join: str, memory: Memory) -> Answer | None:
        """Look at an event of the patterns at `places` that belongs to `join`."""
        raise NotImplementedError


@dataclass(frozen=True, slots=True)
class Forgets(JoinedWatcher):
    """A watcher whose rows are only windows: when one is over, it is forgotten."""

    def on_due(self, key: str, memory: Memory) -> dict[str, Any] | None:
        memory.pop(key, None)
        return None


class TogetherCause(OfCause):
    """Fires when all patterns have been seen within `within` seconds, in any order."""

    label: ClassVar[str] = "Several together"
    cause: Literal["together"] = "together"

    def watcher(self, facts: Facts, world: World) -> "TogetherWatcher":
        return TogetherWatcher(self.joined(facts, world), _ms(self.within))

    def phrases(self, facts: Facts) -> list[Phrase]:
        both = listed([p.phrases(facts) for p in self.of])
        return [*both, Phrase(f" within {seconds(self.within)}{self.join.words()}", "cause")]


@dataclass(frozen=True, slots=True)
class TogetherWatcher(Forgets):
    def look(self, event: Event, places: list[int], join: str, memory: Memory) -> Answer | None:
        key = f"together|{join}"
        seen = {i: at for i, at in memory.get(key, {}).get("seen", {}).items() if at > event.at - self.within}
        seen.update({str(i): event.at for i in places})
        if len(seen) == len(self.joined.tests):
            memory.pop(key, None)
            return FIRES
        due = event.at + self.within
        memory.remember(key, {"seen": seen, "due": due})
        return Answer(due=due)


class OrderCause(OfCause):
    """Fires when the patterns come one after the other, the last within `within` seconds of the first."""

    label: ClassVar[str] = "In order"
    cause: Literal["order"] = "order"

    def watcher(self, facts: Facts, world: World) -> "OrderWatcher":
        return OrderWatcher(self.joined(facts, world), _ms(self.within))

    def phrases(self, facts: Facts) -> list[Phrase]:
        words = self.of[0].phrases(facts)
        for pattern in self.of[1:]:
            words += [Phrase(", then ", "cause"), *pattern.phrases(facts)]
        return [*words, Phrase(f" within {seconds(self.within)}{self.join.words()}", "cause")]


@dataclass(frozen=True, slots=True)
class OrderWatcher(Forgets):
    def look(self, event: Event, places: list[int], join: str, memory: Memory) -> Answer | None:
        key = f"order|{join}"
        row = memory.get(key)
        reached = row["reached"] if row and row["due"] >= event.at else 0
        if reached in places and reached:
            if reached == len(self.joined.tests) - 1:
                memory.pop(key, None)
                return FIRES
            memory.remember(key, {"reached": reached + 1, "due": row["due"] if row else event.at})
            return Answer(due=row["due"] if row else None)
        if 0 in places:
            due = event.at + self.within
            memory.remember(key, {"reached": 1, "due": due})
            return Answer(due=due)
        return None


class MissingCause(SeveralCause):
    """Fires when `first` is not followed by `then` within `within` seconds."""

    label: ClassVar[str] = "Missing"
    cause: Literal["missing"] = "missing"
    first: Pattern
    then: Pattern

    def patterns(self) -> tuple[tuple[str, Pattern], ...]:
        return (("then", self.then), ("first", self.first))

    def watcher(self, facts: Facts, world: World) -> "MissingWatcher":
        return MissingWatcher(self.joined(facts, world), _ms(self.within))

    def phrases(self, facts: Facts) -> list[Phrase]:
        return [
            *self.first.phrases(facts),
            Phrase(" and not within ", "cause"),
            Phrase(seconds(self.within), "cause", name=True),
            Phrase(f"{self.join.words()} ", "cause"),
            *self.then.phrases(facts),
        ]

    @property
    def waits(self) -> float:
        return self.within


@dataclass(frozen=True, slots=True)
class MissingWatcher(JoinedWatcher):
    def look(self, event: Event, places: list[int], join: str, memory: Memory) -> Answer | None:
        key = f"missing|{join}"
        if 0 in places and key in memory:
            return Answer(called_off=memory.pop(key)["event"]["seq"])
        if 1 not in places or key in memory:
            return None
        due = event.at + self.within
        memory.remember(key, {"due": due, "event": event_to_json(event)})
        return Answer(due=due)

    def on_due(self, key: str, memory: Memory) -> dict[str, Any] | None:
        event: dict[str, Any] = memory.pop(key)["event"]
        return event


class RepeatedCause(SeveralCause):
    """Fires when the pattern has come `times` times within `within` seconds, then counts anew."""

    label: ClassVar[str] = "Repeated"
    cause: Literal["repeated"] = "repeated"
    what: Pattern
    times: int = Field(ge=2, le=1000)

    def patterns(self) -> tuple[tuple[str, Pattern], ...]:
        return (("what", self.what),)

    def watcher(self, facts: Facts, world: World) -> "RepeatedWatcher":
        return RepeatedWatcher(self.joined(facts, world), _ms(self.within), self.times)

    def phrases(self, facts: Facts) -> list[Phrase]:
        return [
            *self.what.phrases(facts),
            Phrase(f" {self.times} times", "cause", name=True),
            Phrase(f" within {seconds(self.within)}{self.join.words()}", "cause"),
        ]


@dataclass(frozen=True, slots=True)
class RepeatedWatcher(Forgets):
    times: int

    def look(self, event: Event, places: list[int], join: str, memory: Memory) -> Answer | None:
        key = f"repeated|{join}"
        before: Iterable[int] = memory.get(key, {}).get("at", ())
        moments = [at for at in before if at > event.at - self.within] + [event.at]
        if len(moments) >= self.times:
            memory.pop(key, None)
            return FIRES
        due = event.at + self.within
        memory.remember(key, {"at": moments, "due": due})
        return Answer(due=due)
