"""What detectors of our own tell against what really was: the simulated world knows who was where. Lines and areas lie on its ground and
are drawn as the camera sees them; what should be told is solved from paths, without a picture."""

import math
import random
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import date
from itertools import pairwise
from typing import NamedTuple

from pydantic import TypeAdapter

from bench.report import Result
from dromikon.core.devices.frames import SceneFrame, Seen
from dromikon.core.events import Phase
from dromikon.core.scene.detecting import Detecting
from dromikon.core.scene.sight import sight_of
from dromikon.core.scene.watching import AnyDetector, Detector
from dromikon.standins.picture.compose import HEIGHT, WIDTH
from dromikon.standins.world.scenes import CAMERAS, Camera
from dromikon.standins.world.scenes.base import rectangle
from dromikon.standins.world.sky import light, raining
from dromikon.standins.world.tracks import Actor, Place, in_polygon
from dromikon.standins.world.watching import looked_at
from dromikon.standins.world.world import World

#: A picture each so many ms, as the stand-ins send them; a second before and after whoever is there.
EVERY, AROUND = 200, 3_000
#: Who is out for less has not left, in ms.
GRACE = 700
#: By how much, in ms, boxes that tremble may lengthen or shorten what lasts.
UNSURE = 400
#: How boxes tremble (in ONVIF's coordinates: the picture is 2 wide), and how often a thing is not found.
TREMBLE, MISSING = 0.006, 0.05
#: In the rain boxes tremble by so many times as much, and so many times as many are not found.
WETTER, UNSEEN = 2.0, 2.5
#: In what light, by the sun's height in degrees; and in the rain, whatever the light.
LIGHTS = ("day", "dusk", "night", "rain")
#: Winter and summer, whose days and nights differ.
DAYS = (date(2026, 11, 20), date(2026, 11, 24), date(2026, 7, 4), date(2026, 7, 7))
#: Both are above this, in percent.
LEAST = 95.0
#: By which people are counted.
COUNTED = "crosses"
MADE: TypeAdapter[Detector] = TypeAdapter(AnyDetector)


class Moment(NamedTuple):
    """When something should be told. What lasts hardly longer or hardly less long than it has to is not `sure`: whether it is told
    counts neither way."""

    at: int
    sure: bool = True


Truth = Callable[[Sequence[Actor], "Case"], Iterator[Moment]]


@dataclass(frozen=True)
class Case:
    """A detector at a camera: where on the ground, with which settings, what should be told (moments), and how near in ms."""

    camera: str
    ground: tuple[Place, ...]
    settings: dict[str, object]
    truth: Truth
    near: int = 1_500
    cls: str = "human"

    @property
    def place(self) -> Camera:
        return CAMERAS[self.camera]

    def detector(self) -> Detector:
        seen = [self.place.lens.project(x, y, 0.0, WIDTH, HEIGHT) for x, y in self.ground]
        corners = [(min(1.0, max(0.0, p[0] / WIDTH)), min(1.0, max(0.0, p[1] / HEIGHT))) for p in seen if p]
        return MADE.validate_python({**self.settings, "classes": [self.cls], "corners": corners})


def measure() -> Iterator[Result]:
    world = World()
    print(f"       {'':12} {'':8} {'told':>6} {'true':>6} {'precision':>10} {'recall':>8}")
    for name, case in CASES.items():
        found, off = {sort: [0, 0, 0] for sort in LIGHTS}, 0.0
        for day in DAYS:
            before = [sum(row[i] for row in found.values()) for i in (0, 1)]
            _count(world, case, day, found)
            told, true = (sum(row[i] for row in found.values()) - before[i] for i in (0, 1))
            off = max(off, 100 * abs(told - true) / max(1, true))
        for sort, (told, true, met) in found.items():
            if told or true:
                print(f"       {name:12} {sort:8} {told:6} {true:6} {_percent(met, told):>9} {_percent(met, true):>8}")
        told, true, met = (sum(row[i] for row in found.values()) for i in range(3))
        yield Result(f"{name}: of what is told, right", 100 * met / max(1, told), LEAST, "%", at_most=False)
        yield Result(f"{name}: of what is true, told", 100 * met / max(1, true), LEAST, "%", at_most=False)
        if name == COUNTED:
            yield Result("counting over a day, the worst of them: off by", off, 2, "%")


def _percent(part: int, whole: int) -> str:
    return f"{100 * part / whole:.1f} %" if whole else "–"


