"""How things move in an area: the wrong way, or running."""

from collections.abc import Callable, Sequence
from math import atan2, degrees
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from dromikon.core.events import Phase
from dromikon.core.instants import Instant
from dromikon.core.rules.controls import Number
from dromikon.core.scene.tracks import Track
from dromikon.core.scene.watching.base import NOTHING, Detector, Told, Watching
from dromikon.core.scene.watching.presence import STANDS
from dromikon.core.words import N_

#: It must last so long, in ms, before it is told: one box that trembles is no movement.
LASTS = 700


class WrongWayDetector(Detector):
    """Tells each one that moves against the arrow, which points the right way; degrees in the picture, 0 to the right and 90
    downwards."""

    label: ClassVar[str] = N_("goes the wrong way")
    tells: ClassVar[str] = "scene.wrong_way"
    detects: Literal["wrong_way"] = "wrong_way"
    right_way: Annotated[float, Field(ge=-360, le=360), Number(N_("The right way is"), unit="°")] = 0.0
    within: Annotated[float, Field(gt=0, le=90), Number(N_("Against it within"), unit="°")] = 60.0

    def begin(self) -> Watching:
        return _Moving(self._against)

    def _against(self, track: Track) -> bool:
        if track.speed < STANDS:
            return False
        heads = degrees(atan2(track.way[1], track.way[0]))
        return abs((heads - self.right_way) % 360 - 180) <= self.within


class RunningDetector(Detector):
    """Tells each one that moves faster than so many of its own heights a second; walking is about 0.8, running from 1.7."""

    label: ClassVar[str] = N_("runs")
    tells: ClassVar[str] = "scene.running"
    detects: Literal["running"] = "running"
    faster: Annotated[float, Field(gt=0, le=20), Number(N_("Faster than"), unit=N_("own heights a second"))] = 1.6

    def begin(self) -> Watching:
        return _Moving(lambda track: track.speed > self.faster)


class _Moving(Watching):
    """Tells once of each object that has moved so for long enough, while it is inside."""

    __slots__ = ("_since", "_so", "_told")

    def __init__(self, so: Callable[[Track], bool]) -> None:
        super().__init__()
        self._so = so
        self._since: dict[int, Instant] = {}
        self._told: set[int] = set()

    def seen(self, at: Instant, track: Track, share: float) -> Sequence[Told]:
        number = track.number
        if share <= 0 or not self._so(track):
            self._since.pop(number, None)
            self.held.discard(number)
            return NOTHING
        self.held.add(number)
        if at - self._since.setdefault(number, at) < LASTS or number in self._told:
            return NOTHING
        self._told.add(number)
        return (Told(at, Phase.PULSE, track),)

    def gone(self, at: Instant, track: Track) -> Sequence[Told]:
        self._since.pop(track.number, None)
        self._told.discard(track.number)
        self.held.discard(track.number)
        return NOTHING
