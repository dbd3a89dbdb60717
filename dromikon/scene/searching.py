"""Looking through what was seen: a detector over past days, and where objects went."""

from collections.abc import Iterator, Sequence
from contextlib import closing, contextmanager
from dataclasses import dataclass
from typing import Any

from dromikon.core.instants import Instant
from dromikon.core.rules.document import Problem
from dromikon.core.scene.paths import Went, went
from dromikon.core.scene.search import AROUND, Hit, Mark, Offer, by_hour, hits_of, offers, varied
from dromikon.core.scene.sight import Sight
from dromikon.core.scene.watching import Detector
from dromikon.refusals import Refused
from dromikon.scene import store
from dromikon.scene.camera import optics_of, seeing_of
from dromikon.sources.models import Point

#: At most so long is looked through at once, in ms; so many pictures; and so many hits are told of, the latest.
LONGEST, MOST_PICTURES, MOST = 31 * 86_400_000, 1_000_000, 120
#: What was seen is told picture by picture for so long at once, in ms.
MOST_SEEN = 300_000


@dataclass(frozen=True, slots=True)
class Found:
    """What a search found. `minutes`: of how many something is kept, of how many there are. `varied`: how many it would have been
    with other values of a number. `better`: settings that part the marks, each with how many it would be then."""

    hits: list[Hit]
    count: int
    by_hour: list[int]
    minutes: tuple[int, int]
    varied: list[tuple[float, int]]
    better: list[tuple[Offer, int]]

    def to_json(self) -> dict[str, Any]:
        kept, there = self.minutes
        return {
            "hits": [{"at": h.at, "class": h.kind, "sure": h.sure, "box": h.box} for h in self.hits],
            "count": self.count, "by_hour": self.by_hour, "minutes_kept": kept, "minutes": there,
            "varied": [{"value": value, "count": count} for value, count in self.varied],
            "better": [
                {"setting": o.setting, "value": o.value, "count": count, "kept": o.kept, "dropped": o.dropped}
                for o, count in self.better
            ],
        }  # fmt: skip


@contextmanager
def _kept(camera: Point, start: Instant, end: Instant) -> Iterator[Iterator[Sight]]:
    with closing(store.connect()) as connection:
        yield store.sights(connection, camera.id, start, min(end, start + LONGEST))


def search(
    camera: Point, detector: Detector, start: Instant, end: Instant, vary: str = "", marks: Sequence[Mark] = ()
) -> Found:
    """What a detector would have told of a camera's past; what is kept is read once, however much is asked. Raises Refused
    for more than can be looked through at once."""
    minutes = _enough(camera, start, end), max(1, (end - start) // 60_000)
    sees = seeing_of(camera), optics_of(camera)
    parted = offers(detector, _near(camera, marks, start, end), marks, *sees) if marks else []
    others = {f"{value}": (value, other) for value, other in varied(detector, vary)}
    asked = {name: other for name, (_, other) in others.items()}
    asked |= {f"offer {i}": offer.detector for i, offer in enumerate(parted)}
    with _kept(camera, start, end) as sights:
        told = hits_of({"": detector, **asked}, sights, *sees)
    found = told[""]
    return Found(
        found[-MOST:], len(found), by_hour(found, start, end), minutes,
        [(value, len(told[name])) for name, (value, _) in others.items()],
        [(offer, len(told[f"offer {i}"])) for i, offer in enumerate(parted)],
    )  # fmt: skip


def _enough(camera: Point, start: Instant, end: Instant) -> int:
    """Of how many minutes something is kept. Raises Refused where that is too much for one search."""
    with closing(store.connect()) as connection:
        if store.pictures(connection, camera.id, start, end) > MOST_PICTURES:
            raise Refused([Problem(path="start", message="So much was seen in that stretch: choose a shorter one.")])
        return len(store.kept_between(connection, camera.id, start, end))


def _near(camera: Point, marks: Sequence[Mark], start: Instant, end: Instant) -> list[Sight]:
    """What was seen around the marks, in order."""
    found: dict[Instant, Sight] = {}
    for mark in marks:
        with _kept(camera, max(start, mark.at - AROUND), min(end, mark.at + AROUND)) as sights:
            found |= {sight.at: sight for sight in sights}
    return [found[at] for at in sorted(found)]


def paths(camera: Point, start: Instant, end: Instant) -> Went:
    """Where objects went. Raises Refused for more than can be looked through at once."""
    _enough(camera, start, end)
    with _kept(camera, start, end) as sights:
        return went(sights)


def things(camera: Point, start: Instant, end: Instant) -> list[dict[str, Any]]:
    """What was seen, picture by picture."""
    with _kept(camera, start, end) as sights:
        return [{"at": sight.at, "things": _things(sight)} for sight in sights]


def _things(sight: Sight) -> list[dict[str, Any]]:
    rows = zip(sight.ids, sight.kinds, sight.sure, sight.boxes.round(4).tolist(), strict=True)
    return [{"object": id, "class": kind, "sure": sure, "box": box} for id, kind, sure, box in rows]
