"""A bay is occupied: something covers enough of it, for long enough."""

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

#: What covers a bay goes on to as long as it covers this share of what it had to.
STAYS = 0.75


class OccupiedDetector(Detector):
    """Begins when a thing has covered enough of the bay for so long, and ends when none has for as long: a car that is hidden
    for a moment by another one has not left."""

    label: ClassVar[str] = N_("occupies a bay")
    tells: ClassVar[str] = "scene.occupied"
    covers: ClassVar[bool] = True
    detects: Literal["occupied"] = "occupied"
    overlap: Annotated[float, Field(gt=0, le=100), Number(N_("Covers at least"), unit=N_("% of the bay"))] = 40.0
    seconds: Annotated[Seconds, Number(N_("For"), unit="s")] = 5.0

    def begin(self) -> Watching:
        return _Bay(self.overlap / 100, round(self.seconds * 1000))


class _Bay(Watching):
    __slots__ = ("_after", "_covered_by", "_free_since", "_least", "_on", "_since")

    def __init__(self, least: float, after: int) -> None:
        super().__init__()
        self._least, self._after = least, after
        self._on: Track | None = None
        self._covered_by: Track | None = None
        self._since: Instant | None = None
        self._free_since: Instant | None = None

    def seen(self, at: Instant, track: Track, share: float) -> Sequence[Told]:
        if share >= (self._least if self._since is None else self._least * STAYS):
            self._covered_by = track
        return NOTHING

    def looked(self, at: Instant, seen: Sequence[Track]) -> Sequence[Told]:
        covering, self._covered_by = self._covered_by, None
        return self._free(at) if covering is None else self._covered(at, covering)

    def _covered(self, at: Instant, covering: Track) -> Sequence[Told]:
        self._free_since = None
        self._since = at if self._since is None else self._since
        if self._on is not None or at - self._since < self._after:
            return NOTHING
        self._on = covering
        return (Told(at, Phase.BEGIN, covering),)

    def _free(self, at: Instant) -> Sequence[Told]:
        self._free_since = at if self._free_since is None else self._free_since
        free = at - self._free_since
        if self._on is None:
            # A box that trembles or is missed once has not driven off.
            self._since = self._since if free < GRACE else None
            return NOTHING
        if free < self._after:
            return NOTHING
        was, self._on, self._since, self._free_since = self._on, None, None, None
        return (Told(at, Phase.END, was),)
