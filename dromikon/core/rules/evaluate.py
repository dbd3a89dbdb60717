"""The evaluator: pure and deterministic, with explicit state and an explicit next wake.

It is fed the journal, one entry at a time, and answers with verdicts (what each rule made of an event), runs, orders
(what to do now) and ended runs. Live and rehearsed running are this same code.

State is rows of JSON keyed by (rule, key), so that a change touches one row:

* ``hold|<join key>``: a hold-off, with the moments of recent firings
* ``run|<run>``: a run with steps still pending or outputs held
* keys of causes (``lasting|<point>``)
* rule ``""``, key ``<kind>@<point>``: the last told state of a point

A row with `due` is woken at that moment.
"""

import heapq
from collections.abc import Iterable, Iterator, MutableMapping
from dataclasses import dataclass, field
from typing import Any

from pydantic import ValidationError

from dromikon.core.events import Act, Event, JournalEntry, Phase, Tick
from dromikon.core.facts import Facts
from dromikon.core.instants import Instant
from dromikon.core.rules.actions import Delivery, Firing
from dromikon.core.rules.compile import CompiledRule, Index, build_index, compile_rule
from dromikon.core.rules.condition import Seen
from dromikon.core.stored import event_from_json, event_to_json

Row = dict[str, Any]
RowKey = tuple[str, str]

#: Version of the row format; rows of another version are not read.
STATE_FORMAT = 1

#: How long a run waits for an acknowledgement before it is forgotten.
ACKNOWLEDGE_WINDOW = 7 * 86_400_000


@dataclass(frozen=True, slots=True)
class Verdict:
    """What one rule made of one event. `outcome` is one of fired, not_provided, outside_hours, held_off, waiting,
    called_off, initial."""

    event: int
    rule: str
    revision: int
    outcome: str
    seen: tuple[Seen, ...] = ()
    due: Instant | None = None
    run: str | None = None


@dataclass(frozen=True, slots=True)
class Run:
    """One firing. `ref` is "<journal seq>.<rule>", unique for all time and the same in a rehearsal. `zero` is when it
    happened."""

    ref: str
    rule: str
    revision: int
    event: int
    point: str
    at: Instant
    zero: Instant
    late: bool


@dataclass(frozen=True, slots=True)
class StepOrder:
    """One step of one run for one target, due now. `release` undoes the same step's earlier order."""

    run: str
    rule: str
    step: int
    action: str
    delivery: Delivery
    target: str
    payload: dict[str, Any]
    due: Instant
    release: bool = False


@dataclass(slots=True)
class Outcome:
    """Everything that follows from one journal entry."""

    verdicts: list[Verdict] = field(default_factory=list)
    runs: list[Run] = field(default_factory=list)
    orders: list[StepOrder] = field(default_factory=list)
    ended: list[str] = field(default_factory=list)
    dropped: list[tuple[str, int]] = field(default_factory=list)


NOTHING = Outcome()


class State:
    """Rows of evaluator state, what changed in them since last asked, and when the next one is due."""

    def __init__(self, rows: Iterable[tuple[RowKey, Row]] = ()) -> None:
        self.rules: dict[str, dict[str, Row]] = {}
        self._changed: set[RowKey] = set()
        self._due: list[tuple[Instant, str, str]] = []
        for (rule, key), row in rows:
            self.put(rule, key, row)
        self._changed.clear()

    def put(self, rule: str, key: str, row: Row) -> None:
        self.rules.setdefault(rule, {})[key] = row
        self._changed.add((rule, key))
        if row.get("due") is not None:
            heapq.heappush(self._due, (row["due"], rule, key))

    def get(self, rule: str, key: str) -> Row | None:
        return self.rules.get(rule, {}).get(key)

    def drop(self, rule: str, key: str) -> Row | None:
        rows = self.rules.get(rule)
        row = rows.pop(key, None) if rows else None
        if row is not None:
            self._changed.add((rule, key))
        return row

    def next_due(self) -> Instant | None:
        while self._due:
            due, rule, key = self._due[0]
            row = self.get(rule, key)
            if row is not None and row.get("due") == due:
                return due
            heapq.heappop(self._due)
        return None

    def pop_due(self, at: Instant) -> RowKey | None:
        """Take the next row that is due by `at` off the clock (the row itself stays)."""
        due = self.next_due()
        if due is None or due > at:
            return None
        _, rule, key = heapq.heappop(self._due)
        return rule, key

    def take_changes(self) -> dict[RowKey, Row | None]:
        """Rows changed since the last call; None for those that are gone."""
        changes = {(rule, key): self.get(rule, key) for rule, key in self._changed}
        self._changed.clear()
        return changes

    def all_rows(self) -> Iterator[tuple[RowKey, Row]]:
        for rule, rows in self.rules.items():
            for key, row in rows.items():
                yield (rule, key), row


