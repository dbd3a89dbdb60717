"""Causes over several events: together, in order, missing, repeated.

Memory is one row for each join key, woken and forgotten when its window is over.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from dromikon.core.events import Event
from dromikon.core.facts import Facts
from dromikon.core.rules.causes.base import Answer, Cause, EventsOnly, Memory
from dromikon.core.rules.causes.pattern import Join, Joined, Pattern
from dromikon.core.rules.condition import Condition, Pair, World
from dromikon.core.rules.controls import Inner, Number
from dromikon.core.rules.parts import Phrase, enumerated, seconds, told
from dromikon.core.rules.selection import Selection
from dromikon.core.stored import event_to_json
from dromikon.core.words import N_, t

#: So many events of one join key wait for themselves in *missing*; beyond that the oldest is forgotten.
MOST_WAITS = 1_000


def _ms(span: float) -> int:
    return round(span * 1000)


class SeveralCause(Cause):
    """What the four have in common."""

    within: Annotated[float, Number("within", unit="s", start=30)] = Field(gt=0, le=86_400)
    join: Annotated[Join, Inner("Belong together", bare=True)] = Join()

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

    def within_words(self, message: str, **values: str | Phrase | list[Phrase]) -> list[Phrase]:
        """A message with the places {time} and {joined} besides."""
        time, joined = Phrase(seconds(self.within), "cause"), Phrase(self.join.words(), "cause")
        return told(message, "cause", time=time, joined=joined, **values)

    def event_kind(self) -> str:
        return self.patterns()[-1][1].kind

    @property
    def reach(self) -> float:
        return self.within


class OfCause(SeveralCause):
    """Several patterns of equal standing."""

    speaks_of: ClassVar[str] = "of.-1"

    of: Annotated[tuple[Pattern, ...], Inner("Events")] = Field(min_length=2, max_length=8)

    def patterns(self) -> tuple[tuple[str, Pattern], ...]:
        return tuple((f"of.{i}", p) for i, p in enumerate(self.of))

    @property
    def size(self) -> int:
        return len(self.of)


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

    def on_due(self, key: str, memory: Memory) -> list[dict[str, Any]]:
        memory.pop(key, None)
        return []


class TogetherCause(OfCause):
    """Fires when all patterns have been seen within `within` seconds, in any order."""

    label: ClassVar[str] = "Several together"
    cause: Literal["together"] = "together"

    def watcher(self, facts: Facts, world: World) -> "TogetherWatcher":
        return TogetherWatcher(self.joined(facts, world), _ms(self.within))

    def phrases(self, facts: Facts) -> list[Phrase]:
        events = list(enumerated([p.phrases(facts) for p in self.of]))
        return self.within_words("{events} within {time}{joined}", events=events)


@dataclass(frozen=True, slots=True)
class TogetherWatcher(Forgets):
    def look(self, event: Event, places: list[int], join: str, memory: Memory) -> Answer | None:
        key = f"together|{join}"
        before = memory.get(key, {}).get("seen", {})
        seen = {i: [at, seq] for i, (at, seq) in before.items() if at > event.at - self.within}
        seen.update({str(i): [event.at, event.seq] for i in places})
        if len(seen) == len(self.joined.tests):
            memory.pop(key, None)
            return Answer(fires=True, made_of=tuple(sorted({seq for _, seq in seen.values()})))
        due = event.at + self.within
        memory.remember(key, {"seen": seen, "due": due})
        return Answer(due=due)


class OrderCause(OfCause):
    """Fires when the patterns come one after the other, the last within `within` seconds of the first. What comes in
    between, another first one too, is not in the way."""

    label: ClassVar[str] = "In order"
    cause: Literal["order"] = "order"

    def watcher(self, facts: Facts, world: World) -> "OrderWatcher":
        return OrderWatcher(self.joined(facts, world), _ms(self.within))

    def phrases(self, facts: Facts) -> list[Phrase]:
        events = self.of[0].phrases(facts)
        for pattern in self.of[1:]:
            events = told("{first}, then {next}", "cause", first=events, next=pattern.phrases(facts))
        return self.within_words("{events} within {time}{joined}", events=events)


@dataclass(frozen=True, slots=True)
class OrderWatcher(Forgets):
    def look(self, event: Event, places: list[int], join: str, memory: Memory) -> Answer | None:
        key, last = f"order|{join}", len(self.joined.tests)
        # For each number of patterns reached: when the latest such chain began, and its events. A later beginning can
        # always still do what an earlier one can, so nothing that has come is ever in the way.
        before = memory.get(key, {}).get("chains", {})
        chains = {n: chain for n, chain in before.items() if chain[0] > event.at - self.within}
        for place in sorted(places, reverse=True):
            if place == 0:
                chains["1"] = [event.at, event.seq]
            elif (known := chains.get(str(place))) is not None:
                if place + 1 == last:
                    memory.pop(key, None)
                    return Answer(fires=True, made_of=(*known[1:], event.seq))
                chains[str(place + 1)] = [*known, event.seq]
        if not chains:
            memory.pop(key, None)
            return None
        due = max(chain[0] for chain in chains.values()) + self.within
        memory.remember(key, {"chains": chains, "due": due})
        return Answer(due=due)


class MissingCause(SeveralCause):
    """Fires when `first` is not followed by `then` within `within` seconds. Every `first` waits for itself; one `then`
    calls off all that wait. An event that is both (a heartbeat) calls off the wait and begins the next."""

    label: ClassVar[str] = "Missing"
    speaks_of: ClassVar[str] = "then"
    cause: Literal["missing"] = "missing"
    first: Annotated[Pattern, Inner("First")]
    then: Annotated[Pattern, Inner("and not")]

    def patterns(self) -> tuple[tuple[str, Pattern], ...]:
        return (("then", self.then), ("first", self.first))

    def watcher(self, facts: Facts, world: World) -> "MissingWatcher":
        return MissingWatcher(self.joined(facts, world), _ms(self.within))

    def phrases(self, facts: Facts) -> list[Phrase]:
        first, then = self.first.phrases(facts), self.then.phrases(facts)
        time, joined = seconds(self.within), Phrase(self.join.words(), "cause")
        message = N_("{first} and not within {time}{joined} {then}")
        return told(message, "cause", first=first, then=then, time=time, joined=joined)

    @property
    def waits(self) -> float:
        return self.within

    @property
    def waits_by(self) -> str:
        return "within"


@dataclass(frozen=True, slots=True)
class MissingWatcher(JoinedWatcher):
    """One row for each join key: every `first` that waits, with the moment at which it has waited long enough."""

    def look(self, event: Event, places: list[int], join: str, memory: Memory) -> Answer | None:
        key = f"missing|{join}"
        waits = memory.get(key, {}).get("waits", [])
        called_off: tuple[int, ...] = ()
        if 0 in places:
            called_off = tuple(waiting["seq"] for _, waiting in waits)
            waits = []
        due = None
        if 1 in places:
            due = event.at + self.within
            waits = [*waits, [due, event_to_json(event)]][-MOST_WAITS:]
        self._keep(key, waits, memory)
        return Answer(due=due, called_off=called_off) if called_off or due is not None else None

    def on_due(self, key: str, memory: Memory) -> list[dict[str, Any]]:
        row = memory[key]
        now, waits = row["due"], row["waits"]
        self._keep(key, [w for w in waits if w[0] > now], memory)
        return [event for due, event in waits if due <= now]

    def _keep(self, key: str, waits: list[list[Any]], memory: Memory) -> None:
        if waits:
            memory.remember(key, {"waits": waits, "due": min(due for due, _ in waits)})
        else:
            memory.pop(key, None)


class RepeatedCause(SeveralCause):
    """Fires when the pattern has come `times` times within `within` seconds, then counts anew."""

    label: ClassVar[str] = "Repeated"
    speaks_of: ClassVar[str] = "what"
    cause: Literal["repeated"] = "repeated"
    what: Annotated[Pattern, Inner("What")]
    times: Annotated[int, Number("times", start=3)] = Field(ge=2, le=1000)

    def patterns(self) -> tuple[tuple[str, Pattern], ...]:
        return (("what", self.what),)

    @property
    def size(self) -> int:
        return self.times

    def watcher(self, facts: Facts, world: World) -> "RepeatedWatcher":
        return RepeatedWatcher(self.joined(facts, world), _ms(self.within), self.times)

    def phrases(self, facts: Facts) -> list[Phrase]:
        times = t("{count} times", count=self.times)
        return self.within_words("{events} {times} within {time}{joined}", events=self.what.phrases(facts), times=times)


@dataclass(frozen=True, slots=True)
class RepeatedWatcher(Forgets):
    times: int

    def look(self, event: Event, places: list[int], join: str, memory: Memory) -> Answer | None:
        key = f"repeated|{join}"
        before: Iterable[list[int]] = memory.get(key, {}).get("came", ())
        came = [one for one in before if one[0] > event.at - self.within] + [[event.at, event.seq]]
        if len(came) >= self.times:
            memory.pop(key, None)
            return Answer(fires=True, made_of=tuple(seq for _, seq in came))
        due = event.at + self.within
        memory.remember(key, {"came": came, "due": due})
        return Answer(due=due)
