"""What one transaction will write: gathered while entries are worked off, written at its end in few statements."""

from dataclasses import dataclass, field
from typing import Any

from dromikon.core.events import Event
from dromikon.core.rules.actions import Delivery
from dromikon.core.rules.outcome import Dropped, Outcome, StepOrder, Summed
from dromikon.core.rules.parts import seconds
from dromikon.core.rules.state import STATE_FORMAT, RowKey
from dromikon.core.rules.state import Row as EvaluatorState
from dromikon.daybook import feed, storage, tally
from dromikon.daybook.counts import Counted
from dromikon.daybook.models import EventRow, LineRow, RunRow, Step
from dromikon.daybook.storage import Row, dumps
from dromikon.desk.models import Alarm, Evidence

#: How long after its moment a step may still be sent, in ms. Releases never expire.
EXPIRY = {Delivery.ONCE_ONLY: 10_000, Delivery.REPEATABLE: 86_400_000}

#: Where the message stands in an event's row.
_MESSAGE = [f.attname for f in EventRow._meta.concrete_fields].index("inbox")


@dataclass
class Book:
    """Rows to be written. Runs of this transaction can be looked up before they are in the database."""

    #: The wall clock when the transaction began; the journal's time may lie far behind it.
    now: int = 0
    journal: list[Row] = field(default_factory=list)
    events: list[Row] = field(default_factory=list)
    happened: list[tuple[str, Event]] = field(default_factory=list)
    verdicts: list[Row] = field(default_factory=list)
    runs: dict[str, RunRow] = field(default_factory=dict)
    steps: list[Step] = field(default_factory=list)
    alarms: list[tuple[Alarm, list[Evidence]]] = field(default_factory=list)
    rows: list[Any] = field(default_factory=list)
    lines: list[LineRow] = field(default_factory=list)
    news: list[feed.News] = field(default_factory=list)
    counts: Counted = field(default_factory=Counted)
    state: dict[tuple[str, RowKey], EvaluatorState | None] = field(default_factory=dict)

    def note_entry(self, seq: int, at: int, site: str, type: str, body: dict[str, Any] | None = None) -> None:
        """A journal entry."""
        self.journal.append((seq, at, site, type, dumps(body)))

    def note_event(self, site: str, event: Event, inbox: int | None, ticked: bool = False) -> None:
        """An event, which is a journal entry of its own unless the clock made it (`ticked`): then its tick is."""
        if not ticked:
            self.note_entry(event.seq, event.at, site, "event")
        phase = event.phase.value
        self.events.append(
            (
                event.seq, site, event.kind, event.point, phase, event.at, event.occurred_at, event.received_at,
                event.device_at, dumps(dict(event.fields)), event.late, event.initial, dumps(list(event.chain)), inbox,
                event.test,
            )
        )  # fmt: skip
        if not event.test:
            self.happened.append((site, event))
        self.tell(feed.event(site, event))

    def message_of(self, event: int) -> int | None:
        """The message of an event of this transaction; None where it had none or is an earlier one."""
        return next((row[_MESSAGE] for row in self.events if row[0] == event), None)

    def note_outcome(self, site: str, outcome: Outcome, at: int, rule_names: dict[str, str]) -> None:
        """Verdicts and runs; steps are noted by the effects that carry them out."""
        for v in outcome.verdicts:
            seen = dumps([list(s) for s in v.seen])
            self.verdicts.append((v.event, site, v.rule, v.revision, at, v.outcome, seen, v.due, v.run))
        for r in outcome.runs:
            self.runs[r.ref] = RunRow(
                ref=r.ref, site=site, rule=r.rule, rule_name=rule_names.get(r.rule, ""), revision=r.revision,
                event=r.event, point=r.point, at=r.at, zero=r.zero, late=r.late, test=r.test,
            )  # fmt: skip
            self.tell(feed.run(site, r.ref, r.rule, r.point, r.zero, r.event, at))
        for dropped in outcome.dropped:
            self._note_dropped(site, dropped, at)
        for summed in outcome.sums:
            self.note_line(site, at, summed.point, _sum_text(summed, rule_names), summed.run)

    def note_line(self, site: str, at: int, point: str, text: str, run: str) -> None:
        """A line in the daybook."""
        self.lines.append(LineRow(site=site, at=at, point=point, text=text[:1000], run=run))
        self.tell(feed.line(site, run, point, at))

    def _note_dropped(self, site: str, dropped: Dropped, at: int) -> None:
        self.steps.append(
            Step(
                run=dropped.run, site=site, step=dropped.step, part=dropped.part, action=dropped.action, delivery="",
                status=Step.Status.DROPPED, due=dropped.due, done_at=at, answer=f"Not carried out: {dropped.why}.",
                seen=[list(s) for s in dropped.seen],
            )
        )  # fmt: skip

    def run(self, ref: str) -> RunRow:
        """A run of this transaction, or an earlier one."""
        if ref not in self.runs:
            return RunRow.objects.get(ref=ref)
        return self.runs[ref]

    def note_step(
        self, site: str, order: StepOrder, status: str, *, lane: str = "", part: int | None = None, **more: Any
    ) -> Step:
        """A row for one step. For outside steps this is the outbox."""
        lifetime = order.lives or EXPIRY.get(order.delivery)
        step = Step(
            run=order.run, site=site, step=order.step, part=order.part if part is None else part, action=order.action, target=order.target,
            release=order.release, delivery=order.delivery.value, lane=lane, payload=order.payload, status=status,
            due=order.due, next_try=order.due if status == Step.Status.DUE else None,
            expires=order.due + lifetime if lifetime else None, seen=[list(s) for s in order.seen],
        )  # fmt: skip
        for name, value in more.items():
            setattr(step, name, value)
        self.steps.append(step)
        return step

    def tell(self, news: feed.News) -> None:
        """Tell pages, once this is committed."""
        self.news.append(news)

    def tell_of_alarm(self, alarm: Alarm, at: int, sound: str) -> None:
        """Tell its recipients' pages how an alarm stands."""
        title = alarm.title if sound != "none" or at == alarm.raised_at else ""
        told = feed.alarm(
            alarm.site_id, alarm.pk, alarm.state, alarm.zero, alarm.groups, at, sound=sound, title=title
        )  # fmt: skip
        self.tell(told)

    def write(self) -> None:
        """Write everything. Call inside the transaction."""
        storage.JOURNAL.insert(self.journal)
        storage.EVENTS.insert(self.events)
        storage.TALLY.insert(tally.rows_of(self.happened))
        storage.COUNTS.insert(self.counts.rows())
        storage.VERDICTS.insert(self.verdicts)
        storage.RUNS.insert_models(r for r in self.runs.values() if r.pk is None)
        for alarm, evidence in self.alarms:
            alarm.save(force_insert=True)
            Evidence.objects.bulk_create(evidence)
            self.tell_of_alarm(alarm, alarm.raised_at, "none" if alarm.suppressed else alarm.sound)
        storage.STEPS.insert_models(self.steps)
        storage.LINES.insert_models(self.lines)
        for row in self.rows:
            row.save(force_insert=True)
        self._write_state()
        storage.FEED.insert(map(storage.feed_row, self.news))

    def _write_state(self) -> None:
        kept = [
            (site, rule, key, STATE_FORMAT, dumps(row))
            for (site, (rule, key)), row in self.state.items()
            if row is not None
        ]
        storage.STATE.insert(kept)
        storage.delete_state([(site, rule, key) for (site, (rule, key)), row in self.state.items() if row is None])


def _sum_text(summed: Summed, rule_names: dict[str, str]) -> str:
    """One line for all that a hold-off kept back."""
    name = rule_names.get(summed.rule, summed.rule)
    span = max(1, round((summed.until - summed.since) / 1000))
    if span >= 120:
        span = round(span / 60) * 60
    return f"{summed.count} more of “{name}” within {seconds(span)}, kept back"
