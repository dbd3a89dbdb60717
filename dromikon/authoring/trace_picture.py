"""An event's path through the rules that looked at it, as places on the common axis: what each rule asked and where it stopped,
and what its run did when."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from dromikon.core.instants import Instant
from dromikon.core.rules.actions import ACTIONS
from dromikon.core.rules.trace_axis import place, reach_of, ticks
from dromikon.core.words import t
from dromikon.daybook.models import Step

#: So many steps of a run are drawn; the rest is counted.
MOST_STEPS = 12


@dataclass(frozen=True, slots=True)
class Gate:
    """One thing a rule asked, in order: what in words, and whether it was so (None: it waits)."""

    label: str
    said: str
    held: bool | None


@dataclass(frozen=True, slots=True)
class Deed:
    """One step of a run: what, its place on the axis from 0 to 1, until where it was held, how it stands, and the seconds."""

    words: str
    status: str
    x: float
    until: float | None
    seconds: float


@dataclass(frozen=True, slots=True)
class Path:
    """The event's way through one rule. `stopped`: the number of the gate that it did not pass."""

    rule: str
    name: str
    outcome: str
    words: str
    gates: tuple[Gate, ...]
    stopped: int | None
    deeds: tuple[Deed, ...]
    more: int


@dataclass(frozen=True, slots=True)
class Picture:
    """All paths on one axis; `ticks` are (seconds, place)."""

    paths: tuple[Path, ...]
    ticks: tuple[tuple[int, float], ...]


def picture_of(trace: Iterable[dict[str, Any]], zero: Instant) -> Picture:
    """The picture of a trace as `trace.trace_of` tells it, for an event that happened at an instant."""
    told = list(trace)
    moments = [_since(step, zero) for one in told for step in _steps(one)]
    reach = reach_of(moments)
    return Picture(tuple(_path(one, zero, reach) for one in told), tuple(ticks(reach)))


def _path(told: dict[str, Any], zero: Instant, reach: float) -> Path:
    gates = tuple(
        Gate(line.label, f"{line.seen} ({line.wanted})" if line.wanted else line.seen, line.held)
        for line in told["lines"]
    )
    stopped = next((i for i, gate in enumerate(gates) if gate.held is False), None)
    deeds = _deeds(_steps(told), zero, reach)
    return Path(
        told["rule"], told["name"], told["outcome"], told["words"], gates, stopped, tuple(deeds[:MOST_STEPS]),
        max(0, len(deeds) - MOST_STEPS),
    )  # fmt: skip


def _called(action: str) -> str:
    return t(ACTIONS[action].label) if action in ACTIONS else action


def _steps(told: dict[str, Any]) -> list[tuple[Step, str]]:
    return [(line["step"], line["target"]) for line in told["steps"] if "step" in line]


def _since(found: tuple[Step, str], zero: Instant) -> float:
    step, _ = found
    return max(0.0, ((step.done_at or step.due) - zero) / 1000)


def _deeds(found: list[tuple[Step, str]], zero: Instant, reach: float) -> list[Deed]:
    """A step and what lets go of it are one, held from here to there."""
    released = {(s.step, s.part, s.target): _since((s, target), zero) for s, target in found if s.release}
    deeds = []
    for step, target in found:
        if step.release:
            continue
        after, end = _since((step, target), zero), released.get((step.step, step.part, step.target))
        words = f"{_called(step.action)} {target}".strip()
        deeds.append(
            Deed(words, str(step.status), place(after, reach), place(end, reach) if end is not None else None, after)
        )
    return deeds
