"""All detectors of one channel at work. What comes in are pictures in their order; what comes out is told once."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from dromikon.core.events import Phase, Scalar
from dromikon.core.instants import Instant
from dromikon.core.kinds import KINDS
from dromikon.core.optics import Optics
from dromikon.core.scene.ground import Area, Ground
from dromikon.core.scene.seeing import Seeing
from dromikon.core.scene.sight import Sight
from dromikon.core.scene.tracks import Track, Tracks
from dromikon.core.scene.watching import Detector, Told, Watching


@dataclass(frozen=True, slots=True)
class Detected:
    """What a detector told: an event at its point. `box`: of the object that it is about, in shares of the picture."""

    point: str
    kind: str
    phase: Phase
    at: Instant
    fields: Mapping[str, Scalar]
    box: tuple[float, float, float, float] | None = None


class Detecting:
    """The detectors of a channel by the points that they are, and how it sees. `optics`: how it hangs, where that is known:
    without it, nobody's size in metres is."""

    def __init__(
        self, detectors: Mapping[str, Detector], seeing: Seeing | None = None, optics: Optics | None = None
    ) -> None:
        self.tracks = Tracks()
        self.see_by(seeing or Seeing(), optics)
        self._workers: dict[str, _Worker] = {}
        self._told: list[tuple[_Worker, Told]] = []
        self.become(detectors)

    def see_by(self, seeing: Seeing, optics: Optics | None) -> None:
        """Other masks, another life and another measure from now on."""
        self._optics = optics
        self.tracks.life, self.tracks.wider = round(seeing.life * 1000), seeing.wider
        self._masks = Ground([Area(mask, False) for mask in seeing.masks]) if seeing.masks else None

    def become(self, detectors: Mapping[str, Detector]) -> list[str]:
        """Other detectors from now on; those that are as they were go on with what they know. Answers the points of those
        that begin. What is in their areas already has not come in."""
        known, began = self._workers, []
        self._workers = {}
        for point, detector in detectors.items():
            worker = known.get(point)
            if worker is None or worker.detector != detector:
                worker = _Worker(point, detector, self._told)
                worker.find(list(self.tracks.now.values()))
                began.append(point)
            self._workers[point] = worker
        workers = self._workers.values()
        self._in_areas = [w for w in workers if w.area is not None]
        self._ground = Ground([w.area for w in workers if w.area is not None])
        self._at_lines = [w for w in workers if w.area is None]
        self._inverse = [(place, w) for place, w in enumerate(self._in_areas) if w.detector.inverse]
        self._holding = [
            (place, w, w.watching.held) for place, w in enumerate(self._in_areas) if not w.detector.inverse
        ]
        self._measures = any(d.by_metres for d in detectors.values())
        self._looking = [w for w in workers if type(w.watching).looked is not Watching.looked]
        return began

    def take(self, sight: Sight) -> list[Detected]:
        """What a picture makes the detectors tell."""
        found = self.tracks.take(sight)
        if found is None:
            return []
        seen, gone = found
        for track in gone:
            for worker in self._workers.values():
                worker.hear(worker.watching.gone(sight.at, track))
        counted = self._counted(seen)
        if self._measures and self._optics is not None:
            for track in counted:
                track.metres = self._optics.tall(track.box) or track.metres
        self._look_into(sight.at, counted)
        at = sight.at
        for worker in self._at_lines:
            see = worker.see
            for track in counted:
                see(at, track, 0.0)
        for worker in self._looking:
            if told := worker.watching.looked(sight.at, counted):
                worker.hear(told)
        return self._tell() if self._told else []

    def _tell(self) -> list[Detected]:
        told = [_detected(worker.point, worker.detector.tells, one) for worker, one in self._told]
        # Workers write into this very list.
        self._told.clear()
        return told

    def _counted(self, seen: list[Track]) -> list[Track]:
        """Those that no mask hides."""
        if self._masks is None:
            return seen
        hidden = {row for row, _, _ in self._masks.pairs([track.box for track in seen])}
        return [track for row, track in enumerate(seen) if row not in hidden]

    def _look_into(self, at: Instant, seen: list[Track]) -> None:
        """Most objects are in few areas: only pairs of which something is to be known are looked at."""
        shares = {(row, place): share for row, place, share in self._ground.pairs([track.box for track in seen])}
        for place, worker in self._inverse:
            for row, track in enumerate(seen):
                worker.see(at, track, 1.0 - shares.pop((row, place), 0.0))
        for place, worker, held in self._holding:
            if held:
                for row, track in enumerate(seen):
                    if track.number in held and (row, place) not in shares:
                        worker.see(at, track, 0.0)
        for (row, place), share in shares.items():
            self._in_areas[place].see(at, seen[row], share)


class _Worker:
    """One detector at work. What it tells of a picture it writes to a list that all share."""

    __slots__ = ("_concerns", "_held", "_seen", "_told", "area", "detector", "point", "watching")

    def __init__(self, point: str, detector: Detector, told: "list[tuple[_Worker, Told]]") -> None:
        self.point, self.detector, self.watching, self._told = point, detector, detector.begin(), told
        self.area = Area(detector.corners, detector.covers) if detector.shape == "area" else None
        # Asked for each object of each picture.
        self._concerns, self._seen, self._held = detector.concerns, self.watching.seen, self.watching.held

    def find(self, tracks: list[Track]) -> None:
        """What is there when it begins: what is inside has not come in."""
        if self.area is not None:
            for row, _, _ in Ground([self.area]).pairs([track.box for track in tracks]):
                self.watching.passed_over(tracks[row])

    def see(self, at: Instant, track: Track, share: float) -> None:
        """An object that it holds on to stays its own, however large it looks from nearer by."""
        if track.number in self._held or self._concerns(track):
            if told := self._seen(at, track, share):
                self.hear(told)
        elif share > 0:
            self.watching.passed_over(track)

    def hear(self, told: Sequence[Told]) -> None:
        for one in told:
            self._told.append((self, one))


def _detected(point: str, kind: str, told: Told) -> Detected:
    track, fields = told.track, dict(told.fields)
    if track is not None and KINDS[kind].field("class") is not None:
        fields |= {"class": track.kind, "confidence": round(track.sure, 1), "object": track.number,
                   "height": round(100 * track.height, 1)}  # fmt: skip
    return Detected(point, kind, told.phase, told.at, fields, track.box if track is not None else None)
