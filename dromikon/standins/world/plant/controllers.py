"""What has a controller of its own: the lodge's uplink, which is down now and then, and the freezer's, which says when it is warm."""

from collections.abc import Iterator
from datetime import date

from dromikon.standins.world.plant.climate import COOLS, FREEZER, WARMS
from dromikon.standins.world.plant.signals import Provoked, Signal, around, dice, names_of, state

#: The freezer is warm from here on, and cold again from there, in °C; its door stands ajar for so long, in s.
WARM, COLD, AJAR = -17.5, -18.5, 14 * 60


def controllers(seed: int, day: date, provoked: tuple[Provoked, ...]) -> Iterator[Signal]:
    """States of a day."""
    rnd = dice(seed, "uplink", day)
    if rnd.random() < 0.4:
        yield from state(around(rnd, day, 2.0, 180), rnd.choice((12, 35, 140)), "input.active", "uplink")
    for at in names_of(provoked, "cut-uplink"):
        yield from state(at + 3_000, 60, "input.active", "uplink")
    for at in names_of(provoked, "warm-freezer"):
        yield from _freezer(at)


def _freezer(opened: int) -> Iterator[Signal]:
    """It warms while its door is ajar, and cools back when it is shut."""
    begins = (WARM - FREEZER) / WARMS * 3_600
    warmest = FREEZER + WARMS * AJAR / 3_600
    lasts = AJAR + (warmest - COLD) / COOLS * 3_600 - begins
    yield from state(opened + round(begins * 1000), lasts, "input.active", "freezer-alarm")
