"""What the evaluator is fed: events and the other entries of the journal.

Entries are named tuples, not dataclasses: a rehearsal makes millions of them.
"""

from collections.abc import Mapping
from enum import StrEnum
from types import MappingProxyType
from typing import NamedTuple

from dromikon.core.instants import Instant

Scalar = str | int | float | bool | None
NO_FIELDS: Mapping[str, Scalar] = MappingProxyType({})


class Phase(StrEnum):
    """How an event stands in time."""

    BEGIN = "begin"
    END = "end"
    PULSE = "pulse"
    READING = "reading"


class Event(NamedTuple):
    """Something that happened at one point.

    `at` is journal time (never decreasing), on which rules run. `occurred_at` is the device's time corrected by its
    measured clock offset, or else the time of receipt: pictures, pre-roll and bookmarks use it. `point` is empty for
    what happens to the site as a whole.
    """

    seq: int
    kind: str
    point: str
    phase: Phase
    at: Instant
    occurred_at: Instant
    received_at: Instant
    device_at: Instant | None = None
    fields: Mapping[str, Scalar] = NO_FIELDS
    #: A state that changed while the device was away. May raise alarms and bookmarks, never once-only steps.
    late: bool = False
    #: State told on the very first connection. Sets state and starts nothing.
    initial: bool = False
    #: The rules whose derived events led to this one, the first one first.
    chain: tuple[str, ...] = ()
    #: Made up by a person who tests a rule: it is for that rule alone, and whatever it says is marked.
    test: bool = False


class Tick(NamedTuple):
    """Time has come: waiting rules and pending steps that are due by `at` go on."""

    seq: int
    at: Instant


class Act(NamedTuple):
    """Something done to the site or to a run, by an operator or by a step.

    `act` is ``acknowledged`` (a `run`, by a `person`), ``mode`` (the site goes to mode `value`; with `until`, back to the
    one before at that moment), ``counter`` (counter `target` now stands at `value`), ``paused`` (rule `target` at camera
    `value`, `until` a moment) or ``resumed``.
    """

    seq: int
    at: Instant
    act: str
    run: str = ""
    person: str = ""
    target: str = ""
    value: str | int = ""
    until: Instant | None = None


JournalEntry = Event | Tick | Act
