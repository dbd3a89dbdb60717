"""The houses: a palm-house door that is held open on Tuesdays, a leak sensor that chatters, the fire panel, power."""

from collections.abc import Iterator
from datetime import date

from dromikon.standins.world.calendar import instant, opening
from dromikon.standins.world.plant.signals import Provoked, Signal, around, at_times, dice, names_of, state

TUESDAY, WEDNESDAY, FRIDAY = 1, 2, 4


def house(seed: int, day: date, provoked: tuple[Provoked, ...]) -> Iterator[Signal]:
    """Contacts and states of a day."""
    yield from _palm_door(seed, day)
    yield from _leak(seed, day, provoked)
    rnd = dice(seed, "power", day)
    if day.weekday() == FRIDAY:
        # The fire panel's weekly test.
        yield from state(instant(day, 10.5), 25, "input.active", "palm-smoke")
    if rnd.random() < 0.3:
        yield from state(around(rnd, day, 13, 200), rnd.choice((4, 7, 48)), "power.on_battery", "ups")
    for at in names_of(provoked, "cut-mains"):
        yield from state(at + 2_000, 75, "power.on_battery", "ups")
    for at in names_of(provoked, "smoke"):
        yield from state(at + 12_000, 60, "input.active", "palm-smoke")


def _palm_door(seed: int, day: date) -> Iterator[Signal]:
    rnd, hours = dice(seed, "palm door", day), opening(day)
    if not hours:
        return
    for at in at_times(rnd, day, hours[0], hours[1], 4):
        yield from state(at, rnd.uniform(4, 11), "door.open", "palm-door")
    if day.weekday() == TUESDAY:
        # Deliveries of plants: the door is wedged open.
        at, minutes = around(rnd, day, 11, 20), rnd.uniform(14, 28)
        yield from state(at, minutes * 60, "door.open", "palm-door")
        yield Signal(at + 45_000, "door.held_open", "palm-door", "begin")
        yield Signal(at + round(minutes * 60_000), "door.held_open", "palm-door", "end")


def _leak(seed: int, day: date, provoked: tuple[Provoked, ...]) -> Iterator[Signal]:
    rnd = dice(seed, "leak", day)
    if day.weekday() == WEDNESDAY:
        # Condensation: the sensor flickers for a few minutes.
        at = around(rnd, day, 2.5, 40)
        for _ in range(rnd.randrange(14, 26)):
            yield from state(at, rnd.uniform(0.4, 2.2), "input.active", "leak")
            at += rnd.randrange(5_000, 14_000)
    for at in names_of(provoked, "spill"):
        # The water reaches the sensor after some seconds and is pumped off within three minutes.
        yield from state(at + 8_000, 170, "input.active", "leak")
