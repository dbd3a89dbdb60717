"""Who is about on a day: visitors, staff, deliveries, geese and a fox, by a schedule seeded with the date.

The same seed and date always give the same people on the same paths.
"""

import math
import random
from collections.abc import Iterator, Sequence
from dataclasses import replace
from datetime import date
from functools import lru_cache

from dromikon.standins.world import indoors
from dromikon.standins.world.calendar import MINUTE, arrivals, group, instant, look_of, opening
from dromikon.standins.world.tracks import Actor, walk


@lru_cache(maxsize=128)
def actors(seed: int, scene: str, day: date) -> tuple[Actor, ...]:
    """Everybody in a scene who sets out by schedule on a day, in order of time."""
    rnd = random.Random(f"{seed}/{scene}/{day.isoformat()}")
    maker = MAKERS.get(scene) or indoors.MAKERS.get(scene)
    everyone = sorted(maker(rnd, day), key=lambda a: a.start) if maker else []
    return numbered(everyone, scene, day)


def numbered(everyone: Sequence[Actor], scene: str, day: date) -> tuple[Actor, ...]:
    """The same actors with numbers of their own."""
    base = (day.toordinal() % 4000) * 2000
    return tuple(replace(a, id=base + i) for i, a in enumerate(everyone))


def _lawn(rnd: random.Random, day: date) -> Iterator[Actor]:
    """People who stroll past the palm house, and a guard by night."""
    hours = opening(day)
    if hours:
        for at in arrivals(rnd, day, hours[0] + 0.1, hours[1] + 0.3, 22):
            way = rnd.choice((-1, 1))
            places = [(-40.0 * way, 6.0, 0), (rnd.uniform(-6, 6), 6.8, rnd.choice((0, 0, 8, 20))), (40.0 * way, 6.2, 0)]
            yield from group(rnd, at, places, rnd.choice((1, 2, 2, 3)))
    for hour in (19.9, 23.0, 2.4, 5.3):
        at = instant(day, hour) + rnd.randrange(20 * MINUTE)
        yield walk(0, "human", at, 1.2, [(-40, 6, 0), (0, 11.5, 8), (40, 6, 0)], look_of(rnd))


def _gate(rnd: random.Random, day: date) -> Iterator[Actor]:
    hours = opening(day)
    if hours:
        for at in arrivals(rnd, day, hours[0], hours[1] - 0.6, 46):
            x = rnd.uniform(-2.0, 1.4)
            come_from = rnd.choice((-34.0, 30.0))
            places = [
                (come_from, rnd.uniform(27, 30), 0),
                (x * 0.8, rnd.uniform(21, 23), 0),
                (-0.6 + (x + 2.0) * 0.12, 14.4, rnd.choice((0, 0, 2.5))),
                (-0.6 + (x + 2.0) * 0.12, 13.2, 0),
                (x * 2, 3, 0),
                (x * 2.2, -3, 0),
            ]
            yield from group(rnd, at, places, rnd.choice((1, 1, 2, 2, 3)), (1, 1, 0.5, 0.4, 1, 1))
        for at in arrivals(rnd, day, hours[0] + 0.8, hours[1] + 0.4, 40):
            x = _beside_the_turnstile(rnd.uniform(-2.6, 2.2))
            go_to = rnd.choice((-34.0, 30.0))
            yield from group(
                rnd,
                at,
                [(x * 1.4, -3, 0), (x * 1.1, 5, 0), (x, 13.4, 0), (x * 0.9, 22.5, 0), (go_to, 28, 0)],
                rnd.choice((1, 2, 2)),
            )
    for at in arrivals(rnd, day, 7.4, 9.0, 6):
        x = rnd.uniform(-1.5, 1.5)
        yield from group(rnd, at, [(30, 28, 0), (x, 22, 0), (x, 12, 0), (x, -3, 0)], 1)
    for at in arrivals(rnd, day, 6.5, 21, 26):
        way = rnd.choice((-1, 1))
        yield from group(rnd, at, [(-48 * way, 25.2, 0), (48 * way, 26.2, 0)], rnd.choice((1, 1, 2)))
    for at in arrivals(rnd, day, 6, 22, 14):
        way = rnd.choice((-1, 1))
        yield walk(
            0, "vehicle", at, rnd.uniform(7, 10), [(-70 * way, 28.4 + way, 0), (70 * way, 29.4 + way, 0)], look_of(rnd)
        )
    for hour in (19.2, 22.1, 1.4, 4.3):
        at = instant(day, hour) + rnd.randrange(20 * MINUTE)
        yield walk(0, "human", at, 1.2, [(5, -3, 0), (3, 8, 6), (0.6, 14, 12), (-2, 8, 0), (-6, -3, 0)], look_of(rnd))
    for at in arrivals(rnd, day, 0, 6.5, 0.5):
        yield walk(
            0,
            "animal",
            at,
            1.9,
            [(-20, 15.5, 0), (-3, 14.5, 3), (0.5, 15.2, 0), (1.0, 19, 2), (6, 24, 0), (26, 27, 0)],
            _fox(rnd),
        )


