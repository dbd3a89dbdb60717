"""A doorway in the picture: whoever appears in it has come out, whoever vanishes in it has gone in."""

from collections.abc import Sequence
from typing import Annotated, ClassVar, Literal

from dromikon.core.events import Phase
from dromikon.core.instants import Instant
from dromikon.core.rules.controls import Choice
from dromikon.core.scene.tracks import Track
from dromikon.core.scene.watching.base import NOTHING, Detector, Told, Watching
from dromikon.core.words import N_

WAYS = {"either": N_("either way"), "in": N_("goes in"), "out": N_("comes out")}
#: Whoever appears is watched for so long until it stands clear of the doorway, in ms.
PATIENCE = 10_000


class DoorwayDetector(Detector):
    """Tells whoever goes in or comes out by a doorway. Whoever only passes before it does neither."""

    label: ClassVar[str] = N_("goes through a doorway")
    tells: ClassVar[str] = "scene.passed"
    detects: Literal["doorway"] = "doorway"
    way: Annotated[Literal["either", "in", "out"], Choice(N_("Direction"), words=WAYS)] = "either"

    def begin(self) -> Watching:
        return _Doorway(self.way)


class _Doorway(Watching):
    __slots__ = ("_appeared", "_inside", "_way")

    def __init__(self, way: str) -> None:
        super().__init__()
        self._way = way
        #: Those who appeared in it, and when; and those who stand in it now.
        self._appeared: dict[int, Instant] = {}
        self._inside: set[int] = set()

    def passed_over(self, track: Track) -> None:
        self._appeared.setdefault(track.number, track.since)

    def seen(self, at: Instant, track: Track, share: float) -> Sequence[Told]:
        number = track.number
        if share > 0:
            if track.since == at:
                self._appeared[number] = at
            self._inside.add(number)
            self.held.add(number)
            return NOTHING
        self._inside.discard(number)
        self.held.discard(number)
        since = self._appeared.pop(number, None)
        came_out = since is not None and at - since <= PATIENCE and self._way != "in"
        return (Told(at, Phase.PULSE, track, (("direction", "out"),)),) if came_out else NOTHING

    def gone(self, at: Instant, track: Track) -> Sequence[Told]:
        went_in = track.number in self._inside and track.number not in self._appeared
        self._appeared.pop(track.number, None)
        self._inside.discard(track.number)
        self.held.discard(track.number)
        return (Told(at, Phase.PULSE, track, (("direction", "in"),)),) if went_in and self._way != "out" else NOTHING
