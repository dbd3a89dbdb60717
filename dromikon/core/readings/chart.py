"""A chart of readings as lines and places on a sheet: pure geometry, which a page draws."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Protocol

from dromikon.core.instants import Instant

Spot = tuple[float, float]


class Reads(Protocol):
    """A short while of readings."""

    @property
    def at(self) -> Instant: ...
    @property
    def low(self) -> float: ...
    @property
    def high(self) -> float: ...
    @property
    def mean(self) -> float: ...


@dataclass(frozen=True, slots=True)
class Sheet:
    """What is drawn on: from when to when, and how large, in pixels."""

    start: Instant
    end: Instant
    wide: float
    tall: float

    def x(self, at: Instant) -> float:
        return round((at - self.start) / (self.end - self.start) * self.wide, 1)


@dataclass(frozen=True, slots=True)
class Chart:
    """`lines`: the means, broken where nothing was read for long; `bands`: from the least to the most, as outlines; `limits` and
    `ticks`: heights with their values."""

    lines: list[list[Spot]]
    bands: list[list[Spot]]
    limits: list[tuple[float, float]]
    ticks: list[tuple[float, float]]


def chart(read: Sequence[Reads], limits: Sequence[float], sheet: Sheet, longest: int) -> Chart:
    """A chart of what was read, with limits drawn in. `longest`: a pause of more than so many ms breaks the line."""
    if not read:
        return Chart([], [], [], [])
    low = min([*(r.low for r in read), *limits])
    high = max([*(r.high for r in read), *limits])
    room = (high - low) * 0.08 or 1.0
    low, high = low - room, high + room

    def y(value: float) -> float:
        return round(sheet.tall - (value - low) / (high - low) * sheet.tall, 1)

    stretches = _stretches(read, longest)
    return Chart(
        [[(sheet.x(r.at), y(r.mean)) for r in stretch] for stretch in stretches],
        [_band(stretch, sheet, y) for stretch in stretches if any(r.high > r.low for r in stretch)],
        [(y(limit), limit) for limit in sorted(set(limits))],
        [(y(tick), tick) for tick in ticks(low, high)],
    )


def _stretches(read: Sequence[Reads], longest: int) -> list[list[Reads]]:
    found = [[read[0]]]
    for before, after in pairwise(read):
        if after.at - before.at > longest:
            found.append([])
        found[-1].append(after)
    return found


def _band(stretch: Sequence[Reads], sheet: Sheet, y: "Height") -> list[Spot]:
    there = [(sheet.x(r.at), y(r.high)) for r in stretch]
    back = [(sheet.x(r.at), y(r.low)) for r in reversed(stretch)]
    return there + back


class Height(Protocol):
    def __call__(self, value: float) -> float: ...


def ticks(low: float, high: float, about: int = 4) -> list[float]:
    """Round values between two others: about so many, a step of 1, 2 or 5 apart."""
    rough = (high - low) / about
    power = 10.0 ** math.floor(math.log10(rough))
    step = next(power * k for k in (1, 2, 5, 10) if power * k >= rough)
    first = math.ceil(low / step)
    last = math.floor(high / step)
    return [float(f"{k * step:.10g}") for k in range(first, last + 1)]
