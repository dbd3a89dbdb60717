"""Rehearsal: rules run over the recorded journal, by the very code that runs live, without any action taken.

A rehearsal is fed events, operators' acts, changes of facts and ticks in their one order. It takes the journal's own
ticks for their places and adds those that a draft wants besides, each at exactly its moment, so that a live revision
makes the same runs again, down to their references.
"""

from collections import Counter, deque
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, NamedTuple, cast

from dromikon.core.events import Event, JournalEntry, Tick
from dromikon.core.facts import Facts, LiveRule
from dromikon.core.instants import Instant
from dromikon.core.reading import whole_or_none
from dromikon.core.rules.compile import CompiledRule, compile_rule
from dromikon.core.rules.condition import Condition, Test
from dromikon.core.rules.conditions import AnyOf, Every, Unless
from dromikon.core.rules.decision import after_firing, after_repeat, quiet_until, refusal
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.evaluate import Evaluator
from dromikon.core.rules.outcome import Dropped, Outcome, Run, Verdict
from dromikon.core.rules.rows import Quiet
from dromikon.core.rules.state import Row, RowKey, State


class Change(NamedTuple):
    """A change of facts as journal input: when, and the facts from then on."""

    at: Instant
    facts: Facts


class Checkpoint(NamedTuple):
    """Where a rehearsal may begin: the facts and the evaluator's rows of a moment."""

    at: Instant
    facts: Facts
    rows: Sequence[tuple[RowKey, Row]]


Entry = JournalEntry | Change | Checkpoint
CHANGES = (Change, Checkpoint)

HOUR = 3_600_000
#: Progress is told about this often, in entries.
TELL_EVERY = 5_000
#: So many events that came to nothing are told one by one.
MOST_AWAY = 500
#: Places of a document that come after the cause: values tried there share one watching of the cause.
AFTER_THE_CAUSE = ("provided", "hours", "hold_off")


@dataclass(slots=True)
class Rehearsed:
    """What a rule would have done within a period."""

    runs: list[Run] = field(default_factory=list)
    considered: int = 0
    outcomes: Counter[str] = field(default_factory=Counter)
    #: How many events, or steps of runs, each part turned away, by its path in the document.
    turned_away: Counter[str] = field(default_factory=Counter)
    #: The latest events that came to nothing, with their outcomes.
    away: deque[tuple[int, str]] = field(default_factory=lambda: deque(maxlen=MOST_AWAY))
    #: What came of the events that were watched, whenever they were.
    verdicts: dict[int, Verdict] = field(default_factory=dict)

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


class Variant:
    """One value of a sweep whose rule differs only after its cause: it decides for itself on what the cause of the
    stage lets through."""

    def __init__(self, rule: LiveRule, start: Instant, end: Instant) -> None:
        self.rule, self.start, self.end = rule, start, end
        self.count = 0
        self._state = State()
        self._compiled: CompiledRule | None = None

    @property
    def conditions(self) -> tuple[Any, Any]:
        """What decides before the hold-off."""
        return self.rule.document.get("provided"), self.rule.document.get("hours")

    def compile(self, facts: Facts, world: Evaluator) -> None:
        """Facts have changed."""
        self._compiled = compile_rule(self.rule, facts, world)

    def decide(self, event: Event, at: Instant, let_through: bool | None = None) -> bool:
        """The cause has fired. Answers whether conditions and hours let it through; `let_through` is that answer when
        a variant with the same conditions and hours has given it already."""
        rule = self._compiled
        if rule is None:
            return False
        if let_through is None:
            let_through = refusal(rule, event, at, None) is None
        if let_through:
            self._hold_off(rule, event, at)
        return let_through

    def _hold_off(self, rule: CompiledRule, event: Event, at: Instant) -> None:
        part, key_of = rule.document.hold_off, rule.hold_off_key
        if part is not None and key_of is not None:
            key = key_of(event)
            row = cast(Quiet | None, self._state.get("", key))
            if row is not None and quiet_until(part, row, at) is not None:
                if part.then == "join":
                    self._state.put("", key, after_repeat(part, row, at))
                return
            self._state.remember("", key, after_firing(part, row, at))
        if self.start <= at < self.end:
            self.count += 1