def _count(world: World, case: Case, day: date, found: dict[str, list[int]]) -> None:
    """Add what was told, what was true, and how much of both is the same, by the light in which it was."""
    about = sorted(world.everybody(case.place.scene, day), key=lambda a: a.start)
    told = list(_told(world, case, about))
    true = sorted(case.truth([a for a in about if a.cls == case.cls], case))
    left = list(told)
    for at in told:
        found[_sort(at, world.seed)][0] += 1
    for at, sure in true:
        near = min(left, key=lambda other: abs(other - at), default=None)
        met = near is not None and abs(near - at) <= case.near
        if near is not None and met:
            left.remove(near)
        if sure:
            row = found[_sort(at, world.seed)]
            row[1] += 1
            row[2] += met
        elif near is not None and met:
            found[_sort(near, world.seed)][0] -= 1


def _sort(at: int, seed: int) -> str:
    if raining(at, seed):
        return "rain"
    height = light(at, seed).height
    return "night" if height < -4 else "dusk" if height < 8 else "day"


def _told(world: World, case: Case, about: Sequence[Actor]) -> Iterator[int]:
    """By the detector, from what the camera's analytics say."""
    detecting = Detecting({"": case.detector()})
    by_minute: dict[int, list[Actor]] = {}
    for actor in about:
        for minute in range(actor.start // 60_000, actor.end // 60_000 + 1):
            by_minute.setdefault(minute, []).append(actor)
    for start, end in _stretches(about):
        for at in range(start // EVERY * EVERY, end, EVERY):
            seen = tuple(_seen(world, case.place, at, by_minute.get(at // 60_000, [])))
            for one in detecting.take(sight_of(SceneFrame(at, seen))):
                if one.phase is not Phase.END:
                    yield one.at


def _seen(world: World, place: Camera, at: int, about: Sequence[Actor]) -> Iterator[Seen]:
    """As the camera's analytics reckon it: what a thing is taken for changes by the second, where it is does not wait. Boxes tremble,
    and now and then one is not found."""
    wet = raining(at, world.seed)
    tremble, missing = (TREMBLE * WETTER, MISSING * UNSEEN) if wet else (TREMBLE, MISSING)
    for actor in about:
        named, here = (looked_at(place, actor, moment, world.seed) for moment in (at // 1000 * 1000, at))
        chance = random.Random(f"{actor.id} {at}")
        if named is not None and here is not None and chance.random() > missing:
            dx, dy = chance.gauss(0, tremble), chance.gauss(0, tremble)
            left, top, right, bottom = here.box
            yield Seen(str(actor.id), named.named, named.certain, (left + dx, top + dy, right + dx, bottom + dy))


def _stretches(about: Sequence[Actor]) -> Iterator[tuple[int, int]]:
    """When anybody is there who does not swim there all day."""
    spans = sorted((a.start - AROUND, a.end + AROUND) for a in about if a.end - a.start < 3_600_000)
    begun: int | None = None
    last = 0
    for start, end in spans:
        if begun is not None and start > last:
            yield begun, last
            begun = None
        begun, last = (start if begun is None else begun), max(end, last) if begun is not None else end
    if begun is not None:
        yield begun, last


# -- what is true ------------------------------------------------------------------------------------------------------------


def _crossings(about: Sequence[Actor], case: Case) -> Iterator[Moment]:
    yield from (Moment(at) for a in about for at, _ in a.crossings(*case.ground))


def _enterings(about: Sequence[Actor], case: Case) -> Iterator[Moment]:
    yield from (Moment(begun) for a in about for begun, _ in a.stays(case.ground) if begun > a.start)


def _leavings(about: Sequence[Actor], case: Case) -> Iterator[Moment]:
    yield from (Moment(left) for a in about for _, left in a.stays(case.ground) if left < a.end)


def _state(spans: Iterable[tuple[int, int]], least: int = 1, lasts: int = 0, unsure: int = UNSURE) -> Iterator[Moment]:
    """When so many spans at once have held for so long, in ms; a gap that is shorter than GRACE is none."""
    unsure = unsure if lasts else 0
    changes = sorted(change for start, end in spans for change in ((start, 1), (end + GRACE, -1)))
    count, since = 0, None
    for at, by in changes:
        count += by
        if count >= least and since is None:
            since = at
        elif count < least and since is not None:
            held = at - GRACE - since
            if held > lasts - unsure:
                yield Moment(since + lasts, abs(held - lasts) > unsure)
            since = None


def _waits(case: Case) -> int:
    return round(1000 * float(str(case.settings["seconds"])))


def _somebody(about: Sequence[Actor], case: Case) -> Iterator[Moment]:
    yield from _state(stay for a in about for stay in a.stays(case.ground))


def _elsewhere(about: Sequence[Actor], case: Case) -> Iterator[Moment]:
    """From when somebody is in the picture and not inside."""
    # Who has just come into the picture is looked at a little before they count.
    yield from _state((span for a in about for span in _seen_outside(a, case)), 1, GRACE, 2 * UNSURE)


def _seen_outside(actor: Actor, case: Case) -> Iterator[tuple[int, int]]:
    begun: int | None = None
    for at in range(actor.start, actor.end, EVERY):
        here = actor.at(at)
        seen = here is not None and looked_at(case.place, actor, at, 0) is not None
        outside = seen and here is not None and not in_polygon(here.x, here.y, case.ground)
        if outside and begun is None:
            begun = at
        if not outside and begun is not None:
            yield begun, at
            begun = None
    if begun is not None:
        yield begun, actor.end


def _passings(about: Sequence[Actor], case: Case) -> Iterator[Moment]:
    """Whoever begins inside comes out when they leave it; whoever ends inside goes in then."""
    for a in about:
        for begun, left in a.stays(case.ground):
            # Not whoever was inside all the time.
            if (begun == a.start) is not (left == a.end):
                yield Moment(left)


def _longer(about: Sequence[Actor], case: Case) -> Iterator[Moment]:
    """From when somebody has stayed longer than the detector waits until nobody has."""
    waits, stays = _waits(case), (stay for a in about for stay in a.stays(case.ground))
    yield from _state((begun + waits, left) for begun, left in stays if left - begun > waits)


def _standings(about: Sequence[Actor], case: Case) -> Iterator[Moment]:
    """From when somebody has stopped inside for longer than the detector waits until nobody has."""
    waits = _waits(case)
    stops = ((t0, t1) for a in about for t0, t1 in _stops(a, case.ground))
    yield from _state((t0 + waits, t1) for t0, t1 in stops if t1 - t0 > waits)


def _stops(actor: Actor, ground: tuple[Place, ...]) -> Iterator[tuple[int, int]]:
    stays = list(actor.stays(ground))
    for i, (t0, t1) in enumerate(pairwise(actor.times)):
        still = math.hypot(actor.xs[i + 1] - actor.xs[i], actor.ys[i + 1] - actor.ys[i]) < 0.01
        if still and any(begun <= t0 < left for begun, left in stays):
            yield t0, t1


def _crowds(about: Sequence[Actor], case: Case) -> Iterator[Moment]:
    stays = (stay for a in about for stay in a.stays(case.ground))
    yield from _state(stays, int(str(case.settings["most"])) + 1, _waits(case))


def _towards(about: Sequence[Actor], case: Case) -> Iterator[Moment]:
    """Whoever walks inside towards the camera, which looks north."""
    for a in about:
        for begun, left in a.stays(case.ground):
            here = a.at((begun + left) // 2)
            if here and here.moving and left - begun > 1_500 and math.sin(here.heading) < -0.6:
                yield Moment(begun + 700)


DOOR = rectangle(-1.7, 14.3, 1.7, 17.6)
GATE, LAWN, BAY = rectangle(-3, 6.6, 3.4, 11), rectangle(-6.5, 4.4, 4.5, 9.0), rectangle(5.9, 11.0, 9.0, 15.0)
CASES = {
    "crosses": Case("gate", ((-5.0, 9.0), (4.0, 9.0)), {"detects": "crossing"}, _crossings),
    "is inside": Case("gate", GATE, {"detects": "inside"}, _somebody),
    "is outside": Case("gate", GATE, {"detects": "outside"}, _elsewhere),
    "doorway": Case("palm", DOOR, {"detects": "doorway"}, _passings, 4_000),
    "enters": Case("gate", GATE, {"detects": "entering"}, _enterings),
    "leaves": Case("gate", GATE, {"detects": "leaving"}, _leavings),
    "lingers": Case("palm", LAWN, {"detects": "lingering", "seconds": 18}, _longer),
    "stands": Case("palm", LAWN, {"detects": "standing", "seconds": 5}, _standings, 2_500),
    "bay": Case("yard", BAY, {"detects": "occupied", "seconds": 5, "overlap": 40}, _longer, 2_500, "vehicle"),
    "too many": Case("gate", GATE, {"detects": "crowd", "most": 2, "seconds": 2}, _crowds),
    "wrong way": Case("gate", GATE, {"detects": "wrong_way", "right_way": -90}, _towards, 4_000),
}  # fmt: skip
