"""Who is made unrecognisable in a clip: rectangles that follow what the camera said it saw, or stand still."""

from bisect import bisect_right
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from dromikon.core.instants import Instant
from dromikon.core.scene.sight import Sides, Sight

#: A box is made larger by this share of its size to each side: cameras are not exact.
LARGER = 0.15
#: Of a person's box the upper part is the head.
HEAD = 0.3
#: Between two pictures of somebody no farther apart than this they went straight; and a little before the first and after the last
#: they stood there, in ms.
APART, AROUND = 3_000, 700
Share = Annotated[float, Field(ge=0, le=1)]


class Blur(BaseModel):
    """`who`: everybody, or the objects with these numbers (as the camera numbers them). `part`: of people the head, or all of them.
    `areas`: besides, what lies there all the time, as left, top, right, bottom in shares of the picture."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    who: Literal["everybody", "some"] = "some"
    objects: Annotated[tuple[Annotated[str, Field(max_length=60)], ...], Field(max_length=200)] = ()
    part: Literal["all", "head"] = "all"
    areas: Annotated[tuple[tuple[Share, Share, Share, Share], ...], Field(max_length=20)] = ()

    @property
    def does_something(self) -> bool:
        return bool(self.who == "everybody" or self.objects or self.areas)


@dataclass(frozen=True, slots=True)
class Seen:
    """Somebody or something in a stretch: when first and last, and where at their largest, at `at`."""

    number: str
    kind: str
    first: Instant
    last: Instant
    at: Instant
    box: Sides


def seen_in(sights: Iterable[Sight]) -> list[Seen]:
    """Who is in a stretch, those who are longest in it first."""
    found: dict[str, Seen] = {}
    for sight in sights:
        for number, kind, box in zip(sight.ids, sight.kinds, sight.sides, strict=True):
            known = found.get(number)
            if known is None:
                found[number] = Seen(number, kind, sight.at, sight.at, sight.at, box)
                continue
            larger = _size(box) > _size(known.box)
            at, largest = (sight.at, box) if larger else (known.at, known.box)
            found[number] = Seen(number, kind, known.first, sight.at, at, largest)
    return sorted(found.values(), key=lambda one: one.first - one.last)


def rectangles(sights: Iterable[Sight], blur: Blur) -> Callable[[Instant], list[Sides]]:
    """What is to be hidden at a moment, in shares of the picture."""
    ways: dict[str, list[tuple[Instant, Sides]]] = {}
    for sight in sights:
        for number, kind, box in zip(sight.ids, sight.kinds, sight.sides, strict=True):
            wanted = kind == "human" if blur.who == "everybody" else number in blur.objects
            if wanted:
                head = blur.part == "head" and kind == "human"
                ways.setdefault(number, []).append((sight.at, _head(box) if head else box))
    paths = [(way, [at for at, _ in way]) for way in ways.values()]

    def at(moment: Instant) -> list[Sides]:
        found = (_where(way, moments, moment) for way, moments in paths)
        return [*(_larger(box) for box in found if box is not None), *blur.areas]

    return at


def _where(way: Sequence[tuple[Instant, Sides]], moments: Sequence[Instant], moment: Instant) -> Sides | None:
    """Where somebody is between two pictures of them; none where nobody knows."""
    place = bisect_right(moments, moment)
    before, after = (way[place - 1] if place else None), (way[place] if place < len(way) else None)
    if before is not None and after is not None and after[0] - before[0] <= APART:
        part = (moment - before[0]) / (after[0] - before[0])
        left, top, right, bottom = (a + part * (b - a) for a, b in zip(before[1], after[1], strict=True))
        return left, top, right, bottom
    near = [(abs(moment - at), box) for at, box in filter(None, (before, after)) if abs(moment - at) <= AROUND]
    return min(near)[1] if near else None


def _head(box: Sides) -> Sides:
    left, top, right, bottom = box
    return left, top, right, top + HEAD * (bottom - top)


def _larger(box: Sides) -> Sides:
    left, top, right, bottom = box
    aside, down = LARGER * (right - left), LARGER * (bottom - top)
    return max(0.0, left - aside), max(0.0, top - down), min(1.0, right + aside), min(1.0, bottom + down)


def _size(box: Sides) -> float:
    return (box[2] - box[0]) * (box[3] - box[1])
