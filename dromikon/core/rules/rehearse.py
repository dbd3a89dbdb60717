"""Rehearsal: rules run over the recorded journal, by the very code that runs live, without any action taken.

A rehearsal is fed events, operators' acts, changes of facts and ticks in their one order. It takes the journal's own
ticks for their places and adds those that a draft wants besides, each at exactly its moment, so that a live revision
makes the same runs again, down to their references.
"""

from collections import Counter
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from typing import Any

from dromikon.core.events import JournalEntry, Tick
from dromikon.core.facts import Facts, LiveRule
from dromikon.core.instants import Instant
from dromikon.core.rules.evaluate import Evaluator, Outcome, Run

#: A change of facts as journal input: when, and the facts from then on.
Change = tuple[Instant, Facts]
Entry = JournalEntry | Change

HOUR = 3_600_000
#: Progress is told about this often, in entries.
TELL_EVERY = 5_000


@dataclass(slots=True)
class Rehearsed:
    """What a rule would have done within a period."""

    runs: list[Run] = field(default_factory=list)
    considered: int = 0
    outcomes: Counter[str] = field(default_factory=Counter)
    #: How many events each part turned away, by its path in the document.
    turned_away: Counter[str] = field(default_factory=Counter)

    def by_hour(self) -> dict[Instant, int]:
        """Runs by the hour in which they happened."""
        return dict(sorted(Counter(r.zero // HOUR * HOUR for r in self.runs).items()))

    def by_point(self) -> dict[str, int]:
        return dict(Counter(r.point for r in self.runs).most_common())


@dataclass(frozen=True, slots=True)
class Compared:
    """The runs of a draft beside those of the live revision, matched by what set them off and where."""

    new: list[Run]
    gone: list[Run]
    same: list[Run]


def compare(draft: Rehearsed, live: Rehearsed) -> Compared:
    """Which runs are new, gone, and the same."""
    before, after = ({(r.event, r.point): r for r in found.runs} for found in (live, draft))
    return Compared(
        new=[r for key, r in after.items() if key not in before],
        gone=[r for key, r in before.items() if key not in after],
        same=[r for key, r in after.items() if key in before],
    )


class Stage:
    """One rule of one rehearsal: an evaluator that has only this rule, in facts as they were.

    `rule` None rehearses the rules that were live at each time; outside facts are always as recorded.
    """

    def __init__(self, rule: LiveRule | None, start: Instant, end: Instant, only: str | None = None) -> None:
        self.rule, self.only = rule, only
        self.start, self.end = start, end
        self.result = Rehearsed()
        self._evaluator: Evaluator | None = None
        self._extra = 0

    def take(self, entry: Entry) -> None:
        """One journal entry, in order."""
        if isinstance(entry, tuple):
            self._change(*entry)
        elif self._evaluator is not None:
            self._wake_until(entry)
            if not isinstance(entry, Tick):
                self._note(self._evaluator.apply(entry), entry.at)

    def finish(self) -> Rehearsed:
        """Let what is still due within the period come."""
        self._wake(self.end, None)
        return self.result

    def _change(self, at: Instant, facts: Facts) -> None:
        rules = (self.rule,) if self.rule else tuple(r for r in facts.rules if self.only in (None, r.id))
        staged = facts.model_copy(update={"rules": rules})
        if self._evaluator is None:
            self._evaluator = Evaluator(staged, orders=False)
            return
        self._wake(at, None)
        self._evaluator.replace(staged, at)

    def _wake_until(self, entry: JournalEntry) -> None:
        # The journal's tick stands where the live evaluator woke: its place gives runs their reference.
        self._wake(entry.at, entry.seq if isinstance(entry, Tick) else None)

    def _wake(self, until: Instant, seq: int | None) -> None:
        evaluator = self._evaluator
        while evaluator and (wake := evaluator.next_wake()) is not None and wake <= until:
            self._extra -= 1
            place = seq if seq is not None and wake == until else self._extra
            self._note(evaluator.apply(Tick(place, wake)), wake)

    def _note(self, outcome: Outcome, at: Instant) -> None:
        if not self.start <= at < self.end:
            return
        result = self.result
        result.runs += outcome.runs
        for verdict in outcome.verdicts:
            result.considered += 1
            result.outcomes[verdict.outcome] += 1
            if verdict.run is None:
                result.turned_away.update(path for path, held, _ in verdict.seen if not held)


def rehearse(
    entries: Iterable[Entry], stages: list[Stage], progress: Callable[[int], None] = lambda done: None
) -> list[Rehearsed]:
    """One pass over the journal for any number of stages: a draft, the live revision, and each value of a sweep."""
    for number, entry in enumerate(entries):
        for stage in stages:
            stage.take(entry)
        if number % TELL_EVERY == 0:
            progress(number)
    return [stage.finish() for stage in stages]


def varied(document: dict[str, Any], path: str, values: Iterable[Any]) -> Iterator[dict[str, Any]]:
    """Copies of a document with one place set to each of the values. Raises KeyError when there is no such place."""
    for value in values:
        yield _with(document, path.split("."), value)


def _with(part: Any, path: list[str], value: Any) -> Any:
    step, rest = path[0], path[1:]
    if isinstance(part, list | tuple):
        index = int(step) if step.isdigit() else len(part)
        if index >= len(part):
            raise KeyError(step)
        return [
            _with(p, rest, value) if rest and i == index else value if i == index else p for i, p in enumerate(part)
        ]
    if not isinstance(part, dict) or step not in part:
        raise KeyError(step)
    return {k: (_with(v, rest, value) if rest else value) if k == step else v for k, v in part.items()}
