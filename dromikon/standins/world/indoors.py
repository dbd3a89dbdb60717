"""Who is in the houses: gardeners and visitors among the orchids, a fitter on rounds, somebody on duty in the lodge."""

import random
from collections.abc import Iterator
from datetime import date

from dromikon.standins.world.calendar import MINUTE, arrivals, group, instant, look_of, opening
from dromikon.standins.world.tracks import Actor, tall, walk


def _staff(rnd: random.Random) -> int:
    """How somebody looks who works here: no child."""
    while True:
        look = look_of(rnd)
        if tall(look) > 1.5:
            return look


def _orchids(rnd: random.Random, day: date) -> Iterator[Actor]:
    hours = opening(day)
    for at in arrivals(rnd, day, 7.3, 17.0, 1.6):
        y, side = rnd.uniform(4, 13), rnd.choice((-1, 1))
        path = [
            (0.0, 17.4, 0),
            (0.7 * side, y, rnd.uniform(30, 160)),
            (-0.6 * side, y - 1.5, rnd.uniform(10, 60)),
            (0.0, 17.5, 0),
        ]
        yield walk(0, "human", at, 0.9, path, look_of(rnd))
    if hours:
        for at in arrivals(rnd, day, hours[0] + 0.2, hours[1] - 0.4, 14):
            x, y = rnd.uniform(-0.6, 0.3), rnd.uniform(4.5, 14)
            path = [(0.0, 17.4, 0), (x, y, rnd.uniform(4, 40)), (x, y - 1.8, rnd.uniform(0, 25)), (0.0, 17.5, 0)]
            yield from group(rnd, at, path, rnd.choice((1, 2, 2)))


def _pumps(rnd: random.Random, day: date) -> Iterator[Actor]:
    if day.weekday() < 5:
        at = instant(day, 8.6) + rnd.randrange(40 * MINUTE)
        path = [(3.5, 2.9, 1), (0.9, 4.3, 50), (-1.4, 4.2, 60), (2.0, 4.6, 35), (3.5, 2.9, 0)]
        yield walk(0, "human", at, 0.9, path, _staff(rnd))


def _boiler(rnd: random.Random, day: date) -> Iterator[Actor]:
    for hour in (7.9, 15.2) if day.weekday() < 6 else (8.4,):
        at = instant(day, hour) + rnd.randrange(30 * MINUTE)
        path = [(3.9, 2.7, 1), (-1.0, 4.1, 70), (1.6, 5.4, 45), (3.9, 2.7, 0)]
        yield walk(0, "human", at, 0.9, path, _staff(rnd))


def _duty(rnd: random.Random, day: date) -> Iterator[Actor]:
    """Three shifts at the left desk, and by day a second person at the right one."""
    for begins, hours, x in ((6.0, 8, -1.2), (14.0, 8, -1.2), (22.0, 8, -1.2), (8.5, 7.5, 1.2)):
        looks = _staff(rnd)
        # Away from the desk for some minutes now and then, the tea being where the camera does not look.
        path = [(3.3, 1.9, 0.0)]
        left = hours * 3600.0
        while left > 0:
            stay = min(left, rnd.uniform(1500, 4200))
            path += [(x, 2.95, stay), (2.6, 1.4, rnd.uniform(40, 160))]
            left -= stay
        path.append((3.3, 1.9, 0.0))
        yield walk(0, "human", instant(day, begins), 1.0, path, looks)


MAKERS = {"orchid_house": _orchids, "pump_room": _pumps, "boiler_house": _boiler, "lodge": _duty}
