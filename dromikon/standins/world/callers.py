"""People and vehicles whose coming the garden's other systems tell of: whoever's plate is read drives up, whoever rings walks
to the wicket, whoever opens a door goes through it, so that pictures and messages agree."""

import random
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import replace

from dromikon.standins.faces.features import look_of
from dromikon.standins.world.forecourt import READ_AT, stander
from dromikon.standins.world.plant.signals import Signal
from dromikon.standins.world.tracks import Actor, walk

#: Somebody who shows a face and then a card does so within this time, in ms.
TOGETHER = 15_000
#: How fast somebody walks up to the vault, in m/s, and for how long they look at its camera, in s.
PACE, LOOKS = 1.35, 0.8
#: A call that nobody answers is given up after so long, in s.
PATIENCE = 39
#: People are counted this often, in ms.
COUNTED_EVERY = 1_200_000

Caller = Callable[[Sequence[Signal]], Iterator[Actor]]


def callers(scene: str, signals: Iterable[Signal]) -> tuple[Actor, ...]:
    """Who comes to a scene, going by what is told of it, in order of time."""
    maker = MAKERS.get(scene)
    found = sorted(maker(sorted(signals, key=lambda s: s.at)), key=lambda a: a.start) if maker else []
    return tuple(found)


def timed(at: int, kind: str, speed: float, before: Sequence[tuple[float, float, float]],
          after: Sequence[tuple[float, float, float]], look: int) -> Actor:  # fmt: skip
    """An actor that comes to the last place of one path at an instant, and goes on by the other from there."""
    way_in = walk(0, kind, 0, speed, before, look)
    arrives = way_in.times[-1]
    whole = walk(0, kind, 0, speed, [*before, *after], look)
    # What it waits at the place where both meet lies behind its coming.
    shift = at - arrives
    return replace(whole, times=tuple(t + shift for t in whole.times))


def _service_gate(signals: Sequence[Signal]) -> Iterator[Actor]:
    for signal in signals:
        rnd = random.Random(f"caller/{signal.at}")
        if signal.kind == "plate.read":
            yield _vehicle(signal, rnd)
        elif signal.kind == "call.rung":
            answered = any(s.kind == "call.answered" and 0 < s.at - signal.at < 30_000 for s in signals)
            yield _ringer(signal.at, answered, rnd)


def _vehicle(signal: Signal, rnd: random.Random) -> Actor:
    """It is read where it stops before the barrier, or on its way out."""
    x, look = rnd.uniform(-0.2, 0.4), rnd.randrange(1 << 30)
    if signal.fields.get("direction") == "out":
        actor = timed(
            signal.at, "vehicle", 3.4, [(x, -9, 0), (x, 4, 0), (x, 10.5, 0)], [(x, 34, 0), (-60, 44, 0)], look
        )
    else:
        stay = rnd.uniform(5, 9)
        after = [(x, 9.4, stay), (x, 3, 0), (x - 0.4, -9, 0)]
        actor = timed(
            signal.at, "vehicle", 6.1, [(rnd.choice((-22.5, 22.5)), 42, 0), (x, 37, 0), (x, 9.6, 0)], after, look
        )
    return replace(actor, sign=signal.truth or str(signal.fields.get("plate", "")))


def _ringer(at: int, answered: bool, rnd: random.Random) -> Actor:
    look = rnd.randrange(1 << 30)
    # Along the wall, from where no camera looks.
    way_in = [(15.5, 11.4, 0), (6.15, 10.9, 0)]
    through = [(6.15, 10.9, 9), (5.6, 7.4, 0), (5.6, 2, 0), (5.4, -9, 0)]
    back = [(6.15, 10.9, PATIENCE), (6.4, 26, 0), (9.5, 38, 0), (24, 42, 0)]
    return timed(at, "human", 1.3, way_in, through if answered else back, look)


def _seed_vault(signals: Sequence[Signal]) -> Iterator[Actor]:
    for signal in signals:
        if signal.kind == "face.seen":
            granted, forced = (_next(signals, signal.at, kind) for kind in ("access.granted", "door.forced"))
            yield _visitor(signal.at, look_of(signal.truth), granted, forced)


def _next(signals: Sequence[Signal], at: int, kind: str) -> int | None:
    return next((s.at for s in signals if s.kind == kind and 0 < s.at - at < TOGETHER), None)


