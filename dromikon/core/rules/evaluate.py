"""The evaluator: pure and deterministic, with explicit state and an explicit next wake.

It is fed the journal, one entry at a time, and answers with verdicts (what each rule made of an event), runs, orders
(what to do now) and ended runs. Live and rehearsed running are this same code.
"""

from collections.abc import Callable
from typing import cast

from pydantic import ValidationError

from dromikon.core.events import Act, Event, JournalEntry, Phase, Tick
from dromikon.core.facts import Facts, LiveRule, same_but_rules
from dromikon.core.hours import wall_clock
from dromikon.core.instants import Instant
from dromikon.core.kinds import CLOCK
from dromikon.core.rules.causes.base import FIRES, Answer, Memory
from dromikon.core.rules.compile import CompiledRule, build_index, compile_rule
from dromikon.core.rules.condition import Pair, Seen
from dromikon.core.rules.decision import after_firing, after_repeat, quiet_until, refusal
from dromikon.core.rules.outcome import NOTHING, Joined, Outcome, Run, Summed, Verdict
from dromikon.core.rules.rows import Quiet
from dromikon.core.rules.running import AGAIN, CHANGED, Runs
from dromikon.core.rules.state import RuleMemory, State
from dromikon.core.stored import event_from_json

#: A rule with its watcher's look at an event and its memory, ready at hand.
Watching = tuple[CompiledRule, Callable[[Event, Memory], Answer | None], RuleMemory]
#: How rows begin that pause a rule at a camera.
PAUSE = "pause|"
#: Told whenever a cause has fired, before anything is decided: rule, event, journal time.
Listener = Callable[[CompiledRule, Event, Instant], None]


