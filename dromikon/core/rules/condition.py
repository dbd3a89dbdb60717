"""What a condition is: a node of the tree under *provided*."""

from collections.abc import Callable
from typing import Any, ClassVar, Protocol

from dromikon.core.events import Event
from dromikon.core.facts import Facts
from dromikon.core.instants import Instant
from dromikon.core.rules.parts import Part, Phrase, Ref

#: What was seen at one leaf: path in the document, whether it held, the value.
Seen = tuple[str, bool, Any]
#: Tests an event. Given a list it looks at every leaf and notes what it saw; given None it may stop at the first no.
Test = Callable[[Event, list[Seen] | None], bool]
#: A kind at a point, whose events must be known for a condition to be decided.
Pair = tuple[str, str]


class World(Protocol):
    """What is known besides the event itself."""

    facts: Facts

    def told_state(self, kind: str, point: str) -> bool | None:
        """The last told state of a point; None when it was never told."""
        ...

    #: The journal time at which something is being decided.
    now: Instant

    def last_time(self, kind: str, point: str) -> Instant | None:
        """When an event of a kind last began or happened at a point before what is being decided, the events that make
        up the cause left out; by journal time."""
        ...

    def mode(self) -> str:
        """The site's operating state; empty when it has none."""
        ...

    def counter(self, id: str) -> int:
        """Where a counter stands."""
        ...


class Condition(Part):
    """A node of the tree. `compile` gives a function that tests an event and notes what it saw."""

    label: ClassVar[str]

    def compile(self, path: str, world: World) -> Test:
        raise NotImplementedError

    def phrases(self, facts: Facts, kind: str, path: str) -> list[Phrase]:
        raise NotImplementedError

    def leaves(self, path: str) -> "list[tuple[str, Condition]]":
        """All leaves with their paths."""
        return [(path, self)]

    def explained(self, facts: Facts, kind: str, value: Any) -> tuple[str, str, str]:
        """For a leaf of a trace: what it is about, what was seen, what was wanted."""
        raise NotImplementedError

    def named(self) -> list[tuple[str, str, Ref]]:
        """Every reference of this leaf, as (path below it, what it names, reference)."""
        return []

    def concerns(self, points: set[str]) -> set[Pair]:
        """What the condition must be told of besides the cause, whose events come from `points`."""
        return set()
