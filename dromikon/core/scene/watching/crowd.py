"""Too many at once in an area."""

from collections.abc import Sequence
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from dromikon.core.events import Phase
from dromikon.core.instants import Instant
from dromikon.core.rules.controls import Number
from dromikon.core.scene.tracks import Track
from dromikon.core.scene.watching.base import NOTHING, Detector, Told, Watching
from dromikon.core.scene.watching.presence import GRACE, Seconds
from dromikon.core.words import N_


class CrowdDetector(Detector):
    """Begins when more than so many have been inside for so long, and ends when they have not been for as long."""

    label: ClassVar[str] = N_("are too many at once")
    tells: ClassVar[str] = "scene.crowded"
    detects: Literal["crowd"] = "crowd"
    most: Annotated[int, Field(ge=1, le=500), Number(N_("More than"))] = 5
    seconds: Annotated[Seconds, Number(N_("For"), unit="s")] = 3.0

    def begin(self) -> Watching:
        return _Crowd(self.most, round(self.seconds * 1000))


class _Crowd(Watching):
    """Counts those who are inside. One that is missed in a picture, or out for a moment, breaks no stretch; but it begins only while
    as many are seen."""

    __slots__ = ("_after", "_lately", "_most", "_on", "_since")

    def __init__(self, most: int, after: int) -> None:
        super().__init__()
        self._most, self._after = most, after
        self._on = False
        self._since: Instant | None = None
        #: When each was seen inside last.
        self._lately: dict[int, Instant] = {}

    def seen(self, at: Instant, track: Track, share: float) -> Sequence[Told]:
        if share > 0:
            self._lately[track.number] = at
        return NOTHING

    def looked(self, at: Instant, seen: Sequence[Track]) -> Sequence[Told]:
        if not self._lately and not self._on:
            return NOTHING
        self._lately = {number: last for number, last in self._lately.items() if at - last < GRACE}
        now = sum(last == at for last in self._lately.values())
        if (len(self._lately) > self._most) is self._on:
            self._since = None
            return NOTHING
        self._since = at if self._since is None else self._since
        if at - self._since < self._after or (not self._on and now <= self._most):
            return NOTHING
        self._on, self._since = not self._on, None
        return (Told(at, Phase.BEGIN if self._on else Phase.END, None, (("value", now),)),)