def _beside_the_turnstile(x: float) -> float:
    """Whoever leaves passes by it, to the left or to the right."""
    return -2.2 + (x + 0.2) * 0.3 if x < -0.2 else 1.3 + (x + 0.2) * 0.35


def _fox(rnd: random.Random) -> int:
    return look_of(rnd) // 10 * 10 + 7


def _goose(rnd: random.Random) -> int:
    return look_of(rnd) // 10 * 10 + 1


def _boathouse(rnd: random.Random, day: date) -> Iterator[Actor]:
    hours = opening(day)
    if hours:
        for at in arrivals(rnd, day, hours[0] + 0.1, hours[1] + 0.2, 26):
            way = rnd.choice((-1, 1))
            stop = rnd.choice((0, 0, 0, 12, 25))
            places = [(-34.0 * way, 7.9, 0), (rnd.uniform(-4, 7), 7.1, stop), (36.0 * way, 8.2, 0)]
            yield from group(rnd, at, places, rnd.choice((1, 1, 2, 2, 3)))
        for at in arrivals(rnd, day, hours[0] + 0.5, hours[1] - 0.3, 0.55):
            yield from jetty_walker(rnd, at)
    for at in arrivals(rnd, day, 7.5, 9.5, 3):
        yield walk(0, "human", at, 1.3, [(-30, 7.5, 0), (-8.5, 8.4, 40), (30, 8, 0)], look_of(rnd))
    for hour in (19.6, 22.6, 2.0, 5.0):
        at = instant(day, hour) + rnd.randrange(20 * MINUTE)
        yield walk(0, "human", at, 1.2, [(-32, 8, 0), (0, 7, 10), (34, 8, 0)], look_of(rnd))
    yield from _swimming(rnd, day)
    for _ in range(rnd.choice((1, 2, 2, 3))):
        at = instant(day, 6.9) + rnd.randrange(55 * MINUTE)
        for i in range(rnd.randrange(2, 6)):
            yield goose_over_jetty(rnd, at + i * rnd.randrange(2000, 4200), 0.5 * i)


def jetty_walker(rnd: random.Random, at: int) -> Iterator[Actor]:
    """Somebody who comes along the path, walks out on the jetty, stands a while and goes back."""
    x, far = rnd.uniform(2.7, 3.7), rnd.uniform(22, 31)
    side = rnd.choice((-1, 1))
    path = [
        (-30.0 * side, 7.6, 0),
        (x, 7.8, 1.5),
        (x, 9.8, 0),
        (x, far, rnd.uniform(15, 60)),
        (x + 0.2, 9.8, 0),
        (x, 7.8, 0),
        (32.0 * side, 8.2, 0),
    ]
    for actor in group(rnd, at, path, rnd.choice((1, 1, 2))):
        yield on_deck(actor)


def on_deck(actor: Actor) -> Actor:
    """Lift the legs of a path that lie on the jetty to its boards."""
    zs = tuple(0.5 if y > 9.6 and 2.0 <= x <= 4.6 else 0.0 for x, y in zip(actor.xs, actor.ys, strict=True))
    return replace(actor, zs=zs)


def goose_over_jetty(rnd: random.Random, at: int, aside: float) -> Actor:
    """A goose that comes out of the reeds, waddles over the end of the jetty and back to the water."""
    x = 2.6 + 0.3 * rnd.random()
    path = [
        (7.5 + aside, 9.6, 0),
        (x + 0.6, 9.9, rnd.uniform(0, 4)),
        (x, 14.5 + aside, rnd.uniform(2, 8)),
        (x + 0.4, 11.0, 0),
        (-1.5, 8.9, 6),
        (-2.6, 10.2, 0),
    ]
    return on_deck(walk(0, "animal", at, rnd.uniform(0.5, 0.7), path, _goose(rnd)))