def share_conditions(variants: Sequence[Variant]) -> Every | None:
    """What the conditions of all variants have in common, when they are an "all of" that differs at one place: it is
    asked once, and each variant is left with its own place. All of (common and own) is the same as before."""
    trees = [v.rule.document.get("provided") for v in variants]
    if len(trees) < 2 or not all(isinstance(t, dict) and t.get("test") == "all" for t in trees):
        return None
    parts = [list(t["of"]) for t in trees if t]
    count = len(parts[0])
    differing = [i for i in range(count) if any(len(p) != count or p[i] != parts[0][i] for p in parts)]
    if len(differing) != 1 or count < 2:
        return None
    place = differing[0]
    for variant, own in zip(variants, parts, strict=True):
        document = {**variant.rule.document, "provided": own[place]}
        variant.rule = variant.rule.model_copy(update={"document": document})
    return Every(of=tuple(c for i, c in enumerate(parts[0]) if i != place))


class Stage:
    """One rule of one rehearsal: an evaluator that has only this rule, in facts as they were.

    `rule` None rehearses the rules that were live at each time; outside facts are always as recorded. What comes of the
    events in `watch` is kept, also of those outside the period.
    """

    def __init__(
        self, rule: LiveRule | None, start: Instant, end: Instant, only: str | None = None,
        variants: Sequence[Variant] = (), watch: frozenset[int] = frozenset(),
    ) -> None:  # fmt: skip
        self.rule, self.only, self.variants, self.watch = rule, only, variants, watch
        self.start, self.end = start, end
        self.result = Rehearsed()
        self._evaluator: Evaluator | None = None
        self._extra = 0
        self._alike = bool(variants) and all(v.conditions == variants[0].conditions for v in variants)
        self._common = share_conditions(variants)
        self._in_common: Test | None = None

    def take(self, entry: Entry) -> None:
        """One journal entry, in order."""
        evaluator = self._evaluator
        if type(entry) is Event and evaluator is not None:
            # Nearly all entries: worth a way of their own to the same evaluator.
            if evaluator.state.something_due(entry.at):
                self._wake(entry.at, None)
            outcome = evaluator.on_event(entry)
            if outcome.verdicts or outcome.dropped:
                self._note(outcome, entry.at)
        elif isinstance(entry, CHANGES):
            self._change(entry)
        elif evaluator is not None:
            # The journal's tick stands where the live evaluator woke: its place gives runs their reference.
            self._wake(entry.at, entry.seq if isinstance(entry, Tick) else None)
            if not isinstance(entry, Tick):
                self._note(evaluator.apply(entry), entry.at)

    def finish(self) -> Rehearsed:
        """Let what is still due within the period come."""
        self._wake(self.end, None)
        return self.result

    def _change(self, change: Change | Checkpoint) -> None:
        facts = change.facts
        rules = (self.rule,) if self.rule else tuple(r for r in facts.rules if self.only in (None, r.id))
        staged = facts.model_copy(update={"rules": rules})
        if self._evaluator is None:
            self._evaluator = Evaluator(staged, State(self._rows(change)), orders=False)
            if isinstance(change, Change) or self.rule:
                self._evaluator.replace(staged, change.at)
            if self.variants:
                self._evaluator.listener = self._share
        else:
            self._wake(change.at, None)
            self._evaluator.replace(staged, change.at)
        for variant in self.variants:
            variant.compile(staged, self._evaluator)
        if self._common is not None:
            self._in_common = self._common.compile("provided", self._evaluator)

    def _rows(self, change: Change | Checkpoint) -> Sequence[tuple[RowKey, Row]]:
        """What the evaluator knew: of the site as a whole, and, for live rules, of those that are rehearsed."""
        if isinstance(change, Change):
            return ()
        if self.rule:
            return [(key, row) for key, row in change.rows if key[0] == ""]
        return [(key, row) for key, row in change.rows if key[0] == "" or self.only in (None, key[0])]

    def _share(self, rule: CompiledRule, event: Event, at: Instant) -> None:
        if self._alike:
            # Only hold-offs differ: conditions and hours are asked once for all.
            if self.variants[0].decide(event, at):
                for variant in self.variants[1:]:
                    variant.decide(event, at, True)
            return
        if self._in_common is not None and not self._in_common(event, None):
            return
        for variant in self.variants:
            variant.decide(event, at)

    def _blamed_for(self, dropped: Dropped) -> list[str]:
        """What a step asked for in vain."""
        rule = self._evaluator.rules.get(dropped.rule) if self._evaluator else None
        if rule is None:
            return []
        held, root = {path: held for path, held, _ in dropped.seen}, f"response.{dropped.step}"
        tree = rule.document.response[dropped.step].provided
        hours = [path for path in (f"{root}.hours",) if held.get(path) is False]
        return hours + (blamed(tree, f"{root}.provided", held) if tree is not None else [])

    def _blamed(self, verdict: Verdict) -> list[str]:
        """The parts of the document that turned an event away."""
        held = {path: held for path, held, _ in verdict.seen}
        rule = self._evaluator.rules.get(verdict.rule) if self._evaluator else None
        tree = rule.document.provided if rule is not None else None
        parts = [path for path in ("hours", "hold_off") if held.get(path) is False]
        return parts + (blamed(tree, "provided", held) if tree is not None else [])

    def _wake(self, until: Instant, seq: int | None) -> None:
        evaluator = self._evaluator
        while evaluator and (wake := evaluator.next_wake()) is not None and wake <= until:
            self._extra -= 1
            place = seq if seq is not None and wake == until else self._extra
            self._note(evaluator.apply(Tick(place, wake)), wake)

    def _note(self, outcome: Outcome, at: Instant) -> None:
        result = self.result
        for verdict in outcome.verdicts:
            if verdict.event in self.watch:
                result.verdicts[verdict.event] = verdict
        if not self.start <= at < self.end:
            return
        if outcome.runs:
            result.runs += outcome.runs
        for dropped in outcome.dropped:
            result.turned_away.update(self._blamed_for(dropped))
        for verdict in outcome.verdicts:
            result.considered += 1
            result.outcomes[verdict.outcome] += 1
            if verdict.run is None:
                result.away.append((verdict.event, verdict.outcome))
                result.turned_away.update(self._blamed(verdict))


