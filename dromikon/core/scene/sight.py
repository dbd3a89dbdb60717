"""One picture as detectors take it: what is in it, as rows that are reckoned with together."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from math import isfinite

import numpy as np
from numpy.typing import NDArray

from dromikon.core.devices.frames import SceneFrame
from dromikon.core.instants import Instant
from dromikon.core.kinds import CLASSES

Boxes = NDArray[np.float64]
#: Left, top, right, bottom.
Sides = tuple[float, float, float, float]
#: More objects than this in one picture are noise: the surest are taken.
MOST = 500
#: What devices call things that we call otherwise.
NAMES = {"person": "human", "face": "human", "car": "vehicle", "truck": "vehicle", "bus": "vehicle", "bike": "bicycle"}


@dataclass(frozen=True, slots=True)
class Sight:
    """What is in a picture. `sides`: of each thing left, top, right, bottom, as shares from the picture's left and top: as numbers, since
    few things are in a picture, and nothing is gained by arrays. `sure`: in percent; 100 where the device does not say."""

    at: Instant
    ids: tuple[str, ...]
    kinds: tuple[str, ...]
    sure: tuple[float, ...]
    sides: Sequence[Sides]

    def __len__(self) -> int:
        return len(self.ids)

    @property
    def boxes(self) -> Boxes:
        """The sides as an array, a row each."""
        return np.array(self.sides, float).reshape(-1, 4)

    @property
    def feet(self) -> Boxes:
        """Where things stand: the middle of each box's lower side."""
        boxes = self.boxes
        return np.column_stack(((boxes[:, 0] + boxes[:, 2]) / 2, boxes[:, 3]))


def sight_of(frame: SceneFrame) -> Sight:
    """A frame of the object metadata stream. What lies outside the picture is cut off or, where nothing is left, left out;
    of two things with one number the surer one is taken."""
    rows: dict[str, int] = {}
    kinds: list[str] = []
    sures: list[float] = []
    boxes: list[Sides] = []
    for thing in frame.seen:
        # From ONVIF's normalised coordinates (-1 to 1, upwards); asked for every object, so the usual ones are not passed on.
        x1, y1, x2, y2 = thing.box
        left, top, right, bottom = (x1 + 1) / 2, (1 - y1) / 2, (x2 + 1) / 2, (1 - y2) / 2
        box: Sides | None = (left, top, right, bottom)
        if not (0 <= left < right <= 1 and 0 <= top < bottom <= 1):
            box = _within(left, top, right, bottom)
        if box is None:
            continue
        sure = _percent(thing.likelihood)
        row = rows.setdefault(thing.object, len(boxes))
        if row == len(boxes):
            kinds.append(kind_of(thing.kind))
            sures.append(sure)
            boxes.append(box)
        elif sure > sures[row]:
            kinds[row], sures[row], boxes[row] = kind_of(thing.kind), sure, box
    whole = Sight(frame.at, tuple(rows), tuple(kinds), tuple(sures), boxes)
    return whole if len(boxes) <= MOST else _surest(whole)


def _surest(sight: Sight) -> Sight:
    rows: list[int] = np.argsort([-sure for sure in sight.sure], kind="stable")[:MOST].tolist()
    ids, kinds = (tuple(names[row] for row in rows) for names in (sight.ids, sight.kinds))
    return Sight(sight.at, ids, kinds, tuple(sight.sure[row] for row in rows), [sight.sides[row] for row in rows])


@lru_cache(maxsize=200)
def kind_of(name: str) -> str:
    """One of our classes for what a device calls a thing."""
    known = NAMES.get(name.casefold(), name.casefold())
    return known if known in CLASSES else "other"


def _within(left: float, top: float, right: float, bottom: float) -> Sides | None:
    """The part of a box that lies in the picture, if there is any."""
    if not isfinite(left + top + right + bottom):
        return None
    left, right = sorted((_held(left), _held(right)))
    top, bottom = sorted((_held(top), _held(bottom)))
    return (left, top, right, bottom) if right > left and bottom > top else None


def _percent(likelihood: float | None) -> float:
    """Some devices tell more than a whole, or no number at all."""
    if likelihood is None:
        return 100.0
    if 0.0 <= likelihood <= 1.0:
        return 100.0 * likelihood
    return 100.0 if likelihood > 1.0 else 0.0


def _held(share: float) -> float:
    return max(0.0, min(1.0, share))
