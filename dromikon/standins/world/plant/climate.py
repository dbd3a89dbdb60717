"""Sensors: temperatures, humidity, wind, people counted, regions measured. Each tells its value every twenty minutes, and
at once while it changes quickly."""

import math
from collections.abc import Callable, Iterator
from datetime import date
from functools import partial

from dromikon.standins.world.calendar import instant, opening
from dromikon.standins.world.plant.signals import Provoked, Signal, around, dice, names_of

EVERY, DAY = 1_200_000, 86_400_000
#: A freezer warms by this many degrees an hour with its door ajar, and cools back faster.
WARMS, COOLS = 48.0, 70.0
FREEZER = -21.0


def readings(seed: int, day: date, provoked: tuple[Provoked, ...]) -> Iterator[Signal]:
    """All sensors of a day."""
    open_doors = [(at, at + 14 * 60_000) for at in names_of(provoked, "warm-freezer")]
    defrosts = around(dice(seed, "defrost", day), day, 3.2, 30)
    warmings = [*open_doors, (defrosts, defrosts + 240_000)]
    begins = instant(day, 0)
    for k in range(DAY // EVERY):
        at = begins + k * EVERY
        hour = k * EVERY / 3_600_000
        wobble = dice(seed, f"climate{k}", day)
        yield _reading(at, "freezer-temp", round(_freezer(at, warmings) + wobble.uniform(-0.3, 0.3), 1), "°C")
        yield _reading(
            at,
            "orchid-temp",
            round(23 + 2.2 * math.sin((hour - 9) / 24 * math.tau) + wobble.uniform(-0.4, 0.4), 1),
            "°C",
        )
        yield _reading(
            at, "orchid-humidity", round(74 - 9 * math.sin((hour - 8) / 24 * math.tau) + wobble.uniform(-3, 3)), "%"
        )
        yield _reading(at, "wind", round(max(0.4, _wind(seed, day, hour) + wobble.uniform(-1.2, 1.2)), 1), "m/s")
        yield Signal(at + 7_000, "scene.count", "palm-count", "reading", {"value": _people(seed, day, hour)})
        yield Signal(at + 9_000, "scene.temperature", "boiler-flue", "reading", {"value": _flue(seed, day, hour)})
        yield Signal(
            at + 9_500, "scene.temperature", "boiler-pump", "reading", {"value": round(41 + wobble.uniform(-1, 1), 1)}
        )
    for start, end in open_doors:
        yield from _closely(start, end, lambda at: _reading(at, "freezer-temp", round(_freezer(at, warmings), 1), "°C"))
    for start in names_of(provoked, "gale"):
        yield from _closely(start, start + 240_000, partial(_gale, start))


def _closely(start: int, end: int, tell: Callable[[int], Signal]) -> Iterator[Signal]:
    """Every 15 seconds while something goes on, and as long again after it."""
    return (tell(at) for at in range(start + 15_000, 2 * end - start, 15_000))


def _reading(at: int, point: str, value: float, unit: str) -> Signal:
    return Signal(at, "sensor.reading", point, "reading", {"value": value, "unit": unit})


def _freezer(at: int, open_doors: list[tuple[int, int]]) -> float:
    """Warming while a door stands ajar, cooling back after."""
    warmest = FREEZER
    for start, end in open_doors:
        if at < start:
            continue
        warmed = FREEZER + WARMS * (min(at, end) - start) / 3_600_000
        cooled = warmed - COOLS * max(0, at - end) / 3_600_000
        warmest = max(warmest, cooled)
    return warmest


def _wind(seed: int, day: date, hour: float) -> float:
    mood = dice(seed, "wind", day)
    base, storm = mood.uniform(2, 7), mood.random() < 0.3
    swell = 9.0 * math.exp(-(((hour - mood.uniform(11, 18)) / 1.5) ** 2)) if storm else 0.0
    return base + 1.5 * math.sin(hour / 24 * math.tau * 2) + swell


def _gale(since: int, at: int) -> Signal:
    return _reading(at, "wind", _gust(at - since), "m/s")


def _gust(since: int) -> float:
    return round(5 + 13 * math.sin(min(1.0, since / 240_000) * math.pi), 1)


def _people(seed: int, day: date, hour: float) -> int:
    hours = opening(day)
    if not hours or not hours[0] <= hour < hours[1] + 0.5:
        return 0
    middle = (hours[0] + hours[1]) / 2
    crowd = dice(seed, "crowd", day).choice((48, 60, 75, 90, 128))
    bell = math.exp(-(((hour - middle) / 1.6) ** 2))
    return max(0, round(crowd * bell + dice(seed, f"people{hour:.2f}", day).uniform(-5, 5)))


def _flue(seed: int, day: date, hour: float) -> float:
    """The boiler fires in the early morning and in the evening; on some days the burner runs hot."""
    mood = dice(seed, "flue", day)
    peak = 88.0 if mood.random() < 0.3 else 76.0
    fired = max(math.exp(-(((hour - 5.5) / 1.1) ** 2)), math.exp(-(((hour - 18.5) / 1.4) ** 2)))
    return round(38 + (peak - 38) * fired, 1)
