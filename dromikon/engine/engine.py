"""The engine's turn: take what has come, evaluate, and write everything in one transaction.

Each accepted message is evaluated exactly once, whatever is killed when: the position in the inbox is moved in the
same transaction, by compare-and-set, and what was in memory is thrown away when the transaction fails.
"""

import logging
import sqlite3
import time
from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

from django.db import OperationalError, connection, transaction

from dromikon import config, logs
from dromikon.clock import now_ms
from dromikon.core.decoding.likeness import likeness
from dromikon.core.events import Act, Event, Phase, Scalar, Tick
from dromikon.core.facts import Facts
from dromikon.core.kinds import STALE
from dromikon.core.rules.evaluate import Evaluator
from dromikon.core.rules.outcome import Outcome, Run, StepOrder
from dromikon.core.rules.state import STATE_FORMAT, Row, RowKey, State
from dromikon.core.rules.upgrade import upgraded
from dromikon.database import writer
from dromikon.daybook import feed, storage
from dromikon.daybook.models import ActRow, EnginePosition, EvaluatorRow, EventRow, Step
from dromikon.engine import upkeep
from dromikon.engine.adapters.base import Catalogue, Health, Ingested, NotClaimed
from dromikon.engine.alarms import back_from_shelf, end_run, go_by_mode, join, something_on_shelf
from dromikon.engine.book import Book
from dromikon.engine.calls import give_up, note_call, something_is_over
from dromikon.engine.deadlines import Deadlines, Key
from dromikon.engine.devices import note_catalogue, note_health, note_silences
from dromikon.engine.directory import Directory
from dromikon.engine.draft import Draft
from dromikon.engine.effects import EFFECTS, FollowingEffect, InsideEffect
from dromikon.engine.ingest import ingest
from dromikon.engine.raised import counted, in_trouble, nobody_reached
from dromikon.engine.readings import Readings
from dromikon.facts import facts_from_json, facts_of, facts_to_json, facts_with_rule
from dromikon.intake import inbox
from dromikon.journaled import Chain, chain_before, entry_for
from dromikon.sites.models import Site
from dromikon.sources.models import Unclaimed

log = logging.getLogger("dromikon.engine")

#: The writer is held about this long at most, in seconds; the batch grows and shrinks to fit.
TURN = 0.020
LARGEST_BATCH = 400


class Superseded(Exception):
    """Another engine has moved the position: this one must not go on."""


