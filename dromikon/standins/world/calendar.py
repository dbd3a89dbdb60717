"""The garden's days and hours, and how people come in the course of them."""

import random
from collections.abc import Iterator, Sequence
from datetime import UTC, date, datetime, time, timedelta
from zoneinfo import ZoneInfo

from dromikon.core.instants import from_datetime
from dromikon.standins.world.tracks import Actor, walk

ZONE = ZoneInfo("Europe/London")
MINUTE = 60_000


def local_day(at: int) -> date:
    """The garden's date at an instant."""
    return datetime.fromtimestamp(at / 1000, UTC).astimezone(ZONE).date()


def instant(day: date, hour: float) -> int:
    """The instant of an hour of the garden's day (13.5 is half past one)."""
    minutes = round(hour * 60)
    wall = datetime.combine(day, time(0), ZONE) + timedelta(minutes=minutes)
    return from_datetime(wall)


def opening(day: date) -> tuple[float, float] | None:
    """When the gate stands open on a day, None when it stays shut."""
    if (day.month, day.day) in ((12, 24), (12, 25), (12, 26)):
        return None
    if 4 <= day.month <= 10:
        return (9.0, 21.0) if day.weekday() == 4 and 6 <= day.month <= 8 else (9.0, 18.0)
    return 10.0, 16.0


def arrivals(rnd: random.Random, day: date, start: float, end: float, per_hour: float) -> Iterator[int]:
    at, last = float(instant(day, start)), instant(day, end)
    while True:
        at += rnd.expovariate(per_hour / 3_600_000)
        if at >= last:
            return
        yield int(at)


def look_of(rnd: random.Random) -> int:
    return rnd.randrange(1 << 30)


def group(
    rnd: random.Random, at: int, places: Sequence[tuple[float, float, float]], size: int, closer: Sequence[float] = ()
) -> Iterator[Actor]:
    """Some people who walk together, a step apart; at each place so much `closer` to one another."""
    spread = closer or (1.0,) * len(places)
    speed = rnd.uniform(1.0, 1.45)
    for i in range(size):
        aside, behind = rnd.uniform(0.65, 0.9) * i, rnd.randrange(900) * i
        shifted = [
            (x + aside * k, y + rnd.uniform(-0.2, 0.2), pause) for (x, y, pause), k in zip(places, spread, strict=True)
        ]
        yield walk(0, "human", at + behind, speed, shifted, look_of(rnd))
