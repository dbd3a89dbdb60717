"""Things that move, on analytic paths: straight legs with a time at each corner, so that crossings are solved and not
sampled. Lengths in metres (x east, y north, z up), times in ms UTC."""

import math
import random
from bisect import bisect_right
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from itertools import pairwise

Place = tuple[float, float]


@dataclass(frozen=True, slots=True)
class Where:
    """A thing at a moment: place, heading (radians, 0 = east), metres walked, and whether it moves."""

    x: float
    y: float
    z: float
    heading: float
    walked: float
    moving: bool


@dataclass(frozen=True, slots=True)
class Actor:
    """A person, vehicle, animal or thing with its path. `look` seeds its colours and build."""

    id: int
    cls: str
    times: tuple[int, ...]
    xs: tuple[float, ...]
    ys: tuple[float, ...]
    look: int
    zs: tuple[float, ...] = ()
    walked: tuple[float, ...] = field(default=())
    #: What is written on a vehicle's plate.
    sign: str = ""

    @property
    def start(self) -> int:
        return self.times[0]

    @property
    def end(self) -> int:
        return self.times[-1]

    def at(self, t: int) -> Where | None:
        """Where it is, or None when it is not there."""
        if not self.start <= t < self.end:
            return None
        i = bisect_right(self.times, t) - 1
        t0, t1 = self.times[i], self.times[i + 1]
        k = (t - t0) / (t1 - t0)
        dx, dy = self.xs[i + 1] - self.xs[i], self.ys[i + 1] - self.ys[i]
        step = math.hypot(dx, dy)
        z = self.zs[i] + (self.zs[i + 1] - self.zs[i]) * k if self.zs else 0.0
        heading = math.atan2(dy, dx) if step > 0.01 else self._last_heading(i)
        return Where(self.xs[i] + dx * k, self.ys[i] + dy * k, z, heading, self.walked[i] + step * k, step > 0.01)

    def _last_heading(self, i: int) -> float:
        for j in range(i - 1, -1, -1):
            dx, dy = self.xs[j + 1] - self.xs[j], self.ys[j + 1] - self.ys[j]
            if math.hypot(dx, dy) > 0.01:
                return math.atan2(dy, dx)
        return 0.0

    def crossings(self, a: Place, b: Place) -> Iterator[tuple[int, bool]]:
        """When its path crosses the segment a–b, and whether from left to right of a→b."""
        ax, ay = a
        ex, ey = b[0] - ax, b[1] - ay
        for i in range(len(self.times) - 1):
            x, y = self.xs[i], self.ys[i]
            dx, dy = self.xs[i + 1] - x, self.ys[i + 1] - y
            cross = dx * ey - dy * ex
            if abs(cross) < 1e-9:
                continue
            k = ((ax - x) * ey - (ay - y) * ex) / cross
            along = ((ax - x) * dy - (ay - y) * dx) / cross
            if 0 <= k < 1 and 0 <= along <= 1:
                yield round(self.times[i] + k * (self.times[i + 1] - self.times[i])), cross > 0

    def stays(self, zone: tuple[Place, ...]) -> Iterator[tuple[int, int]]:
        """Stretches of time that it is inside a polygon."""
        edges = list(zip(zone, zone[1:] + zone[:1], strict=True))
        cuts = sorted({self.start, self.end, *(t for a, b in edges for t, _ in self.crossings(a, b))})
        begun: int | None = None
        for t0, t1 in pairwise(cuts):
            here = self.at((t0 + t1) // 2)
            inside = here is not None and in_polygon(here.x, here.y, zone)
            if inside and begun is None:
                begun = t0
            if not inside and begun is not None:
                yield begun, t0
                begun = None
        if begun is not None:
            yield begun, self.end


def in_polygon(x: float, y: float, zone: tuple[Place, ...]) -> bool:
    """Even-odd rule."""
    inside = False
    for (x0, y0), (x1, y1) in zip(zone, zone[1:] + zone[:1], strict=True):
        if (y0 > y) != (y1 > y) and x < (x1 - x0) * (y - y0) / (y1 - y0) + x0:
            inside = not inside
    return inside


def walk(id: int, cls: str, start: int, speed: float, places: Sequence[tuple[float, float, float]], look: int) -> Actor:
    """An actor that goes through places given as (x, y, pause in seconds on arrival) at `speed` m/s."""
    times, xs, ys, walked = [start], [places[0][0]], [places[0][1]], [0.0]

    def stay(pause: float) -> None:
        if pause > 0:
            times.append(times[-1] + round(pause * 1000))
            xs.append(xs[-1])
            ys.append(ys[-1])
            walked.append(walked[-1])

    stay(places[0][2])
    for x, y, pause in places[1:]:
        length = math.hypot(x - xs[-1], y - ys[-1])
        times.append(times[-1] + max(1, round(length / speed * 1000)))
        xs.append(x)
        ys.append(y)
        walked.append(walked[-1] + length)
        stay(pause)
    return Actor(id, cls, tuple(times), tuple(xs), tuple(ys), look, walked=tuple(walked))


def tall(look: int) -> float:
    """How tall a person of a look is, in metres; some are children."""
    rnd = random.Random(look)
    return rnd.uniform(1.58, 1.88) * (0.66 if rnd.random() < 0.12 else 1.0)
