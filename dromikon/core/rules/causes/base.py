"""What a cause is. One more cause is one file here and one line in `__init__`."""

from collections.abc import Iterator, Mapping, MutableMapping
from dataclasses import dataclass
from typing import Any, ClassVar, Protocol

from dromikon.core.events import Event
from dromikon.core.facts import Facts
from dromikon.core.instants import Instant
from dromikon.core.kinds import KINDS
from dromikon.core.rules.condition import Condition, Pair, World
from dromikon.core.rules.parts import Part, Phrase, Ref
from dromikon.core.rules.selection import Selection


class Memory(MutableMapping[str, Mapping[str, Any]]):
    """A rule's own memory: JSON rows by join key. A row with "due" (an Instant) is handed to `on_due` at that moment."""

    def remember(self, key: str, row: Mapping[str, Any]) -> None:
        """Keep a row of one of many subjects; when there are too many, the oldest is forgotten, and counted."""
        raise NotImplementedError


@dataclass(frozen=True, slots=True)
class Answer:
    """What a cause says to an event: it `fires`, waits until `due`, or stops waiting (`called_off`: the places of the
    events that are no longer waited on); several at once, too. `made_of`: the places of the events that make up what
    fires; empty for the event alone. `ended`: what it reported before is over."""

    fires: bool = False
    due: Instant | None = None
    called_off: tuple[int, ...] = ()
    ended: bool = False
    made_of: tuple[int, ...] = ()


FIRES = Answer(fires=True)


class Watcher(Protocol):
    """A cause made ready for one site: it is shown the events it asked for, and decides."""

    def on_event(self, event: Event, memory: Memory) -> Answer | None:
        """Look at one indexed event. None: it is not of this cause, and no verdict is due."""
        ...

    def on_due(self, key: str, memory: Memory) -> list[dict[str, Any]]:
        """A row has come due: the events (as stored) that now fire, in their order."""
        ...

    def next_after(self, at: Instant) -> Instant | None:
        """When the clock alone makes it fire next after an instant; None when it waits for events."""
        ...


class EventsOnly:
    """A watcher that no clock sets off."""

    __slots__ = ()

    def next_after(self, at: Instant) -> Instant | None:
        return None


class Cause(Part):
    """A document part that says what starts a rule. A simple cause is its own watcher."""

    label: ClassVar[str]

    def watcher(self, facts: Facts, world: World) -> Watcher:
        """The cause made ready for a site."""
        return self

    def selections(self) -> tuple[tuple[str, str, Selection], ...]:
        """Every selection inside, as (path below the cause, the kind chosen from, selection)."""
        raise NotImplementedError

    def triggers(self, facts: Facts) -> Iterator[tuple[str, str]]:
        """The (kind, point) pairs this cause must be shown: the index key."""
        for _, kind, where in self.selections():
            for point in where.resolve(facts, KINDS[kind].point_kinds):
                yield kind, point
            if KINDS[kind].of_site and where.everywhere:
                yield kind, ""

    def on_event(self, event: Event, memory: Memory) -> Answer | None:
        raise NotImplementedError

    def on_due(self, key: str, memory: Memory) -> list[dict[str, Any]]:
        return []

    def next_after(self, at: Instant) -> Instant | None:
        return None

    def named(self) -> list[tuple[str, str, Ref]]:
        """Every reference besides selections, as (path below the cause, what it names, reference)."""
        return []

    def conditions(self) -> list[tuple[str, str, Condition]]:
        """The conditions inside, as (path below the cause, the kind they are about, tree)."""
        return []

    def looks_at(self, facts: Facts) -> set[Pair]:
        """What conditions inside the cause look at besides the events it is shown."""
        return set()

    def phrases(self, facts: Facts) -> list[Phrase]:
        """The cause in words, to read on from "When "."""
        raise NotImplementedError

    def event_kind(self) -> str:
        """The kind whose fields conditions and texts may use."""
        raise NotImplementedError

    @property
    def reach(self) -> float:
        """How far back what it remembers can lie, in seconds."""
        return self.waits

    @property
    def size(self) -> int:
        """How many events can make up one firing, at most."""
        return 1

    @property
    def waits(self) -> float:
        """Seconds this cause itself lets pass before it fires."""
        return 0.0

    @property
    def waits_by(self) -> str:
        """Which of its numbers says so; empty for none."""
        return ""

    @property
    def ends(self) -> bool:
        """Whether what it reports is a state that ends, so that end steps and holds have a moment to go by."""
        return False
