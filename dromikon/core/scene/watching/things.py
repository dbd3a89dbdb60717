"""Things without anybody: left behind, or taken away."""

from collections.abc import Sequence
from math import hypot
from typing import Annotated, ClassVar, Literal

from dromikon.core.events import Phase
from dromikon.core.instants import Instant
from dromikon.core.rules.controls import Number
from dromikon.core.scene.tracks import Track
from dromikon.core.scene.watching.base import NOTHING, Detector, Told, Watching
from dromikon.core.scene.watching.presence import STANDS, Seconds
from dromikon.core.words import N_

#: What brings things and takes them.
PEOPLE = "human"
#: Somebody this near, in own heights, is with a thing.
WITH = 1.2
#: A thing that is hidden for less than this, in ms, was not taken; it may have another number afterwards.
HIDDEN = 6_000
#: So much of two boxes is common when they are the same thing at the same place.
SAME = 0.5


class LeftBehindDetector(Detector):
    """Begins when a thing has stood inside for so long with nobody near it, and ends when somebody comes for it."""

    label: ClassVar[str] = N_("is left behind")
    tells: ClassVar[str] = "scene.left_behind"
    detects: Literal["left_behind"] = "left_behind"
    seconds: Annotated[Seconds, Number(N_("For"), unit="s")] = 30.0

    def begin(self) -> Watching:
        return _LeftBehind(round(self.seconds * 1000))

    def concerns(self, track: Track) -> bool:
        return track.kind != PEOPLE and super().concerns(track)


class _LeftBehind(Watching):
    __slots__ = ("_after", "_alone_since", "_standing", "_told")

    def __init__(self, after: int) -> None:
        super().__init__()
        self._after = after
        self._standing: list[Track] = []
        self._alone_since: dict[int, Instant] = {}
        self._told: dict[int, Track] = {}

    def seen(self, at: Instant, track: Track, share: float) -> Sequence[Told]:
        if share > 0 and track.speed < STANDS:
            self._standing.append(track)
            return NOTHING
        # It went by itself.
        return self._over(at, track.number)

    def looked(self, at: Instant, seen: Sequence[Track]) -> Sequence[Told]:
        if not self._standing:
            return NOTHING
        things, self._standing = self._standing, []
        people = [track for track in seen if track.kind == PEOPLE]
        return [told for thing in things for told in self._look(at, thing, people)]

    def _look(self, at: Instant, thing: Track, people: list[Track]) -> Sequence[Told]:
        if any(_is_with(person, thing) for person in people):
            return self._over(at, thing.number)
        since = self._alone_since.setdefault(thing.number, at)
        if at - since < self._after or thing.number in self._told:
            return NOTHING
        self._told[thing.number] = thing
        self.held.add(thing.number)
        return (Told(at, Phase.BEGIN, thing),) if len(self._told) == 1 else NOTHING

    def gone(self, at: Instant, track: Track) -> Sequence[Told]:
        return self._over(at, track.number)

    def _over(self, at: Instant, number: int) -> Sequence[Told]:
        self._alone_since.pop(number, None)
        self.held.discard(number)
        thing = self._told.pop(number, None)
        return (Told(at, Phase.END, thing),) if thing is not None and not self._told else NOTHING


def _is_with(person: Track, thing: Track) -> bool:
    right, down = person.foot[0] - thing.foot[0], person.foot[1] - thing.foot[1]
    return hypot(right * person.wider, down) <= WITH * person.height


class TakenAwayDetector(Detector):
    """Tells that a thing which had stood inside for so long is there no more."""

    label: ClassVar[str] = N_("is taken away")
    tells: ClassVar[str] = "scene.taken_away"
    detects: Literal["taken_away"] = "taken_away"
    seconds: Annotated[Seconds, Number(N_("Had stood for"), unit="s")] = 30.0

    def begin(self) -> Watching:
        return _TakenAway(round(self.seconds * 1000))

    def concerns(self, track: Track) -> bool:
        return track.kind != PEOPLE and super().concerns(track)


class _TakenAway(Watching):
    __slots__ = ("_after", "_missing", "_since")

    def __init__(self, after: int) -> None:
        super().__init__()
        self._after = after
        self._since: dict[int, Instant] = {}
        self._missing: list[tuple[Instant, Track]] = []

    def seen(self, at: Instant, track: Track, share: float) -> Sequence[Told]:
        number = track.number
        if number not in self._since:
            if share > 0 and track.speed < STANDS:
                self._since[number] = self._again(track) or at
                self.held.add(number)
            return NOTHING
        if share > 0:
            return NOTHING
        self.held.discard(number)
        stood = at - self._since.pop(number)
        return (Told(at, Phase.PULSE, track),) if stood >= self._after else NOTHING

    def _again(self, track: Track) -> Instant | None:
        """Since when it has stood there already, when it is one that was only hidden."""
        for entry in self._missing:
            if _common(entry[1].box, track.box) >= SAME:
                self._missing.remove(entry)
                return entry[1].since
        return None

    def gone(self, at: Instant, track: Track) -> Sequence[Told]:
        self.held.discard(track.number)
        since = self._since.pop(track.number, None)
        if since is not None and track.at - since >= self._after:
            self._missing.append((at, track))
        return NOTHING

    def looked(self, at: Instant, seen: Sequence[Track]) -> Sequence[Told]:
        if not self._missing:
            return NOTHING
        taken = [entry for entry in self._missing if at - entry[0] >= HIDDEN]
        for entry in taken:
            self._missing.remove(entry)
        return [Told(at, Phase.PULSE, track) for _, track in taken]


def _common(a: tuple[float, float, float, float], b: tuple[float, float, float, float]) -> float:
    """What two boxes have in common, as a share of both together."""
    wide = min(a[2], b[2]) - max(a[0], b[0])
    tall = min(a[3], b[3]) - max(a[1], b[1])
    if wide <= 0 or tall <= 0:
        return 0.0
    both = wide * tall
    return both / ((a[2] - a[0]) * (a[3] - a[1]) + (b[2] - b[0]) * (b[3] - b[1]) - both)