def _swimming(rnd: random.Random, day: date) -> Iterator[Actor]:
    """Geese on the lake, from midnight to midnight, each on a slow closed curve."""
    for i in range(7):
        cx, cy = rnd.uniform(-12, 16) + i * 0.6, rnd.uniform(20, 46)
        a, b, turn, phase = rnd.uniform(3, 8), rnd.uniform(2, 6), rnd.uniform(90, 170), rnd.random() * math.tau
        if cx - a < 6 and cx + a > 0:
            cx = -8 - a if i % 2 else 8 + a
        start, steps, every = instant(day, 0), 24 * 360, 10_000
        times = tuple(start + k * every for k in range(steps + 1))
        xs = tuple(cx + a * math.cos(phase + k * every / 1000 / turn * math.tau) for k in range(steps + 1))
        ys = tuple(cy + b * math.sin(1.7 * (phase + k * every / 1000 / turn * math.tau)) for k in range(steps + 1))
        yield Actor(0, "animal", times, xs, ys, _goose(rnd), (-0.05,) * (steps + 1), (0.0,) * (steps + 1))


def _yard(rnd: random.Random, day: date) -> Iterator[Actor]:
    for at in arrivals(rnd, day, 7.6, 17.0, 16):
        way = rnd.choice((-1, 1))
        y0, y1 = rnd.uniform(6, 20), rnd.uniform(8, 18)
        places = [(-12.2 * way, y0, rnd.uniform(0, 6)), (0, (y0 + y1) / 2, 0), (12.2 * way, y1, rnd.uniform(0, 4))]
        yield from group(
            rnd,
            at,
            places if way > 0 else [(12.2, 17.8, 2), (-4, y0, 0), (-8.2, 14.6, rnd.uniform(5, 30)), (-12.2, y1, 0)],
            1,
        )
    for at in arrivals(rnd, day, 8.2, 16.2, 1.5):
        yield delivery(rnd, at)
    if day.weekday() == 1:
        for at in arrivals(rnd, day, 20.5, 23.4, 4):
            yield walk(
                0, "human", at, 1.2, [(-12, 12, 0), (-8.2, 14.6, rnd.uniform(20, 90)), (-12, 16, 0)], look_of(rnd)
            )
    for hour in (18.5, 21.6, 0.8, 3.7):
        at = instant(day, hour) + rnd.randrange(25 * MINUTE)
        yield walk(0, "human", at, 1.2, [(-10, -3, 0), (-2, 12, 5), (8, -3, 0)], look_of(rnd))
    if rnd.random() < 0.4:
        yield from lingerer(rnd, instant(day, 19.5) + rnd.randrange(120 * MINUTE))


def delivery(rnd: random.Random, at: int) -> Actor:
    """A van that drives in, stands in the loading bay, and leaves."""
    stay = rnd.uniform(120, 420)
    path = [
        (0.6, 58.0, 0),
        (0.6, 30, 1.5),
        (0.6, 24, 0),
        (3.5, 19.5, 0),
        (7.9, 15.5, 0),
        (7.9, 12.2, stay),
        (5.2, 6.5, 0),
        (0, 7.5, 0),
        (-1.4, 14, 0),
        (-1.2, 26, 0),
        (-1.2, 58, 0),
    ]
    return walk(0, "vehicle", at, rnd.uniform(3.2, 4.2), path, look_of(rnd))


def lingerer(rnd: random.Random, at: int) -> Iterator[Actor]:
    """Somebody who comes through the gate after hours and hangs about the loading bay."""
    stay = rnd.uniform(28, 70)
    path = [
        (2.0, 56, 0),
        (1.4, 26, 0),
        (6.5, 16, stay / 2),
        (9.0, 12, stay / 2),
        (5.0, 15, 0),
        (-0.5, 26, 0),
        (-1, 56, 0),
    ]
    yield walk(0, "human", at, 1.25, path, look_of(rnd))


MAKERS = {"visitor_gate": _gate, "boathouse": _boathouse, "nursery_yard": _yard, "palm_house": _lawn}
