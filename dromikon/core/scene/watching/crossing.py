"""A line is crossed, in a direction."""

from collections.abc import Sequence
from math import hypot
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from dromikon.core.events import Phase
from dromikon.core.instants import Instant
from dromikon.core.rules.controls import Choice
from dromikon.core.scene.shapes import Corner, meet
from dromikon.core.scene.tracks import Track
from dromikon.core.scene.watching.base import NOTHING, Detector, Shape, Told, Watching
from dromikon.core.words import N_

#: Whoever stands on the line crosses it once: a foot counts on a side when it is so far from it, as a share of the picture.
CLEAR = 0.006
WAYS = {"either": N_("either way"), "right": N_("to the right of the arrow"), "left": N_("to the left of the arrow")}


class CrossingDetector(Detector):
    """Tells each crossing. Direction: seen along the line as it was drawn, to its right or to its left; an event says *in*
    for the right."""

    label: ClassVar[str] = N_("crosses a line")
    tells: ClassVar[str] = "scene.line_crossed"
    shape: ClassVar[Shape] = "line"
    detects: Literal["crossing"] = "crossing"
    way: Annotated[Literal["either", "right", "left"], Field(), Choice(N_("Direction"), words=WAYS)] = "either"

    def begin(self) -> Watching:
        return _Crossing(self)


class _Crossing(Watching):
    __slots__ = ("_a", "_b", "_clear", "_settled", "_way", "_way_x", "_way_y")

    def __init__(self, detector: CrossingDetector) -> None:
        super().__init__()
        self._a, self._b = detector.corners
        self._way_x, self._way_y = self._b[0] - self._a[0], self._b[1] - self._a[1]
        self._clear = CLEAR * hypot(self._way_x, self._way_y)
        self._way = detector.way
        #: By object: where it last stood clearly on a side, and on which.
        self._settled: dict[int, tuple[Corner, bool]] = {}

    def seen(self, at: Instant, track: Track, share: float) -> Sequence[Told]:
        x, y = foot = track.foot
        # How far to the right of the line, times its length: as `shapes.side` has it, asked for every object each time.
        away = self._way_x * (y - self._a[1]) - self._way_y * (x - self._a[0])
        if -self._clear < away < self._clear:
            return NOTHING
        right, before = away > 0, self._settled.get(track.number)
        self._settled[track.number] = foot, right
        if before is None or before[1] is right or not meet(before[0], foot, self._a, self._b):
            return NOTHING
        if self._way not in ("either", "right" if right else "left"):
            return NOTHING
        return (Told(at, Phase.PULSE, track, (("direction", "in" if right else "out"),)),)

    def gone(self, at: Instant, track: Track) -> Sequence[Told]:
        self._settled.pop(track.number, None)
        return NOTHING
