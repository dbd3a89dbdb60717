"""What a cause is. One more cause is one file here and one line in `__init__`."""

from collections.abc import Iterator, MutableMapping
from dataclasses import dataclass
from typing import Any, ClassVar

from dromikon.core.events import Event
from dromikon.core.facts import Facts
from dromikon.core.instants import Instant
from dromikon.core.rules.parts import Part, Phrase
from dromikon.core.rules.selection import Selection

#: A rule's own memory: JSON rows by join key. A row with "due" (an Instant) is handed to `on_due` at that moment.
Memory = MutableMapping[str, dict[str, Any]]


@dataclass(frozen=True, slots=True)
class Answer:
    """What a cause says to an event: it `fires`, or waits until `due`, or stops waiting (`called_off`)."""

    fires: bool = False
    due: Instant | None = None
    called_off: int | None = None


FIRES = Answer(fires=True)


class Cause(Part):
    """A document part that says what starts a rule, and decides it from one event at a time."""

    label: ClassVar[str]
    where: Selection

    def triggers(self, facts: Facts) -> Iterator[tuple[str, str]]:
        """The (kind, point) pairs this cause must be shown: the index key."""
        raise NotImplementedError

    def on_event(self, event: Event, memory: Memory) -> Answer | None:
        """Look at one indexed event. None: it is not of this cause, and no verdict is due."""
        raise NotImplementedError

    def on_due(self, key: str, memory: Memory) -> dict[str, Any] | None:
        """A row has come due: the event (as stored) that now fires, or None."""
        return None

    def phrases(self, facts: Facts) -> list[Phrase]:
        """The cause in words, to read on from "When "."""
        raise NotImplementedError

    def event_kind(self) -> str:
        """The kind whose fields conditions and texts may use."""
        raise NotImplementedError

    @property
    def waits(self) -> float:
        """Seconds this cause itself lets pass before it fires."""
        return 0.0

    @property
    def ends(self) -> bool:
        """Whether what it reports is a state that ends, so that end steps and holds have a moment to go by."""
        return False
