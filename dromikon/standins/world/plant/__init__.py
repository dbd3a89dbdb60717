"""The garden's other systems: doors and badges, plates, faces, calls, sensors, power. What the gateway tells of them.

Each instrument is a function of seed, day and what was provoked; a day's signals are computed once.
"""

from collections.abc import Callable, Iterable
from datetime import date, timedelta

from dromikon.standins.world.calendar import instant, local_day
from dromikon.standins.world.plant.climate import readings
from dromikon.standins.world.plant.controllers import controllers
from dromikon.standins.world.plant.house import house
from dromikon.standins.world.plant.signals import Provoked, Signal
from dromikon.standins.world.plant.turnstile import turnstile
from dromikon.standins.world.plant.vault import vault
from dromikon.standins.world.plant.wicket import gate_and_wicket

Instrument = Callable[[int, date, tuple[Provoked, ...]], Iterable[Signal]]
INSTRUMENTS: tuple[Instrument, ...] = (readings, house, vault, gate_and_wicket, turnstile, controllers)

_days: dict[tuple[int, date, tuple[Provoked, ...]], tuple[Signal, ...]] = {}


def signals(seed: int, provoked: tuple[Provoked, ...], start: int, end: int) -> list[Signal]:
    """Everything the gateway tells in [start, end), in order."""
    found: list[Signal] = []
    # What began before midnight may go on after it.
    day = local_day(start) - timedelta(days=1)
    while day <= local_day(end):
        found += [s for s in _of_day(seed, day, provoked) if start <= s.at < end]
        day += timedelta(days=1)
    return sorted(found, key=lambda s: s.at)


def _of_day(seed: int, day: date, provoked: tuple[Provoked, ...]) -> tuple[Signal, ...]:
    begins, ends = instant(day, 0), instant(day + timedelta(days=1), 0)
    own = tuple(p for p in provoked if begins <= p.at < ends)
    key = seed, day, own
    if key not in _days:
        if len(_days) > 64:
            _days.clear()
        _days[key] = tuple(s for instrument in INSTRUMENTS for s in instrument(seed, day, own))
    return _days[key]
