"""A case put to a rule: events made up or taken from the past, at a moment, in a mode; and what the rule would make of them.

Nothing is carried out. It is decided by the evaluator that runs live, with the clock moved from one moment at which it wants
to be woken to the next.
"""

from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from dromikon.core.events import Act, Event, Phase, Scalar, Tick
from dromikon.core.facts import Facts, LiveRule
from dromikon.core.instants import Instant
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.evaluate import Evaluator
from dromikon.core.rules.outcome import Dropped, Outcome, StepOrder, Verdict
from dromikon.core.rules.state import Row, RowKey, State

#: The rule under trial, where it is not live.
DRAFT = "draft"
#: After the last event so long is waited for what the rule still does, in ms; and for a clock that is to set it off.
AFTERWARDS, FOR_THE_CLOCK = 86_400_000, 8 * 86_400_000
#: A rule that wants to be woken more often than this has no end.
MOST_WAKES = 2_000


class Occurrence(BaseModel):
    """An event of a case; `after`: seconds after the case's moment. `of`: the event of the past that it repeats, whose personal
    fields (a face's) it has without their being told to anybody."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    kind: Annotated[str, Field(min_length=1, max_length=60)]
    point: Annotated[str, Field(max_length=40)] = ""
    phase: Phase = Phase.PULSE
    fields: Annotated[dict[str, Scalar], Field(max_length=40)] = {}
    after: Annotated[float, Field(ge=0, le=86_400)] = 0.0
    of: Annotated[int | None, Field(ge=0)] = None


class Case(BaseModel):
    """What is put to a rule. `at`: the wall clock as "2026-12-05T23:00", empty: now. `mode`: of the site, empty: as it is.
    `states` ("kind@point": on) and `counters` (id: value) are how the site stands then; None: as it does now. `answered`:
    seconds after a run's start at which somebody acknowledges; None: nobody does."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    events: Annotated[tuple[Occurrence, ...], Field(max_length=20)] = ()
    at: Annotated[str, Field(pattern=r"^(\d{4}-\d\d-\d\dT\d\d:\d\d(:\d\d)?)?$")] = ""
    mode: Annotated[str, Field(max_length=60)] = ""
    states: Annotated[dict[str, bool] | None, Field(max_length=500)] = None
    counters: Annotated[dict[str, int] | None, Field(max_length=100)] = None
    answered: Annotated[float | None, Field(ge=0, le=86_400)] = None


@dataclass(slots=True)
class Tried:
    """What came of it. `zero`: when the last run began, else the case's moment; what is planned goes by it."""

    zero: Instant
    #: The case's events as the evaluator was given them, and the clock's, by number.
    events: dict[int, Event] = field(default_factory=dict)
    verdicts: list[Verdict] = field(default_factory=list)
    runs: list[str] = field(default_factory=list)
    orders: list[StepOrder] = field(default_factory=list)
    dropped: list[Dropped] = field(default_factory=list)

    @property
    def fired(self) -> bool:
        return bool(self.runs)


def try_case(
    document: RuleDocument,
    facts: Facts,
    case: Case,
    at: Instant,
    rows: Iterable[tuple[RowKey, Row]] = (),
    id: str = DRAFT,
) -> Tried:
    """Put a case to a rule at an instant. `rows`: what the evaluator remembers of the site (states, counters); of the rule
    itself it remembers nothing."""
    rule = LiveRule(id=id, revision=1, document=document.to_json())
    known = {key: row for key, row in rows if key[0] == ""}
    known.update({("", pair): {"on": on} for pair, on in (case.states or {}).items()})
    known.update({("", f"counter|{id}"): {"value": value} for id, value in (case.counters or {}).items()})
    evaluator = Evaluator(facts.model_copy(update={"rules": (rule,)}), State(known.items()))
    evaluator.replace(evaluator.facts, at)
    trial = _Trial(evaluator, id, case, Tried(zero=at), at)
    trial.go()
    return trial.found


class _Trial:
    """One case on its way through the evaluator."""

    def __init__(self, evaluator: Evaluator, rule: str, case: Case, found: Tried, at: Instant) -> None:
        self.evaluator, self.rule, self.case, self.found, self.at = evaluator, rule, case, found, at
        self.seq = 0
        self.begin = at
        self.answers: list[tuple[Instant, str]] = []

    def go(self) -> None:
        if self.case.mode:
            self._take(self.evaluator.apply(Act(self._next(), self.at, "mode", value=self.case.mode)))
        last = self.begin
        for one in sorted(self.case.events, key=lambda o: o.after):
            last = self.begin + round(one.after * 1000)
            self._until(last)
            event = Event(self._next(), one.kind, one.point, one.phase, last, last, last, None, dict(one.fields))
            self.found.events[event.seq] = event
            self._take(self.evaluator.apply(event))
        self._until(last + (AFTERWARDS if self.case.events else FOR_THE_CLOCK), stop=not self.case.events)

    def _until(self, end: Instant, stop: bool = False) -> None:
        """Let time pass. With `stop` a clock is waited for: the run that it begins is followed to its end, and no other."""
        for _ in range(MOST_WAKES):
            if stop and self.found.runs:
                end, stop = self.found.zero + AFTERWARDS // 2, False
            wake = self.evaluator.next_wake()
            answer = min(self.answers, default=None)
            if answer is not None and answer[0] <= end and (wake is None or answer[0] <= wake):
                self.answers.remove(answer)
                self._take(self.evaluator.apply(Act(self._next(), answer[0], "acknowledged", run=answer[1])))
            elif wake is not None and wake <= end:
                self._take(self.evaluator.apply(Tick(self._next(), wake)))
            else:
                return

    def _next(self) -> int:
        self.seq += 1
        return self.seq

    def _take(self, outcome: Outcome) -> None:
        found = self.found
        found.events.update({event.seq: event for event in outcome.events})
        found.verdicts += [v for v in outcome.verdicts if v.rule == self.rule]
        for run in outcome.runs:
            found.runs.append(run.ref)
            found.zero = run.at
            if self.case.answered is not None:
                self.answers.append((run.at + round(self.case.answered * 1000), run.ref))
        found.orders += outcome.orders
        found.dropped += outcome.dropped
