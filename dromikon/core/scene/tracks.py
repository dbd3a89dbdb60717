"""Objects followed from picture to picture by the numbers that their camera gives them."""

from dataclasses import dataclass, field
from math import dist, hypot

from dromikon.core.instants import Instant
from dromikon.core.scene.shapes import Corner
from dromikon.core.scene.sight import Sides, Sight

#: An object that is not seen for so long, in ms, is gone; detectors may wait longer or shorter.
USUAL_LIFE = 2_000
#: A clock that is set back by more than this, in ms, begins anew; what is less late is left out.
SET_BACK = 10_000
#: A number that turns up so far away, in picture widths a second, is another object.
FASTEST = 3.0
#: What moves less than this to each side, as a share of the picture, is where it was.
NEAR = 0.14
#: Pictures are so many times wider than tall where nobody says otherwise: a share of the width is as much more than one of the height.
USUALLY_WIDER = 16 / 9
#: Speed is that of so long, in ms.
SPEED_OVER = 600


@dataclass(slots=True)
class Track:
    """One object while it is seen. `foot`: where it stands. `sure`: in percent, the best so far. `speed`: in own heights a
    second, which depends least on how far away it is; `way`: which way it goes, in heights of the picture a second; `wider`: how many times wider than tall the picture is; `metres`: how tall, where that is asked for and the camera is
    measured."""

    number: int
    id: str
    kind: str
    sure: float
    since: Instant
    at: Instant
    foot: Corner
    box: tuple[float, float, float, float]
    speed: float = 0.0
    way: Corner = (0.0, 0.0)
    born: Corner = (0.0, 0.0)
    wider: float = USUALLY_WIDER
    metres: float | None = None
    _lately: list[tuple[Instant, Corner]] = field(default_factory=list)
    _kinds: dict[str, float] = field(default_factory=dict)

    @property
    def height(self) -> float:
        return self.box[3] - self.box[1]

    def take(self, at: Instant, kind: str, sure: float, foot: Corner, box: tuple[float, float, float, float]) -> None:
        """Where it is now. Its class is the one that it was taken for most surely over time."""
        self._kinds[kind] = told = self._kinds.get(kind, 0.0) + sure
        if kind != self.kind and told > self._kinds.get(self.kind, 0.0):
            self.kind = kind
        if sure > self.sure:
            self.sure = sure
        self.at, self.foot, self.box = at, foot, box
        lately, long_ago = self._lately, at - SPEED_OVER
        lately.append((at, foot))
        while len(lately) > 2 and lately[1][0] <= long_ago:
            del lately[0]
        began, place = lately[0]
        if at - began >= SPEED_OVER / 2:
            seconds = (at - began) / 1000
            self.way = aside, down = (foot[0] - place[0]) * self.wider / seconds, (foot[1] - place[1]) / seconds
            self.speed = hypot(aside, down) / max(box[3] - box[1], 0.01)


class Tracks:
    """All objects of a channel. Pictures that come late or twice are left out, and counted; when the clock was set back, all that
    was seen before is gone."""

    def __init__(self, life: int = USUAL_LIFE) -> None:
        self.life, self.wider = life, USUALLY_WIDER
        self.now: dict[str, Track] = {}
        self.at: Instant | None = None
        self.left_out = 0
        self._count = 0

    def take(self, sight: Sight) -> tuple[list[Track], list[Track]] | None:
        """Those that are seen, and those that are gone since; None for a picture that is not later than the last."""
        back = self.at - sight.at if self.at is not None else -1
        if 0 <= back <= SET_BACK:
            self.left_out += 1
            return None
        self.at = sight.at
        gone = [t for t in self.now.values() if back > SET_BACK or sight.at - t.at > self.life]
        for track in gone:
            del self.now[track.id]
        seen = [self._follow(sight, i, box, gone) for i, box in enumerate(sight.sides)]
        return seen, gone

    def _follow(self, sight: Sight, row: int, box: Sides, gone: list[Track]) -> Track:
        id, foot = sight.ids[row], ((box[0] + box[2]) / 2, box[3])
        track = self.now.get(id)
        if track is not None and _jumped(track, sight.at, foot):
            gone.append(track)
            track = None
        if track is None:
            self._count += 1
            track = Track(
                self._count, id, sight.kinds[row], 0.0, sight.at, sight.at, foot, box, born=foot,
                wider=self.wider,
            )  # fmt: skip
            self.now[id] = track
        track.take(sight.at, sight.kinds[row], sight.sure[row], foot, box)
        return track


def _jumped(track: Track, at: Instant, foot: Corner) -> bool:
    """A camera that has begun to count anew gives a number to another thing."""
    x, y = track.foot
    # Asked for every object of each picture; most move a little.
    if -NEAR < foot[0] - x < NEAR and -NEAR < foot[1] - y < NEAR:
        return False
    far = dist(foot, track.foot)
    return far > 0.2 and far > FASTEST * (at - track.at) / 1000