class RuleMemory(MutableMapping[str, Row]):
    """One rule's view of the state."""

    def __init__(self, state: State, rule: str) -> None:
        self._state, self._rule = state, rule

    def __getitem__(self, key: str) -> Row:
        row = self._state.get(self._rule, key)
        if row is None:
            raise KeyError(key)
        return row

    def __setitem__(self, key: str, row: Row) -> None:
        self._state.put(self._rule, key, row)

    def __delitem__(self, key: str) -> None:
        if self._state.drop(self._rule, key) is None:
            raise KeyError(key)

    def __iter__(self) -> Iterator[str]:
        return iter(list(self._state.rules.get(self._rule, {})))

    def __len__(self) -> int:
        return len(self._state.rules.get(self._rule, {}))


class Evaluator:
    """The rules of one site at work. With `orders` false it decides as ever but plans no steps: what a rehearsal
    needs, whose runs do not depend on what they would have done."""

    def __init__(self, facts: Facts, state: State | None = None, orders: bool = True) -> None:
        self._orders = orders
        self.state = state or State()
        self.facts = facts
        self.rules: dict[str, CompiledRule] = {}
        self.refused: dict[str, str] = {}
        self._index: Index = {}
        self._compile(facts)

    def _compile(self, facts: Facts) -> None:
        self.facts = facts
        self.rules, self.refused = {}, {}
        for live in facts.rules:
            try:
                self.rules[live.id] = compile_rule(live, facts, self)
            except ValidationError as error:
                self.refused[live.id] = str(error)
        self._index = build_index(list(self.rules.values()), facts)
        self._memory = {rule: RuleMemory(self.state, rule) for rule in self.rules}
        # Whatever a rule is told of beyond what triggers it may be asked for by time.
        self._timed = frozenset(pair for rule in self.rules.values() for pair in rule.looks_at)

    # -- what it answers to ------------------------------------------------------------------------------------------

    def apply(self, entry: JournalEntry) -> Outcome:
        """Take one journal entry. Entries must come in order; rows due before the entry want a Tick first."""
        if isinstance(entry, Event):
            return self._on_event(entry)
        if isinstance(entry, Tick):
            return self._on_tick(entry)
        return self._on_act(entry)

    def replace(self, facts: Facts, at: Instant) -> Outcome:
        """Facts have changed. A rule that is gone or has a new revision loses its waiting causes and pending steps;
        outputs it holds are released."""
        outcome = Outcome()
        live = {r.id: r.revision for r in facts.rules}
        for rule in list(self.state.rules):
            known = self.rules.get(rule)
            if rule and (known is None or live.get(rule) != known.revision):
                self._put_down(rule, at, outcome)
        self._compile(facts)
        return outcome

    def next_wake(self) -> Instant | None:
        """When a Tick is wanted next, or None."""
        return self.state.next_due()

    def told_state(self, kind: str, point: str) -> bool | None:
        """The last told state of a point: on, off, or None when it was never told."""
        row = self.state.get("", f"{kind}@{point}")
        return bool(row["on"]) if row else None

    def last_time(self, kind: str, point: str) -> Instant | None:
        """When a kind last began or happened at a point; kept only where a rule asks for it."""
        row = self.state.get("", f"last|{kind}@{point}")
        return row["at"] if row else None

    def lasts(self, rule: str, run: str) -> bool:
        """Whether a run began with a state whose end is still to come."""
        row = self.state.get(rule, f"run|{run}")
        return row is not None and row["state"] is not None

    # -- entries -----------------------------------------------------------------------------------------------------

    def _on_event(self, event: Event) -> Outcome:
        if event.phase is Phase.BEGIN or event.phase is Phase.END:
            self.state.put("", f"{event.kind}@{event.point}", {"on": event.phase is Phase.BEGIN})
        outcome = self._show(event)
        if (event.kind, event.point) in self._timed and event.phase is not Phase.END and not event.initial:
            # After the rules: an event is not its own predecessor.
            self.state.put("", f"last|{event.kind}@{event.point}", {"at": event.at})
        return outcome

    def _show(self, event: Event) -> Outcome:
        rules = self._index.get((event.kind, event.point))
        if rules is None:
            return NOTHING
        outcome = Outcome()
        if event.initial:
            outcome.verdicts += [Verdict(event.seq, r.id, r.revision, "initial") for r in rules]
            return outcome
        for rule in rules:
            self._consider(rule, event, outcome)
        return outcome

    def _consider(self, rule: CompiledRule, event: Event, outcome: Outcome) -> None:
        memory = self._memory[rule.id]
        if event.phase is Phase.END:
            self._end_runs(rule, event, outcome)
        answer = rule.watcher.on_event(event, memory)
        if answer is None:
            return
        if answer.ended:
            self._end_runs(rule, event, outcome)
        if answer.fires:
            self._decide(rule, event, event.seq, event.at, outcome)
        elif answer.called_off is not None:
            outcome.verdicts.append(Verdict(answer.called_off, rule.id, rule.revision, "called_off"))
        elif answer.due is not None:
            outcome.verdicts.append(Verdict(event.seq, rule.id, rule.revision, "waiting", due=answer.due))

    def _on_tick(self, tick: Tick) -> Outcome:
        outcome = Outcome()
        while (row_key := self.state.pop_due(tick.at)) is not None:
            rule_id, key = row_key
            rule = self.rules.get(rule_id)
            if rule is None:
                self.state.drop(rule_id, key)
            elif key.startswith("run|"):
                self._advance(rule, key, tick.at, outcome)
            elif key.startswith("hold|"):
                self.state.drop(rule_id, key)
            else:
                self._cause_due(rule, key, tick, outcome)
        return outcome

    def _cause_due(self, rule: CompiledRule, key: str, tick: Tick, outcome: Outcome) -> None:
        stored = rule.watcher.on_due(key, self._memory[rule.id])
        if stored is not None:
            self._decide(rule, event_from_json(stored), tick.seq, tick.at, outcome)

    def _on_act(self, act: Act) -> Outcome:
        outcome = Outcome()
        if act.act != "acknowledged":
            return outcome
        key = f"run|{act.run}"
        for rule_id, rule in self.rules.items():
            row = self.state.get(rule_id, key)
            if row is None:
                continue
            row["pending"] = [p for p in row["pending"] if p["anchor"] != "unanswered"]
            self._schedule(rule, row, "acknowledged", act.at)
            self._keep(rule, key, row)
            self._advance(rule, key, act.at, outcome)
        return outcome

    # -- deciding ----------------------------------------------------------------------------------------------------

    def _decide(self, rule: CompiledRule, event: Event, seq: int, at: Instant, outcome: Outcome) -> None:
        seen: list[Seen] = []
        provided = rule.provided is None or rule.provided(event, seen)
        in_hours = rule.within_hours is None or rule.within_hours(at)
        if rule.within_hours is not None:
            seen.append(("hours", in_hours, at))
        held = self._held_until(rule, event, at) if provided and in_hours else None
        result = "not_provided" if not provided else "outside_hours" if not in_hours else None
        if held is not None:
            seen.append(("hold_off", False, held))
            result = "held_off"
        if result is not None:
            outcome.verdicts.append(Verdict(event.seq, rule.id, rule.revision, result, tuple(seen)))
            return
        self._fire(rule, event, seq, at, tuple(seen), outcome)

    def _held_until(self, rule: CompiledRule, event: Event, at: Instant) -> Instant | None:
        if rule.hold_off_key is None:
            return None
        part = rule.document.hold_off
        row = self.state.get(rule.id, f"hold|{rule.hold_off_key(event)}")
        if row is None or part is None:
            return None
        window = round(part.seconds * 1000)
        recent = [moment for moment in row["at"] if moment > at - window]
        return recent[-part.most] + window if len(recent) >= part.most else None

    def _fire(
        self, rule: CompiledRule, event: Event, seq: int, at: Instant, seen: tuple[Seen, ...], outcome: Outcome
    ) -> None:
        same = sum(r.rule == rule.id for r in outcome.runs)
        ref = f"{seq}.{rule.id}" + (f".{same}" if same else "")
        document = rule.document
        if document.hold_off is not None and rule.hold_off_key is not None:
            key, window = f"hold|{rule.hold_off_key(event)}", round(document.hold_off.seconds * 1000)
            before = (self.state.get(rule.id, key) or {"at": []})["at"]
            moments = [moment for moment in before if moment > at - window] + [at]
            self.state.put(rule.id, key, {"at": moments, "due": at + window})
        outcome.runs.append(Run(ref, rule.id, rule.revision, event.seq, event.point, at, event.occurred_at, event.late))
        outcome.verdicts.append(Verdict(event.seq, rule.id, rule.revision, "fired", seen, run=ref))
        if not self._orders:
            return
        lasts = document.cause.ends
        row: Row = {
            "event": event_to_json(event),
            "state": f"{event.kind}@{event.point}" if lasts else None,
            "pending": [],
            "held": [],
        }
        self._schedule(rule, row, "start", at)
        self._schedule(rule, row, "unanswered", at)
        if not lasts:
            self._schedule(rule, row, "end", at)
        if any(step.anchor == "acknowledged" for step in document.response):
            row["forget"] = at + ACKNOWLEDGE_WINDOW
        self._advance_row(rule, f"run|{ref}", row, at, outcome)

    # -- runs with steps still to come -------------------------------------------------------------------------------

    def _schedule(self, rule: CompiledRule, row: Row, anchor: str, at: Instant) -> None:
        for i, step in enumerate(rule.document.response):
            if step.anchor == anchor:
                row["pending"].append({"step": i, "anchor": anchor, "due": at + round(step.after * 1000)})

    def _advance(self, rule: CompiledRule, key: str, at: Instant, outcome: Outcome) -> None:
        row = self.state.get(rule.id, key)
        if row is not None:
            self._advance_row(rule, key, row, at, outcome)

    def _advance_row(self, rule: CompiledRule, key: str, row: Row, at: Instant, outcome: Outcome) -> None:
        """Give out what is due of a run, then keep its row for as long as something may still come."""
        run = key.removeprefix("run|")
        due = sorted((p for p in row["pending"] if p["due"] <= at), key=lambda p: (p["due"], p["step"]))
        row["pending"] = [p for p in row["pending"] if p["due"] > at]
        for pending in due:
            self._order(rule, run, row, pending, outcome)
        for held in [h for h in row["held"] if h["until"] is not None and h["until"] <= at]:
            row["held"].remove(held)
            outcome.orders.append(self._release(rule.id, run, held, held["until"]))
        if row.get("forget") is not None and row["forget"] <= at:
            row["forget"] = None
        self._keep(rule, key, row)

    def _keep(self, rule: CompiledRule, key: str, row: Row) -> None:
        moments = [p["due"] for p in row["pending"]]
        moments += [h["until"] for h in row["held"] if h["until"] is not None]
        moments += [row["forget"]] if row.get("forget") is not None else []
        if not moments and not row["held"] and row["state"] is None:
            self.state.drop(rule.id, key)
            return
        self.state.put(rule.id, key, {**row, "due": min(moments, default=None)})

    def _order(self, rule: CompiledRule, run: str, row: Row, pending: Row, outcome: Outcome) -> None:
        step = rule.document.response[pending["step"]]
        event = event_from_json(row["event"])
        if event.late and step.delivery is Delivery.ONCE_ONLY:
            outcome.dropped.append((run, pending["step"]))
            return
        for order in step.orders(Firing(rule.document.name, event, self.facts)):
            outcome.orders.append(
                StepOrder(
                    run, rule.id, pending["step"], step.do, step.delivery, order.target, order.payload, pending["due"]
                )
            )
            if step.hold is not None:
                until = None if step.hold == "state" and row["state"] else pending["due"]
                if step.hold != "state":
                    until = pending["due"] + round(float(step.hold) * 1000)
                row["held"].append({"step": pending["step"], "do": step.do, "target": order.target, "until": until})

    def _release(self, rule: str, run: str, held: Row, due: Instant) -> StepOrder:
        return StepOrder(
            run, rule, held["step"], held["do"], Delivery.RELEASE, held["target"], {"state": "off"}, due, release=True
        )

    def _end_runs(self, rule: CompiledRule, event: Event, outcome: Outcome) -> None:
        """The state of a point has ended: runs that it began get their end."""
        state = f"{event.kind}@{event.point}"
        memory = self._memory[rule.id]
        for key in [k for k in memory if k.startswith("run|") and memory[k]["state"] == state]:
            row = {**memory[key], "state": None}
            run = key.removeprefix("run|")
            outcome.ended.append(run)
            for held in [h for h in row["held"] if h["until"] is None]:
                held["until"] = event.at
            self._schedule(rule, row, "end", event.at)
            self._advance_row(rule, key, row, event.at, outcome)

    def _put_down(self, rule: str, at: Instant, outcome: Outcome) -> None:
        memory = RuleMemory(self.state, rule)
        for key in list(memory):
            row = memory.pop(key)
            if not key.startswith("run|"):
                continue
            run = key.removeprefix("run|")
            outcome.orders += [self._release(rule, run, held, at) for held in row["held"]]
            outcome.dropped += [(run, p["step"]) for p in row["pending"]]