def blamed(tree: Condition, path: str, held: Mapping[str, bool], wanted: bool = True) -> list[str]:
    """The leaves to which it is due that a tree did not come out as wanted. What a fulfilled *not* rests on is none."""
    if isinstance(tree, Unless):
        return blamed(tree.of, f"{path}.of", held, not wanted)
    if not isinstance(tree, Every | AnyOf):
        return [path] if held.get(path, wanted) is not wanted else []
    parts = [blamed(part, f"{path}.of.{i}", held, wanted) for i, part in enumerate(tree.of)]
    if isinstance(tree, Every) is wanted:
        return [leaf for part in parts for leaf in part]
    # One that came out as wanted would have been enough.
    return [leaf for part in parts for leaf in part] if all(parts) else []


def shares_cause(document: RuleDocument, path: str) -> bool:
    """Whether values tried at a place of a document leave its cause, and what becomes of runs, alone."""
    return path.split(".")[0] in AFTER_THE_CAUSE and document.again in ("new", "restart")


def rehearse(
    entries: Iterable[Entry], stages: list[Stage], progress: Callable[[Instant], None] = lambda reached: None
) -> list[Rehearsed]:
    """One pass over the journal for any number of stages: a draft, the live revision, and each value of a sweep. Every
    now and then `progress` is told which moment has been reached; what it raises ends the rehearsal."""
    for number, entry in enumerate(entries):
        for stage in stages:
            stage.take(entry)
        if number % TELL_EVERY == 0:
            progress(entry.at)
    return [stage.finish() for stage in stages]


def varied(document: dict[str, Any], path: str, values: Iterable[Any]) -> Iterator[dict[str, Any]]:
    """Copies of a document with one place set to each of the values. Raises KeyError when there is no such place."""
    for value in values:
        yield _with(document, path.split("."), value)


def _with(part: Any, path: list[str], value: Any) -> Any:
    step, rest = path[0], path[1:]
    if isinstance(part, list | tuple):
        found = whole_or_none(step)
        index = found if found is not None else len(part)
        if index >= len(part):
            raise KeyError(step)
        return [
            _with(p, rest, value) if rest and i == index else value if i == index else p for i, p in enumerate(part)
        ]
    if not isinstance(part, dict) or step not in part:
        raise KeyError(step)
    return {k: (_with(v, rest, value) if rest else value) if k == step else v for k, v in part.items()}