class Evaluator:
    """The rules of one site at work. With `orders` false it decides as ever but orders no steps: what a rehearsal
    needs."""

    def __init__(self, facts: Facts, state: State | None = None, orders: bool = True) -> None:
        self.state = state or State()
        self.runs = Runs(self.state, facts, self._look, orders)
        self.rules: dict[str, CompiledRule] = {}
        self.refused: dict[str, str] = {}
        self.listener: Listener | None = None
        #: The moment of what is being decided, and the events that make it up: conditions ask of what came before.
        self.now: Instant = 0
        self._made_of: tuple[int, ...] = ()
        self._watching: dict[Pair, tuple[Watching, ...]] = {}
        self._ready: dict[str, tuple[LiveRule, CompiledRule]] = {}
        #: The cameras at which rules are paused.
        self._paused: dict[str, set[str]] = {}
        for key in self.state.rules.get("", {}):
            if key.startswith(PAUSE):
                self._paused.setdefault(key.split("|")[1], set()).add(key.split("|", 2)[2])
        self.facts = facts
        self._compile(facts)

    def _compile(self, facts: Facts) -> None:
        # A rule is made ready with what it refers to; where only rules have changed, the others stay as they are.
        known = self._ready if same_but_rules(self.facts, facts) else {}
        self.facts = self.runs.facts = facts
        self.rules, self.refused, self._ready = {}, {}, {}
        for live in facts.rules:
            ready = known.get(live.id)
            try:
                rule = ready[1] if ready and ready[0] == live else compile_rule(live, facts, self)
            except ValidationError as error:
                self.refused[live.id] = str(error)
            else:
                self.rules[live.id] = rule
                self._ready[live.id] = (live, rule)
        self._memory = {rule: RuleMemory(self.state, rule) for rule in self.rules}
        self._watching = {
            pair: tuple((rule, rule.watcher.on_event, self._memory[rule.id]) for rule in rules)
            for pair, rules in build_index(list(self.rules.values()), facts).items()
        }
        # Whatever a rule is told of beyond what triggers it may be asked for by time. So many events are remembered that
        # one is left when those that make up a cause are left out.
        self._timed: dict[Pair, int] = {}
        for rule in self.rules.values():
            for pair in rule.looks_at:
                self._timed[pair] = max(self._timed.get(pair, 0), rule.document.cause.size + 1)

    # -- what it answers to ------------------------------------------------------------------------------------------

    def apply(self, entry: JournalEntry) -> Outcome:
        """Take one journal entry. Entries must come in order; rows due before the entry want a Tick first."""
        if isinstance(entry, Event):
            return self.on_event(entry)
        if isinstance(entry, Tick):
            return self._on_tick(entry)
        return self._on_act(entry)

    def replace(self, facts: Facts, at: Instant) -> Outcome:
        """Facts have changed. A rule that is gone or has a new revision loses its waiting causes and pending steps;
        outputs it holds are released. Clocks are set anew, since hours and places may have changed."""
        outcome = Outcome()
        live = {r.id: r.revision for r in facts.rules}
        for rule in list(self.state.rules):
            known = self.rules.get(rule)
            if rule and (known is None or live.get(rule) != known.revision):
                self._put_down(rule, at, outcome)
        before = self.rules
        self._compile(facts)
        for compiled in self.rules.values():
            if compiled is not before.get(compiled.id) or self.state.get(compiled.id, "clock") is None:
                self._set_clock(compiled, at)
        return outcome

    def next_wake(self) -> Instant | None:
        """When a Tick is wanted next, or None."""
        return self.state.next_due()

    # -- what conditions may ask ---------------------------------------------------------------------------------------

    def _look(self, event: Event, at: Instant) -> None:
        """A step is due: what it asks is asked for this moment, and its run's own event counts as no predecessor."""
        self.now, self._made_of = at, (event.seq,)

    def told_state(self, kind: str, point: str) -> bool | None:
        """The last told state of a point: on, off, or None when it was never told."""
        row = self.state.get("", f"{kind}@{point}")
        return bool(row["on"]) if row else None

    def last_time(self, kind: str, point: str) -> Instant | None:
        """When a kind last began or happened at a point before what is being decided; kept only where a rule asks."""
        row = self.state.get("", f"last|{kind}@{point}")
        came = reversed(row["came"]) if row else ()
        return next((at for at, seq in came if seq not in self._made_of), None)

    def mode(self) -> str:
        """The site's operating state."""
        row = self.state.get("", "mode")
        if row is not None and row["mode"] in self.facts.modes:
            return str(row["mode"])
        return self.facts.modes[0] if self.facts.modes else ""

    def counter(self, id: str) -> int:
        """Where a counter stands."""
        row = self.state.get("", f"counter|{id}")
        return int(row["value"]) if row else 0

    # -- entries -----------------------------------------------------------------------------------------------------

    def on_event(self, event: Event) -> Outcome:
        """Take one event: most of what `apply` is given."""
        phase, pair = event.phase, (event.kind, event.point)
        if phase is Phase.BEGIN or phase is Phase.END:
            self.state.put("", f"{event.kind}@{event.point}", {"on": phase is Phase.BEGIN})
        watching = self._watching.get(pair)
        if watching is None:
            outcome = NOTHING
        else:
            outcome = Outcome()
            self.now, self._made_of = event.at, ()
            for rule, look, memory in watching:
                if event.initial:
                    outcome.verdicts.append(Verdict(event.seq, rule.id, rule.revision, "initial"))
                    continue
                if phase is Phase.END:
                    self.runs.ended(rule, f"{event.kind}@{event.point}", event.at, outcome)
                answer = look(event, memory)
                if answer is FIRES:
                    self._decide(rule, event, event.seq, event.at, outcome)
                elif answer is not None:
                    self._consider(rule, event, answer, outcome)
        if self._timed and pair in self._timed and phase is not Phase.END and not event.initial:
            self._note_time(event, self._timed[pair])
        return outcome

    def try_out(self, rule: str, event: Event, until: Instant) -> Outcome:
        """A person tests one live rule with an event, as though its cause had just been fulfilled. Conditions and hours are
        asked; hold-off and earlier runs are not, and nothing of it is remembered for what really happens. What lasts ends at
        `until`."""
        outcome = Outcome()
        known = self.rules.get(rule)
        if known is None:
            return outcome
        self.now, self._made_of = event.at, (event.seq,)
        seen: list[Seen] = []
        refused = refusal(known, event, event.at, seen)
        if refused is not None:
            outcome.verdicts.append(Verdict(event.seq, rule, known.revision, refused, tuple(seen)))
            return outcome
        self._fire(known, event, event.seq, event.at, tuple(seen), outcome)
        if known.document.cause.ends:
            self.state.put(rule, f"test|{outcome.runs[-1].ref}", {"due": until})
        return outcome

    def _note_time(self, event: Event, most: int) -> None:
        """After the rules: an event is not its own predecessor."""
        key = f"last|{event.kind}@{event.point}"
        came = (self.state.get("", key) or {"came": []})["came"]
        self.state.put("", key, {"came": [*came, [event.at, event.seq]][-most:]})

    def _consider(self, rule: CompiledRule, event: Event, answer: Answer, outcome: Outcome) -> None:
        if answer.ended:
            self.runs.ended(rule, f"{event.kind}@{event.point}", event.at, outcome)
        for seq in answer.called_off:
            outcome.verdicts.append(Verdict(seq, rule.id, rule.revision, "called_off"))
        if answer.fires:
            self._decide(rule, event, event.seq, event.at, outcome, answer.made_of)
        elif answer.due is not None:
            outcome.verdicts.append(Verdict(event.seq, rule.id, rule.revision, "waiting", due=answer.due))

    def _on_tick(self, tick: Tick) -> Outcome:
        outcome = Outcome()
        fired: set[tuple[str, int]] = set()
        while (row_key := self.state.pop_due(tick.at)) is not None:
            rule_id, key = row_key
            if row_key == ("", "mode"):
                self._mode_over(outcome)
                continue
            if key.startswith(PAUSE):
                self._resume(key)
                continue
            rule = self.rules.get(rule_id)
            if rule is None:
                self.state.drop(rule_id, key)
            elif key.startswith("run|"):
                self.runs.due(rule, key.removeprefix("run|"), tick.at, outcome)
            elif key.startswith("test|"):
                self.state.drop(rule_id, key)
                self.runs.over(rule, key.removeprefix("test|"), tick.at, outcome)
            elif key.startswith("hold|"):
                self._hold_over(rule, key, tick.at, outcome)
            elif key == "clock":
                self._clock_due(rule, tick, outcome)
            else:
                self._cause_due(rule, key, tick, fired, outcome)
        return outcome

    def _cause_due(
        self, rule: CompiledRule, key: str, tick: Tick, fired: set[tuple[str, int]], outcome: Outcome
    ) -> None:
        """A wait is over. Two waits of one rule for one event that are over together fire once."""
        for stored in rule.watcher.on_due(key, self._memory[rule.id]):
            if (rule.id, stored["seq"]) not in fired:
                fired.add((rule.id, stored["seq"]))
                self._decide(rule, event_from_json(stored), tick.seq, tick.at, outcome, (stored["seq"],))

    def _clock_due(self, rule: CompiledRule, tick: Tick, outcome: Outcome) -> None:
        """A time has come: it becomes an event of the site, one for all rules that it sets off."""
        row = self.state.drop(rule.id, "clock")
        moment = row["due"] if row else tick.at
        if not outcome.events:
            fields = {"clock": f"{wall_clock(moment, self.facts.zone):%H:%M}"}
            outcome.events.append(Event(tick.seq, CLOCK, "", Phase.PULSE, tick.at, moment, tick.at, None, fields))
        self._set_clock(rule, tick.at)
        self._decide(rule, outcome.events[0], tick.seq, tick.at, outcome)

    def _set_clock(self, rule: CompiledRule, at: Instant) -> None:
        due = rule.watcher.next_after(at)
        if due is not None:
            self.state.put(rule.id, "clock", {"due": due})
        else:
            self.state.drop(rule.id, "clock")

    def _on_act(self, act: Act) -> Outcome:
        outcome = Outcome()
        if act.act == "mode":
            self._set_mode(str(act.value), act.until)
        elif act.act == "counter":
            self.state.put("", f"counter|{act.target}", {"value": int(act.value)})
        elif act.act == "paused":
            self.state.put("", f"{PAUSE}{act.target}|{act.value}", {"due": act.until})
            self._paused.setdefault(act.target, set()).add(str(act.value))
        elif act.act == "resumed":
            self._resume(f"{PAUSE}{act.target}|{act.value}")
        elif act.act == "acknowledged":
            rule = self._rule_of(act.run)
            if rule is not None:
                self._join_no_more(rule, act.run)
                self.runs.answered(rule, act.run, act.at, outcome)
        return outcome

    def _set_mode(self, mode: str, until: Instant | None) -> None:
        """With an end, the site goes back to what it was before the first of several that have one."""
        row = self.state.get("", "mode") or {}
        if until is None:
            self.state.put("", "mode", {"mode": mode})
        else:
            self.state.put("", "mode", {"mode": mode, "due": until, "then": row.get("then", self.mode())})

    def _mode_over(self, outcome: Outcome) -> None:
        row = self.state.get("", "mode") or {}
        self.state.put("", "mode", {"mode": row.get("then", "")})
        outcome.modes.append(self.mode())

    def _resume(self, key: str) -> None:
        """A rule counts at a camera again."""
        self.state.drop("", key)
        _, rule, camera = key.split("|", 2)
        self._paused.get(rule, set()).discard(camera)

    def _is_paused(self, rule: str, event: Event) -> bool:
        """Whether somebody has paused a rule at a camera that this is about."""
        cameras = self._paused.get(rule)
        return cameras is not None and not cameras.isdisjoint(concerned(self.facts, event.point))

    def _rule_of(self, run: str) -> CompiledRule | None:
        name = run.partition(".")[2]
        return self.rules.get(name) or self.rules.get(name.rpartition(".")[0])

    # -- deciding ----------------------------------------------------------------------------------------------------

    def _decide(
        self, rule: CompiledRule, event: Event, seq: int, at: Instant, outcome: Outcome, made_of: tuple[int, ...] = ()
    ) -> None:
        self.now, self._made_of = at, made_of
        if self._paused and self._is_paused(rule.id, event):
            outcome.verdicts.append(Verdict(event.seq, rule.id, rule.revision, "paused"))
            return
        if self.listener is not None:
            self.listener(rule, event, at)
        seen: list[Seen] = []
        run: str | None = None
        result = refusal(rule, event, at, seen)
        if result is None:
            result, run = self._kept_back(rule, event, at, seen, outcome)
        if result is not None:
            outcome.verdicts.append(Verdict(event.seq, rule.id, rule.revision, result, tuple(seen), None, run))
            return
        self._fire(rule, event, seq, at, tuple(seen), outcome)

    def _kept_back(
        self, rule: CompiledRule, event: Event, at: Instant, seen: list[Seen], outcome: Outcome
    ) -> tuple[str | None, str | None]:
        """Why a firing is kept back although everything is fulfilled, and the run it counts towards."""
        part = rule.document.hold_off
        if part is not None and rule.hold_off_key is not None:
            key = f"hold|{rule.hold_off_key(event)}"
            row = cast(Quiet | None, self.state.get(rule.id, key))
            until = quiet_until(part, row, at)
            if until is not None and row is not None:
                seen.append(("hold_off", False, until))
                return self._held_off(rule, key, row, event, at, outcome)
        if rule.document.again in ("extend", "ignore"):
            runs = self.runs.meets(rule, event.point)
            if runs and rule.document.again == "extend":
                for run in runs:
                    self.runs.extend(rule, run, at, outcome)
                return "extended", runs[-1]
            if runs:
                return "still_running", runs[-1]
        return None, None

    def _held_off(
        self, rule: CompiledRule, key: str, row: Quiet, event: Event, at: Instant, outcome: Outcome
    ) -> tuple[str, str | None]:
        part, run = rule.document.hold_off, row.get("run")
        if part is None or part.then == "ignore":
            return "held_off", None
        if part.then == "join":
            self.state.put(rule.id, key, after_repeat(part, row, at))
            outcome.joined.append(Joined(str(run), event.seq, at))
            return "joined", run
        more = row.get("more", 0) + 1
        self.state.put(rule.id, key, {**row, "more": more, "point": event.point, "since": row.get("since", at)})
        return "summed_up", run

    def _hold_over(self, rule: CompiledRule, key: str, at: Instant, outcome: Outcome) -> None:
        row = cast(Quiet | None, self.state.drop(rule.id, key))
        if row is None:
            return
        if row.get("run"):
            self.state.drop(rule.id, f"joined|{row['run']}")
        if row.get("more"):
            outcome.sums.append(Summed(row["run"], rule.id, row["point"], row["more"], row["since"], at))

    def _join_no_more(self, rule: CompiledRule, run: str) -> None:
        joined = self.state.drop(rule.id, f"joined|{run}")
        if joined is not None:
            self.state.drop(rule.id, joined["hold"])

    def _fire(
        self, rule: CompiledRule, event: Event, seq: int, at: Instant, seen: tuple[Seen, ...], outcome: Outcome
    ) -> None:
        same = sum(r.rule == rule.id for r in outcome.runs)
        ref = f"{seq}.{rule.id}" + (f".{same}" if same else "")
        if not event.test:
            self._note_hold(rule, event, ref, at, outcome)
        outcome.runs.append(
            Run(ref, rule.id, rule.revision, event.seq, event.point, at, event.occurred_at, event.late, event.test)
        )
        outcome.verdicts.append(Verdict(event.seq, rule.id, rule.revision, "fired", seen, run=ref))
        if not self.runs.needs_row(rule):
            return
        restarts = rule.document.again == "restart" and not event.test
        before = self.runs.meets(rule, event.point) if restarts else []
        self.runs.begin(rule, ref, event, _listed(seen), at, outcome)
        for met in before:
            # After the new run has begun: an output that both hold stays on.
            self.runs.abandon(rule.id, met, at, AGAIN, outcome)

    def _note_hold(self, rule: CompiledRule, event: Event, ref: str, at: Instant, outcome: Outcome) -> None:
        part = rule.document.hold_off
        if part is None or rule.hold_off_key is None:
            return
        key = f"hold|{rule.hold_off_key(event)}"
        before = cast(Quiet | None, self.state.get(rule.id, key))
        row = after_firing(part, before, at)
        if part.then != "ignore":
            row["run"] = ref
            if before is not None and before.get("run"):
                self.state.drop(rule.id, f"joined|{before['run']}")
            if before is not None and before.get("more"):
                outcome.sums.append(
                    Summed(before["run"], rule.id, before["point"], before["more"], before["since"], at)
                )
        if part.then == "join":
            self.state.put(rule.id, f"joined|{ref}", {"hold": key})
        self.state.remember(rule.id, key, row)

    # -- facts that change -------------------------------------------------------------------------------------------

    def _put_down(self, rule: str, at: Instant, outcome: Outcome) -> None:
        memory = RuleMemory(self.state, rule)
        for key in list(memory):
            if key.startswith("run|"):
                self.runs.abandon(rule, key.removeprefix("run|"), at, CHANGED, outcome)
            else:
                memory.pop(key, None)


def _listed(seen: tuple[Seen, ...]) -> str:
    """The list entry that a condition found the event to be; empty when there was none."""
    return next((str(value["entry"]) for _, _, value in seen if isinstance(value, dict) and value.get("inside")), "")


def concerned(facts: Facts, point: str) -> frozenset[str]:
    """The cameras that a point is about: itself, its channel, and those that look at it."""
    known = facts.point_by_id.get(point)
    own = {known.channel or known.id} if known else set()
    return frozenset({*own, *facts.cameras_of(point)})
