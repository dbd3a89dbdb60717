"""Objects in an area: that somebody is inside, comes in, leaves, stays for long, stands still."""

from collections.abc import Sequence
from math import inf
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from dromikon.core.events import Phase
from dromikon.core.instants import Instant
from dromikon.core.rules.controls import Number
from dromikon.core.scene.tracks import Track
from dromikon.core.scene.watching.base import NOTHING, Detector, Told, Watching
from dromikon.core.words import N_

#: Whoever steps out for less than this, in ms, has not left: boxes tremble.
GRACE = 700
#: Whoever moves no faster stands, in own heights a second.
STANDS = 0.15
Seconds = Annotated[float, Field(ge=0, le=86_400)]


class InsideDetector(Detector):
    """Begins with the first and ends with the last who is inside."""

    label: ClassVar[str] = N_("is inside")
    tells: ClassVar[str] = "scene.inside"
    detects: Literal["inside"] = "inside"

    def begin(self) -> Watching:
        return _Lasting(0)


class OutsideDetector(Detector):
    """Begins with the first and ends with the last who is anywhere else in the picture."""

    label: ClassVar[str] = N_("is outside")
    tells: ClassVar[str] = "scene.outside"
    inverse: ClassVar[bool] = True
    detects: Literal["outside"] = "outside"

    def begin(self) -> Watching:
        return _Lasting(GRACE)


class LingeringDetector(Detector):
    """Begins when somebody has been inside for so long, and ends when nobody has any more."""

    label: ClassVar[str] = N_("lingers")
    tells: ClassVar[str] = "scene.loitering"
    detects: Literal["lingering"] = "lingering"
    seconds: Annotated[Seconds, Number(N_("For"), unit="s")] = 20.0

    def begin(self) -> Watching:
        return _Lasting(round(self.seconds * 1000))


class StandingDetector(Detector):
    """Begins when somebody has stood still inside for so long, and ends when they go on or leave."""

    label: ClassVar[str] = N_("stands still")
    tells: ClassVar[str] = "scene.standing"
    detects: Literal["standing"] = "standing"
    seconds: Annotated[Seconds, Number(N_("For"), unit="s")] = 10.0

    def begin(self) -> Watching:
        return _Lasting(round(self.seconds * 1000), slower_than=STANDS)


class Staying(Watching):
    """Knows who is inside, and since when. Whoever is out for less than the grace has not left."""

    __slots__ = ("_out", "inside_since")

    def __init__(self) -> None:
        super().__init__()
        self.inside_since: dict[int, Instant] = {}
        self._out: dict[int, Instant] = {}

    def note(self, at: Instant, number: int, inside: bool) -> bool:
        """Takes note of one; whether it has just come in."""
        if not inside:
            if number in self.inside_since:
                self._out.setdefault(number, at)
            return False
        self._out.pop(number, None)
        came = number not in self.inside_since
        self.inside_since.setdefault(number, at)
        self.held.add(number)
        return came

    def left(self, at: Instant) -> list[int]:
        """Those who are out for good, and are forgotten."""
        if not self._out:
            return []
        found = [number for number, since in self._out.items() if at - since >= GRACE]
        for number in found:
            self.forget(number)
        return found

    def forget(self, number: int) -> None:
        self._out.pop(number, None)
        self.inside_since.pop(number, None)
        self.held.discard(number)


class _Lasting(Staying):
    """A state that holds while one object at least has been inside for so long (ms); with `slower_than`, only who moves no
    faster (own heights a second) counts as inside."""

    __slots__ = ("_after", "_counted", "_slower")

    def __init__(self, after: int, slower_than: float = inf) -> None:
        super().__init__()
        self._after, self._slower = after, slower_than
        self._counted: dict[int, Track] = {}

    def seen(self, at: Instant, track: Track, share: float) -> Sequence[Told]:
        number = track.number
        self.note(at, number, share > 0 and track.speed < self._slower)
        since = self.inside_since.get(number)
        # Who is just out has not lingered until now, if not for good either.
        if since is None or number in self._out or at - since < self._after or number in self._counted:
            return NOTHING
        self._counted[number] = track
        return (Told(at, Phase.BEGIN, track),) if len(self._counted) == 1 else NOTHING

    def gone(self, at: Instant, track: Track) -> Sequence[Told]:
        self.forget(track.number)
        return self._without(at, [track.number])

    def looked(self, at: Instant, seen: Sequence[Track]) -> Sequence[Told]:
        # Asked for each picture, and most of the time nobody is just out.
        return self._without(at, self.left(at)) if self._out else NOTHING

    def _without(self, at: Instant, numbers: list[int]) -> Sequence[Told]:
        was = [self._counted.pop(number) for number in numbers if number in self._counted]
        return (Told(at, Phase.END, was[-1]),) if was and not self._counted else NOTHING


class EnteringDetector(Detector):
    """Tells each one that was outside and is inside now; whoever appears inside has not come in."""

    label: ClassVar[str] = N_("enters")
    tells: ClassVar[str] = "scene.entered"
    detects: Literal["entering"] = "entering"

    def begin(self) -> Watching:
        return _Passing(enters=True)


class LeavingDetector(Detector):
    """Tells each one that was inside and is outside now; whoever vanishes inside has not left."""

    label: ClassVar[str] = N_("leaves")
    tells: ClassVar[str] = "scene.left"
    detects: Literal["leaving"] = "leaving"

    def begin(self) -> Watching:
        return _Passing(enters=False)


class _Passing(Staying):
    __slots__ = ("_appeared", "_enters", "_tracks")

    def __init__(self, enters: bool) -> None:
        super().__init__()
        self._enters = enters
        self._appeared: set[int] = set()
        self._tracks: dict[int, Track] = {}

    def passed_over(self, track: Track) -> None:
        self._appeared.add(track.number)

    def seen(self, at: Instant, track: Track, share: float) -> Sequence[Told]:
        came = self.note(at, track.number, share > 0)
        if not came:
            return NOTHING
        self._tracks[track.number] = track
        appeared = track.since == at or track.number in self._appeared
        return (Told(at, Phase.PULSE, track),) if self._enters and not appeared else NOTHING

    def gone(self, at: Instant, track: Track) -> Sequence[Told]:
        self.forget(track.number)
        self._appeared.discard(track.number)
        self._tracks.pop(track.number, None)
        return NOTHING

    def looked(self, at: Instant, seen: Sequence[Track]) -> Sequence[Told]:
        if not self._out:
            return NOTHING
        left = [self._tracks.pop(number) for number in self.left(at)]
        self._appeared.difference_update(track.number for track in left)
        return [] if self._enters else [Told(at, Phase.PULSE, track) for track in left]
