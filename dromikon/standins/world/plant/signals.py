"""What the gateway tells: one thing that happened at one point."""

import random
from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import date

from dromikon.standins.world.calendar import instant

Value = str | int | float | bool | None


@dataclass(frozen=True, slots=True)
class Provoked:
    """A provocation that concerns the plant."""

    name: str
    at: int


@dataclass(frozen=True)
class Signal:
    """An event in the gateway's plain form, with its moment."""

    at: int
    kind: str
    point: str
    phase: str
    fields: dict[str, Value] = field(default_factory=dict)
    #: What is really written on a plate, whatever its reader made of it. It is not told.
    truth: str = ""


def dice(seed: int, name: str, day: date) -> random.Random:
    """The same dice for the same instrument and day."""
    return random.Random(f"{seed}/{name}/{day.isoformat()}")


def around(rnd: random.Random, day: date, hour: float, minutes: float) -> int:
    """An instant within some minutes after an hour of the garden's day."""
    return instant(day, hour) + round(rnd.random() * minutes * 60_000)


def at_times(rnd: random.Random, day: date, first: float, last: float, per_hour: float) -> Iterator[int]:
    """Instants at which something happens by chance, so many an hour on average."""
    at, end = float(instant(day, first)), instant(day, last)
    while True:
        at += rnd.expovariate(per_hour / 3_600_000)
        if at >= end:
            return
        yield int(at)


def state(at: int, seconds: float, kind: str, point: str) -> Iterator[Signal]:
    """A state that begins and ends."""
    yield Signal(at, kind, point, "begin")
    yield Signal(at + round(seconds * 1000), kind, point, "end")


def names_of(provoked: tuple[Provoked, ...], name: str) -> Iterator[int]:
    """The moments at which something was provoked."""
    return (p.at for p in provoked if p.name == name)
