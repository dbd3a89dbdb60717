"""Readings of faces and plates as passages: a camera that reads somebody several times while they pass has seen them once."""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace

from dromikon.core.instants import Instant

#: Readings at one place that lie farther apart than this, in ms, are two passages; a gap in somebody's day is as long, in ms.
GAP, AWAY = 20_000, 2 * 3_600_000


@dataclass(frozen=True, slots=True)
class Reading:
    """One event that read something: a plate as `value`, a face as `value` (its template). `sure`: in percent; `box`: where in the
    picture (core.boxes), empty where that was not said."""

    event: int
    at: Instant
    point: str
    value: str
    sure: float
    box: str = ""


@dataclass(frozen=True, slots=True)
class Passage:
    """Somebody or something that passed a place: the surest of its readings, how many there were, from when to when."""

    best: Reading
    first: Instant
    last: Instant
    count: int = 1

    def with_(self, reading: Reading) -> "Passage":
        best = reading if reading.sure > self.best.sure else self.best
        return replace(self, best=best, last=reading.at, count=self.count + 1)


Same = Callable[[str, str], bool]


def passages(readings: Iterable[Reading], same: Same) -> list[Passage]:
    """Passages in the order in which they began. `same`: whether two values are of one. A reading belongs to the latest passage of its
    place that is of the same and not longer ago than GAP. `readings`: in order of time."""
    found: list[Passage] = []
    for reading in readings:
        place = next((i for i in _open(found, reading) if same(found[i].best.value, reading.value)), None)
        if place is None:
            found.append(Passage(reading, reading.at, reading.at))
        else:
            found[place] = found[place].with_(reading)
    return found


def _open(found: list[Passage], reading: Reading) -> Iterator[int]:
    """Those that may still go on, the latest first. A passage seldom lasts long, so that few are looked at."""
    for i in range(len(found) - 1, -1, -1):
        if found[i].best.point == reading.point and reading.at - found[i].last <= GAP:
            yield i
        if reading.at - found[i].first > 60 * GAP:
            return


@dataclass(frozen=True, slots=True)
class Presence:
    """Somebody on one day: seen first and last, how often, where, and stretches in between of AWAY or longer without them."""

    who: str
    day: Instant
    first: Instant
    last: Instant
    count: int
    places: tuple[str, ...]
    gaps: tuple[tuple[Instant, Instant], ...]


def presences(seen: Iterable[tuple[str, Passage]], day_of: Callable[[Instant], Instant]) -> list[Presence]:
    """By day and person, the earliest day first. `seen`: who, and one of their passages; `day_of`: when the day of an instant began."""
    gathered: dict[tuple[Instant, str], list[Passage]] = {}
    for who, passage in seen:
        gathered.setdefault((day_of(passage.first), who), []).append(passage)
    return [_presence(who, day, sorted(of, key=lambda p: p.first)) for (day, who), of in sorted(gathered.items())]


def _presence(who: str, day: Instant, of: list[Passage]) -> Presence:
    last = of[0].last
    gaps = []
    for passage in of[1:]:
        if passage.first - last >= AWAY:
            gaps.append((last, passage.first))
        last = max(last, passage.last)
    places = tuple(dict.fromkeys(p.best.point for p in of))
    return Presence(who, day, of[0].first, last, len(of), places, tuple(gaps))
