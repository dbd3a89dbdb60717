"""What the evaluator is fed: events and the other entries of the journal."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum

from dromikon.core.instants import Instant

Scalar = str | int | float | bool | None


class Phase(StrEnum):
    """How an event stands in time."""

    BEGIN = "begin"
    END = "end"
    PULSE = "pulse"
    READING = "reading"


@dataclass(frozen=True, slots=True)
class Event:
    """Something that happened at one point.

    `at` is journal time (never decreasing), on which rules run. `occurred_at` is the device's time corrected by its
    measured clock offset, or else the time of receipt: pictures, pre-roll and bookmarks use it.
    """

    seq: int
    kind: str
    point: str
    phase: Phase
    at: Instant
    occurred_at: Instant
    received_at: Instant
    device_at: Instant | None = None
    fields: Mapping[str, Scalar] = field(default_factory=dict)
    #: A state that changed while the device was away. May raise alarms and bookmarks, never once-only steps.
    late: bool = False
    #: State told on the very first connection. Sets state and starts nothing.
    initial: bool = False


@dataclass(frozen=True, slots=True)
class Tick:
    """Time has come: waiting rules and pending steps that are due by `at` go on."""

    seq: int
    at: Instant


@dataclass(frozen=True, slots=True)
class Act:
    """An operator's act on a run: `acknowledged`, by whom."""

    seq: int
    at: Instant
    act: str
    run: str
    person: str


JournalEntry = Event | Tick | Act