class Engine:
    """One per installation; `main` holds a file lock besides. `clock` gives ms UTC; `hold` is about how long a
    transaction may hold the writer, in seconds."""

    def __init__(self, clock: Callable[[], int] = now_ms, hold: float = TURN) -> None:
        self.clock, self.hold = clock, hold
        self.sites: dict[str, Evaluator] = {}
        self.chains: dict[str, Chain] = {}
        self.rule_names: dict[str, str] = {}
        self.directory = Directory()
        self.deadlines, self.readings = Deadlines(), Readings()
        self.seq = self.at = self.inbox_position = self.act_position = 0
        self.batch = 20
        self.delay_ms = 0
        #: How long the last batch of messages held the writer, in seconds.
        self.spent = 0.0
        #: Told after each commit whose steps deliverers are to send, and after each that pages are to hear of.
        self.steps_committed: Callable[[], None] = _nobody
        self.feed_committed: Callable[[], None] = _nobody
        self._inbox: sqlite3.Connection | None = None
        self._versions = (-1, -1)

    # -- life ----------------------------------------------------------------------------------------------------------

    def load(self) -> None:
        """Read position, facts and evaluator state from the database."""
        position, _ = EnginePosition.objects.get_or_create(id=1)
        self.seq, self.at = position.seq, position.at
        self.inbox_position, self.act_position = position.inbox, position.act
        self.sites, self.chains = {}, {}
        for site in Site.objects.all():
            state = _state_of(site.id)
            # What the evaluator last ran with: changes since then are still to come as acts.
            chain = self.chains[site.id] = chain_before(site.id)
            empty = Facts(site=site.id, name=site.name, zone=site.zone)
            facts = facts_from_json(chain.body) if chain.body else empty
            self.sites[site.id] = Evaluator(facts, state)
            self._name_rules(facts)
        self.directory = Directory.read()
        self.deadlines, self.readings = Deadlines.read(), Readings()

    def close(self) -> None:
        if self._inbox:
            self._inbox.close()
            self._inbox = None

    def something_new(self) -> bool:
        """Whether anybody wrote to inbox or database since last asked, or a rule wants to be woken: two cheap looks,
        so that an idle engine can look often."""
        with connection.cursor() as cursor:
            cursor.execute("PRAGMA data_version")
            main = cursor.fetchone()[0]
        versions = self._connection().execute("PRAGMA data_version").fetchone()[0], main
        changed, self._versions = versions != self._versions, versions
        wake = self.next_wake()
        return changed or (wake is not None and wake <= self.clock())

    def turn(self) -> int:
        """Work off the next batch. Returns how many messages and acts it took; 0 when nothing was waiting.

        Raises OperationalError when the database is locked or full (nothing was lost, try again), and Superseded.
        """
        if storage.some_act_after(self.act_position):
            acts = list(ActRow.objects.filter(id__gt=self.act_position).order_by("id")[: self.batch])
            self._attempt([], acts)
            return len(acts)
        stored = inbox.after(self._connection(), self.inbox_position, self.batch)
        wake = self.next_wake()
        if not stored and (wake is None or wake > self.clock()):
            return 0
        started = time.perf_counter()
        if self._attempt(stored, []) and stored:
            self.spent = time.perf_counter() - started
            self.batch = max(5, min(LARGEST_BATCH, int(self.batch * min(2.0, self.hold / self.spent)) + 1))
        return len(stored)

    def _attempt(self, stored: list[inbox.Stored], acts: list[ActRow]) -> bool:
        """Work off a batch; False when it failed through a fault of ours, which is then narrowed down and set aside."""
        try:
            self._work_off(stored, acts)
            return True
        except (OperationalError, Superseded):
            self.load()
            raise
        except Exception:
            # Memory may be ahead of the database: read everything again. Then take one at a time to find the culprit.
            log.exception("%d messages and %d acts could not be worked off", len(stored), len(acts))
            self.load()
            if self.batch > 1:
                self.batch = 1
            else:
                self._set_aside(stored, acts)
        return False

    def next_wake(self) -> int | None:
        """When a rule wants to be woken next, or something happens by itself."""
        wakes = (self.deadlines.next(), *(e.next_wake() for e in self.sites.values()))
        return min((wake for wake in wakes if wake is not None), default=None)

    def _connection(self) -> sqlite3.Connection:
        if self._inbox is None:
            self._inbox = inbox.connect(config.inbox_path())
        return self._inbox

    # -- one transaction -----------------------------------------------------------------------------------------------

    def _work_off(self, stored: list[inbox.Stored], acts: list[ActRow]) -> None:
        with writer.turn(), transaction.atomic():
            before = (self.inbox_position, self.act_position, self.seq)
            book = Book(self.clock())
            for act in acts:
                self._take_act(act, book)
            for message in stored:
                self._take_message(message, book)
            if not acts and len(stored) < self.batch:
                self._tick_until(self.clock(), book)
            for site, evaluator in self.sites.items():
                book.state.update({(site, key): row for key, row in evaluator.state.take_changes().items()})
            self._move(before)
            book.write()
            self.deadlines.write()
        if any(step.lane for step in book.steps):
            self.steps_committed()
        if book.news:
            self.feed_committed()

    def _move(self, before: tuple[int, int, int]) -> None:
        after = (self.inbox_position, self.act_position, self.seq, self.at, self.delay_ms)
        if not storage.move_position(before, after):
            raise Superseded("another engine is at work")

    def _next(self, at: int) -> tuple[int, int]:
        """The next place in the journal; its time never runs back."""
        self.seq += 1
        self.at = max(self.at, at)
        return self.seq, self.at

    def _tick_until(self, at: int, book: Book) -> None:
        """Wake what is due by an instant, each at its own moment, so that a rehearsal sees the same ticks."""
        while (wake := self.next_wake()) is not None and wake <= at:
            for key in self.deadlines.take(wake):
                self._by_itself(key, wake, book)
            for site, evaluator in self.sites.items():
                if evaluator.next_wake() == wake:
                    seq, moment = self._next(wake)
                    book.note_entry(seq, moment, site, "tick")
                    self._carry_out(site, evaluator.apply(Tick(seq, moment)), moment, book)

    def _by_itself(self, key: Key, at: int, book: Book) -> None:
        """What was due happens, where its point is still there."""
        sensor = self.directory.sensors.get(key.point)
        unwatched = key.kind == STALE and (sensor is None or not sensor.stale_after)
        if key.point in self.directory.by_site.get(key.site, {}) and not unwatched:
            draft = Draft(key.site, key.kind, key.point, key.phase, at, at, None, {}, False, 0)
            self._event(key.site, draft, book, None)

    # -- acts ----------------------------------------------------------------------------------------------------------

    def _take_act(self, act: ActRow, book: Book) -> None:
        self.act_position = act.pk
        self._tick_until(max(act.at, self.at), book)
        if act.site not in self.sites:
            self.sites[act.site] = Evaluator(Facts(site=act.site, name=""))
        if act.type == "facts":
            self._new_facts(act, book)
        elif act.type == "pressed":
            self._press(act, book)
        elif act.type == "call":
            draft = _by_people(act, act.body["kind"], Phase.PULSE, act.body["fields"])
            self._event(act.site, draft, book, None)
        elif act.type == "trial":
            self._try_out(act, book)
        elif act.type in ("expired", "failed"):
            self.enter_event(act.site, book, act.at, *in_trouble(act, self.rule_names))
        elif act.type == "silent":
            for draft in note_silences(act, self.sites[act.site]):
                self._event(act.site, draft, book, None)
        else:
            self._act(act.site, book, act.at, act.type, act.body)

    def _act(
        self, site: str, book: Book, at: int, type: str, body: dict[str, Any], chain: tuple[str, ...] = ()
    ) -> None:
        before = self.sites[site].counter(str(body["target"])) if type == "counter" else 0
        seq, at = self._next(at)
        book.note_entry(seq, at, site, "act", {"act": type, **body})
        known = {name: body[name] for name in ("run", "person", "target", "value", "until") if name in body}
        self._carry_out(site, self.sites[site].apply(Act(seq, at, type, **known)), at, book)
        if type == "mode":
            book.tell(feed.mode(site, str(body["value"]), body.get("until"), at))
            go_by_mode(site, self.sites[site].mode(), at, book)
        elif type == "counter":
            book.tell(feed.counter(site, str(body["target"]), int(body["value"]), at))
            book.counts.stands(site, str(body["target"]), at, int(body["value"]))
            self._counted(site, book, at, str(body["target"]), before, int(body["value"]), chain)

    def _counted(
        self, site: str, book: Book, at: int, counter: str, before: int, value: int, chain: tuple[str, ...]
    ) -> None:
        name = self.sites[site].facts.name_of("counter", counter) or counter
        raised = counted(counter, name, before, value, chain)
        if raised is not None:
            self.enter_event(site, book, at, *raised)

    def _try_out(self, act: ActRow, book: Book) -> None:
        """A person tests one rule: the event is in the journal, marked, and no other rule is told of it."""
        body = act.body
        seq, at = self._next(act.at)
        event = Event(
            seq, body["kind"], body["point"], Phase(body["phase"]), at, act.at, act.at, None, body["fields"], test=True
        )
        book.note_event(act.site, event, None)
        until = at + round(float(body["lasts"]) * 1000)
        self._carry_out(act.site, self.sites[act.site].try_out(body["rule"], event, until), at, book)

    # -- what effects may ask (JournalKeeper) ----------------------------------------------------------------------------

    def counter(self, site: str, id: str) -> int:
        return self.sites[site].counter(id)

    def enter_act(
        self, site: str, book: Book, at: int, act: str, *, target: str = "", value: str | int = "",
        chain: tuple[str, ...] = (),
    ) -> None:  # fmt: skip
        self._act(site, book, at, act, {"target": target, "value": value}, chain)

    def enter_event(
        self, site: str, book: Book, at: int, kind: str, point: str, fields: dict[str, Scalar],
        chain: tuple[str, ...] = (), late: bool = False, test: bool = False,
    ) -> None:  # fmt: skip
        seq, moment = self._next(at)
        event = Event(seq, kind, point, Phase.PULSE, moment, at, moment, None, fields, late, False, chain, test)
        book.note_event(site, event, None)
        if not test:
            # What a test raises is seen, and told to no rule.
            self._carry_out(site, self.sites[site].apply(event), moment, book)

    def _new_facts(self, act: ActRow, book: Book) -> None:
        site = Site.objects.filter(id=act.site).first()
        if site is None:
            return
        evaluator, chain = self.sites[act.site], self.chains.setdefault(act.site, Chain())
        rule = act.body.get("rule")
        facts = facts_with_rule(evaluator.facts, rule) if rule and chain.body else facts_of(site)
        body = entry_for(evaluator.facts, facts, chain.changes) if chain.body else facts_to_json(facts)
        if body is not None:
            seq, at = self._next(act.at)
            book.note_entry(seq, at, act.site, "facts", body)
            chain.follow(body)
            outcome = evaluator.replace(facts, at)
            self._name_rules(facts)
            self._carry_out(act.site, outcome, at, book)
        if not rule:
            # How senders are known is no fact that rules refer to: a token of a point, a device's name.
            self.directory = Directory.read()
        book.tell(feed.facts(act.site, act.at))

    def _name_rules(self, facts: Facts) -> None:
        self.rule_names.update({r.id: str(r.document.get("name", "")) for r in facts.rules})

    def _press(self, act: ActRow, book: Book) -> None:
        """A desk button was pressed; one with two positions goes to another besides."""
        body = act.body
        fields: dict[str, Scalar] = body.get("fields") or {"person": body.get("name", "")}
        drafts = [("button.pressed", Phase.PULSE)]
        if body.get("on") is not None:
            drafts.append(("button.on", Phase.BEGIN if body["on"] else Phase.END))
        for kind, phase in drafts:
            self._event(act.site, _by_people(act, kind, phase, fields), book, None)

    # -- messages ------------------------------------------------------------------------------------------------------

    def _take_message(self, stored: inbox.Stored, book: Book) -> None:
        self.inbox_position = stored.id
        self.delay_ms = min(max(0, self.clock() - stored.message.received_at), 86_400_000)
        # Waking goes before the message; a backlog is worked off in its own time.
        self._tick_until(max(stored.message.received_at, self.at), book)
        for got in ingest(stored, self.directory):
            self._take(got, book)

    def _take(self, got: Ingested, book: Book) -> None:
        if isinstance(got, Draft):
            for draft in self._worth(got):
                self._event(draft.site, draft, book, draft.inbox)
        elif isinstance(got, Health):
            for draft in note_health(got, book):
                self._event(draft.site, draft, book, draft.inbox)
        elif isinstance(got, Catalogue):
            for draft in note_catalogue(got, self.at, book):
                self._event(draft.site, draft, book, draft.inbox)
            if got.content.get("doors"):
                # Which reader leads to which door is how their events are known.
                self.directory = Directory.read()
        elif isinstance(got, NotClaimed):
            self._unclaimed(got, book)

    def _worth(self, draft: Draft) -> list[Draft]:
        """What of a message is an event: readings are thinned."""
        sensor, evaluator = self.directory.sensors.get(draft.point), self.sites.get(draft.site)
        if draft.phase is not Phase.READING or evaluator is None:
            return [draft]
        found = self.readings.worth(draft, sensor, self.deadlines) if sensor else [draft]
        if evaluator.told_state(STALE, draft.point):
            # It tells again, whether or not that is new.
            return [replace(draft, kind=STALE, phase=Phase.END, fields={}), *found]
        return found

    def _event(self, site: str, draft: Draft, book: Book, inbox_id: int | None) -> None:
        evaluator = self.sites.get(site)
        if evaluator is None:
            return
        initial = late = False
        known = evaluator.told_state(draft.kind, draft.point)
        if draft.phase is Phase.END and known is False:
            # What has ended already does not end again.
            return
        if draft.told_on_request:
            if known == (draft.phase is Phase.BEGIN):
                return
            initial, late = known is None, known is not None
        seq, at = self._next(draft.received_at)
        event = Event(
            seq, draft.kind, draft.point, draft.phase, at, draft.occurred_at, draft.received_at, draft.device_at,
            draft.fields, late, initial,
        )  # fmt: skip
        book.note_event(site, event, inbox_id)
        self._carry_out(site, evaluator.apply(event), at, book)
        note_call(draft, seq, book)
        self._note_end(site, draft, at, book)

    def _note_end(self, site: str, draft: Draft, at: int, book: Book) -> None:
        """What ends by itself ends then, at once, or no more since it has."""
        key = Key(site, draft.kind, draft.point, Phase.END)
        if draft.phase is Phase.END:
            self.deadlines.cancel(key)
        elif draft.phase is Phase.BEGIN and draft.ends_after is not None:
            if draft.ends_after > 0:
                self.deadlines.set(key, at + round(draft.ends_after * 1000))
            else:
                self._event(site, replace(draft, phase=Phase.END, ends_after=None), book, draft.inbox)

    def _unclaimed(self, got: NotClaimed, book: Book) -> None:
        book.rows.append(
            Unclaimed(
                inbox=got.inbox, site_id=got.site, source=got.source, at=got.at, reason=got.reason, raw=got.raw,
                likeness=likeness(got.reason, got.raw),
            )
        )  # fmt: skip
        book.tell(feed.unclaimed(got.site, got.inbox, got.at))

    def _set_aside(self, stored: list[inbox.Stored], acts: list[ActRow]) -> None:
        """What breaks us must not stop the engine: a message is kept among the unclaimed, an act in the log."""
        with transaction.atomic():
            before = (self.inbox_position, self.act_position, self.seq)
            book = Book(self.clock())
            for message in stored:
                self.inbox_position = message.id
                known = {**self.directory.devices, **self.directory.intakes}.get(message.message.source)
                if known:
                    raw = message.message.body[:20_000].decode("utf-8", "replace")
                    reason = "The message could not be worked off; the engine's log says why."
                    self._unclaimed(NotClaimed(*known, reason, raw, message.message.received_at, message.id), book)
            for act in acts:
                self.act_position = act.pk
            self._move(before)
            book.write()

    # -- what follows --------------------------------------------------------------------------------------------------

    def _carry_out(self, site: str, outcome: Outcome, at: int, book: Book) -> None:
        for event in outcome.events:
            book.note_event(site, event, None, ticked=True)
        book.note_outcome(site, outcome, at, self.rule_names)
        if outcome.runs and logs.flow.hasHandlers():
            self._log(site, outcome.runs, book)
        for mode in outcome.modes:
            book.tell(feed.mode(site, mode, None, at))
            go_by_mode(site, mode, at, book)
        for order in outcome.orders:
            self._order(site, order, at, book)
        for run in outcome.ended:
            end_run(run, at, book)
        for joined in outcome.joined:
            join(joined, book)
        for order in outcome.orders:
            effect = EFFECTS[order.action]
            if isinstance(effect, FollowingEffect):
                effect.follow(site, order, book, self)
        for unreached in outcome.unreached:
            self.enter_event(site, book, at, *nobody_reached(unreached, self.rule_names))

    def _log(self, site: str, runs: Sequence[Run], book: Book) -> None:
        """A line for each run, with the message that began it."""
        for run in runs:
            message = book.message_of(run.event)
            if message is None:
                message = EventRow.objects.filter(seq=run.event).values_list("inbox", flat=True).first()
            logs.tell("run", message, run.event, run=run.ref, rule=run.rule, site=site)

    def _order(self, site: str, order: StepOrder, at: int, book: Book) -> None:
        effect = EFFECTS[order.action]
        if order.action == "alarm":
            evaluator = self.sites[site]
            known = {
                "lasting": evaluator.runs.lasts(order.rule, order.run),
                "suppressed": evaluator.mode() in order.payload.get("quiet_in", ()),
            }
            order = replace(order, payload={**order.payload, **known})
        if isinstance(effect, InsideEffect):
            effect.apply(site, order, book, at)
        else:
            book.note_step(site, order, Step.Status.DUE, lane=effect.lane(order, book.now))

    # -- housekeeping --------------------------------------------------------------------------------------------------

    def beat(self) -> None:
        """Say that the engine is alive, have back what was shelved until now, and end calls that nobody ended."""
        EnginePosition.objects.filter(id=1).update(beat=self.clock())
        if something_is_over(self.clock()):
            with writer.turn(), transaction.atomic():
                give_up(self.clock())
            self.feed_committed()
        if something_on_shelf(self.clock()):
            with writer.turn(), transaction.atomic():
                back_from_shelf(self.clock())
            self.feed_committed()

    def checkpoint(self) -> None:
        """Keep all evaluator rows once in a while."""
        upkeep.checkpoint(self.sites, self.seq, self.at)

    def tidy(self) -> None:
        """Delete what pages have long heard."""
        upkeep.tidy(self.clock())


def _by_people(act: ActRow, kind: str, phase: Phase, fields: dict[str, Scalar]) -> Draft:
    """An event at a point that somebody at a desk has caused."""
    return Draft(act.site, kind, act.body["point"], phase, act.at, act.at, None, fields, False, 0)


def _nobody() -> None:
    """Nobody needs to be told."""


def _state_of(site: str) -> State:
    """What the evaluator of a site knew. Rows of an earlier release are brought up to date, and kept so with the next
    transaction; those of a later one are left alone, and nothing is known."""
    by_format: dict[int, list[tuple[RowKey, Row]]] = {}
    for rule, key, row, written in EvaluatorRow.objects.filter(site=site).values_list("rule", "key", "row", "format"):
        by_format.setdefault(written, []).append(((rule, key), row))
    state = State(by_format.pop(STATE_FORMAT, []))
    for written, rows in by_format.items():
        try:
            for (rule, key), row in upgraded(rows, written):
                state.put(rule, key, row)
        except ValueError as error:
            log.error("%s; site %s begins without them", error, site)
    return state