def _visitor(at: int, look: int, granted: int | None, forced: int | None) -> Actor:
    """Whoever is let in goes through the door; whoever forces it too; anybody else looks about and leaves."""
    rnd, x = stander(at)
    side = rnd.choice((-1, 1))
    # Who is read has turned to the camera.
    way_in = [(10.8, READ_AT - 0.4, 0), (x, READ_AT + 0.5, 0), (x, READ_AT, 0)]
    enters = granted or forced
    if enters is None:
        after = [
            (x, READ_AT, rnd.uniform(4, 9)),
            (x + 1.8 * side, 11.2, rnd.uniform(3, 8)),
            (6.0, 7.6, 0),
            (34.0, 3.0, 0),
        ]
    else:
        walks = (12.8 - READ_AT) / PACE
        after = [(x, READ_AT, LOOKS), (0.2, 12.8, max(0.5, (enters - at) / 1000 - LOOKS - walks + 1.0)), (0.0, 15.2, 0)]
    return timed(at, "human", PACE, way_in, after, look)


def _palm_house(signals: Sequence[Signal]) -> Iterator[Actor]:
    """One goes in or comes out each time that the door opens."""
    for signal in signals:
        if signal.kind != "door.open" or signal.phase != "begin" or signal.point != "palm-door":
            continue
        rnd = random.Random(f"caller/{signal.at}")
        look, side, x = rnd.randrange(1 << 30), rnd.choice((-1, 1)), rnd.uniform(-0.5, 0.5)
        path = [(38.0 * side, 6.4, 0), (x * 2, 7.4, 0), (x, 13.6, 0)]
        if rnd.random() < 0.5:
            yield timed(signal.at, "human", 1.25, path, [(x, 13.8, 0.8), (0, 16.2, 0)], look)
        else:
            out = [(0, 16.0, 0), (x, 13.6, 0), (x * 2, 7.2, 0), (-38.0 * side, 6.2, 0)]
            yield timed(signal.at + 900, "human", 1.25, out[:1], out[1:], look)


def _palm_inside(signals: Sequence[Signal]) -> Iterator[Actor]:
    """As many stroll around the bed, for about as long as until people are counted again, as one sees of the house from here:
    about an eighth."""
    for signal in signals:
        if signal.point != "palm-count":
            continue
        rnd = random.Random(f"caller/{signal.at}")
        for _ in range(round(float(signal.fields["value"] or 0) / 8)):
            yield _stroller(signal.at + rnd.randrange(COUNTED_EVERY), rnd)


def _stroller(at: int, rnd: random.Random) -> Actor:
    side, look = rnd.choice((-1, 1)), rnd.randrange(1 << 30)
    x = side * rnd.uniform(2.9, 4.3)
    stops = [(x, 20.6), (x, rnd.uniform(8, 17)), (x, rnd.uniform(4.6, 7)), (0.3 * side, 5.8), (-x, 7.5), (-x, 20.4)]
    path = [(0.0, 23.4, 0.0), *((*stop, rnd.uniform(20, 360)) for stop in stops), (0.0, 23.5, 0.0)]
    return walk(0, "human", at, rnd.uniform(0.7, 1.0), path, look)


def _pump_room(signals: Sequence[Signal]) -> Iterator[Actor]:
    """Whoever's bucket goes over comes for it, and mops up; condensation needs nobody."""
    ends = {s.at for s in signals if s.point == "leak" and s.phase == "end"}
    for signal in signals:
        lasting = next((at - signal.at for at in sorted(ends) if at > signal.at), 0)
        if signal.point == "leak" and signal.phase == "begin" and lasting > 60_000:
            rnd = random.Random(f"caller/{signal.at}")
            after = [(0.9, 3.4, 3), (2.6, 3.6, 20), (1.6, 4.6, lasting / 1000 - 45), (3.5, 2.9, 0)]
            yield timed(signal.at - 5_000, "human", 1.0, [(3.5, 2.9, 0), (0.9, 3.4, 0)], after, rnd.randrange(1 << 30))


MAKERS: dict[str, Caller] = {
    "service_gate": _service_gate, "seed_vault": _seed_vault, "palm_house": _palm_house, "palm_inside": _palm_inside,
    "pump_room": _pump_room,
}  # fmt: skip
