"""What the evaluator answers with."""

from dataclasses import dataclass
from typing import Any, NamedTuple

from dromikon.core.events import Event
from dromikon.core.instants import Instant
from dromikon.core.rules.actions import Delivery
from dromikon.core.rules.actions.base import Payload
from dromikon.core.rules.condition import Seen


class Verdict(NamedTuple):
    """What one rule made of one event. `outcome` is one of those in `explain.OUTCOMES`."""

    event: int
    rule: str
    revision: int
    outcome: str
    seen: tuple[Seen, ...] = ()
    due: Instant | None = None
    run: str | None = None


class Run(NamedTuple):
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
    test: bool = False


@dataclass(frozen=True, slots=True)
class StepOrder:
    """One step of one run for one target, due now. `part` tells repeats apart. `release` undoes the same step's earlier
    order."""

    run: str
    rule: str
    step: int
    action: str
    delivery: Delivery
    target: str
    payload: Payload
    due: Instant
    release: bool = False
    part: int = 0
    #: How long after its moment it may be sent, in ms; None: as its delivery wants.
    lives: int | None = None
    #: What its own conditions and hours saw.
    seen: tuple[Seen, ...] = ()


@dataclass(frozen=True, slots=True)
class Dropped:
    """A step that was planned and will not be carried out, and why."""

    run: str
    step: int
    part: int
    action: str
    due: Instant
    why: str
    #: What turned it away, where its own conditions and hours did.
    seen: tuple[Seen, ...] = ()
    rule: str = ""


@dataclass(frozen=True, slots=True)
class Joined:
    """A repeat that counts towards a run's open alarm instead of making a run."""

    run: str
    event: int
    at: Instant


@dataclass(frozen=True, slots=True)
class Summed:
    """What a hold-off kept back within its window, in one line. `run` is the last one it let through."""

    run: str
    rule: str
    point: str
    count: int
    since: Instant
    until: Instant


@dataclass(frozen=True, slots=True)
class Unreached:
    """A step for persons that nobody could be reached with. `event` is what set the run off."""

    run: str
    rule: str
    action: str
    event: Event
    due: Instant


class Outcome:
    """Everything that follows from one journal entry. `events` are those that the clock made; `modes` those that the site
    went back to.

    One is made for each event that some rule looks at, and most have no more than verdicts: other lists come into being
    when they are asked for.
    """

    __slots__ = ("dropped", "ended", "events", "joined", "modes", "orders", "runs", "sums", "unreached", "verdicts")

    verdicts: list[Verdict]
    runs: list[Run]
    orders: list[StepOrder]
    ended: list[str]
    dropped: list[Dropped]
    joined: list[Joined]
    sums: list[Summed]
    unreached: list[Unreached]
    events: list[Event]
    modes: list[str]

    def __init__(self) -> None:
        self.verdicts = []
        self.runs = []

    def __getattr__(self, name: str) -> list[Any]:
        if name not in Outcome.__slots__:
            raise AttributeError(name)
        made: list[Any] = []
        setattr(self, name, made)
        return made


#: Shared by all entries that nothing follows from; never written to.
NOTHING = Outcome()
