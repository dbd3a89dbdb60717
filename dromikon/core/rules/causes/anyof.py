"""Cause: one of several causes."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

from pydantic import Field

from dromikon.core.events import Event
from dromikon.core.facts import Facts
from dromikon.core.instants import Instant
from dromikon.core.rules.causes.base import Answer, Cause, Memory, Watcher
from dromikon.core.rules.condition import Condition, Pair, World
from dromikon.core.rules.controls import Nodes
from dromikon.core.rules.parts import Phrase, Ref, enumerated
from dromikon.core.rules.selection import Selection

if TYPE_CHECKING:
    AnyCause = Cause


class AnyOfCause(Cause):
    """Fires whenever one of its causes does. Each keeps a memory of its own."""

    label: ClassVar[str] = "Any of"
    speaks_of: ClassVar[str] = "of.0"
    cause: Literal["any"] = "any"
    of: Annotated["tuple[AnyCause, ...]", Nodes("Causes", of="cause", bare=True)] = Field(min_length=2, max_length=8)

    def selections(self) -> tuple[tuple[str, str, Selection], ...]:
        return tuple(
            (f"of.{i}.{path}", kind, where) for i, c in enumerate(self.of) for path, kind, where in c.selections()
        )

    def watcher(self, facts: Facts, world: World) -> "AnyOfWatcher":
        points = tuple(frozenset(c.triggers(facts)) for c in self.of)
        return AnyOfWatcher(tuple(c.watcher(facts, world) for c in self.of), points)

    def phrases(self, facts: Facts) -> list[Phrase]:
        return list(enumerated([c.phrases(facts) for c in self.of], "or"))

    def named(self) -> list[tuple[str, str, Ref]]:
        return [(f"of.{i}.{path}", what, ref) for i, c in enumerate(self.of) for path, what, ref in c.named()]

    def conditions(self) -> list[tuple[str, str, Condition]]:
        return [(f"of.{i}.{path}", kind, tree) for i, c in enumerate(self.of) for path, kind, tree in c.conditions()]

    @property
    def reach(self) -> float:
        return max(c.reach for c in self.of)

    def looks_at(self, facts: Facts) -> set[Pair]:
        return set().union(*(c.looks_at(facts) for c in self.of))

    def event_kind(self) -> str:
        return self.of[0].event_kind()

    @property
    def size(self) -> int:
        return max(c.size for c in self.of)

    @property
    def waits(self) -> float:
        return max(c.waits for c in self.of)

    @property
    def ends(self) -> bool:
        return all(c.ends for c in self.of)


@dataclass(frozen=True, slots=True)
class AnyOfWatcher:
    watchers: tuple[Watcher, ...]
    shown: tuple[frozenset[tuple[str, str]], ...]

    def on_event(self, event: Event, memory: Memory) -> Answer | None:
        answers = []
        for i, watcher in enumerate(self.watchers):
            if (event.kind, event.point) in self.shown[i]:
                answer = watcher.on_event(event, Drawer(memory, i))
                if answer is not None:
                    answers.append(answer)
        return _merged(answers) if len(answers) > 1 else answers[0] if answers else None

    def on_due(self, key: str, memory: Memory) -> list[dict[str, Any]]:
        number, inner = key.split("|", 1)
        return self.watchers[int(number)].on_due(inner, Drawer(memory, int(number)))

    def next_after(self, at: Instant) -> Instant | None:
        moments = [moment for w in self.watchers if (moment := w.next_after(at)) is not None]
        return min(moments, default=None)


def _merged(answers: list[Answer]) -> Answer:
    """One answer of several causes to one event: it fires once, and nothing else that was said is lost."""
    firing = next((a for a in answers if a.fires), None)
    return Answer(
        fires=firing is not None,
        due=min((a.due for a in answers if a.due is not None), default=None),
        called_off=tuple(seq for a in answers for seq in a.called_off),
        ended=any(a.ended for a in answers),
        made_of=firing.made_of if firing is not None else (),
    )


class Drawer(Memory):
    """One cause's part of a rule's memory."""

    def __init__(self, memory: Memory, number: int) -> None:
        self._memory, self._prefix = memory, f"{number}|"

    def __getitem__(self, key: str) -> Mapping[str, Any]:
        return self._memory[self._prefix + key]

    def __setitem__(self, key: str, row: Mapping[str, Any]) -> None:
        self._memory[self._prefix + key] = row

    def __delitem__(self, key: str) -> None:
        del self._memory[self._prefix + key]

    def __iter__(self) -> Iterator[str]:
        return (k.removeprefix(self._prefix) for k in self._memory if k.startswith(self._prefix))

    def __len__(self) -> int:
        return sum(1 for _ in self)

    def remember(self, key: str, row: Mapping[str, Any]) -> None:
        self._memory.remember(self._prefix + key, row)
