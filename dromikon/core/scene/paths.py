"""Where objects went: their paths, thinned, and how often somebody stood where."""

from collections.abc import Iterable
from dataclasses import dataclass, field
from math import dist

import numpy as np

from dromikon.core.scene.shapes import Corner
from dromikon.core.scene.sight import Sight
from dromikon.core.scene.tracks import Track, Tracks

#: A path has a corner where it is so far from the last one, as a share of the picture.
STEP = 0.012
#: So many paths are drawn, the latest; and so many cells has the picture for where somebody stood.
MOST, COLUMNS, ROWS = 300, 64, 36


@dataclass(frozen=True, slots=True)
class Way:
    """One object's path."""

    kind: str
    corners: tuple[Corner, ...]


@dataclass
class Went:
    """Paths and, by cell from the upper left, pictures in which somebody stood there."""

    ways: list[Way] = field(default_factory=list)
    stood: list[list[int]] = field(default_factory=list)


def went(sights: Iterable[Sight]) -> Went:
    """Of pictures in their order."""
    tracks, cells = Tracks(), np.zeros((ROWS, COLUMNS), np.int64)
    corners: dict[int, list[Corner]] = {}
    known: dict[int, Track] = {}
    for sight in sights:
        found = tracks.take(sight)
        if found is None or not len(sight):
            continue
        feet = sight.feet
        rows = np.minimum((feet[:, 1] * ROWS).astype(int), ROWS - 1)
        columns = np.minimum((feet[:, 0] * COLUMNS).astype(int), COLUMNS - 1)
        np.add.at(cells, (rows, columns), 1)
        for track in found[0]:
            known[track.number] = track
            path = corners.setdefault(track.number, [track.foot])
            if dist(path[-1], track.foot) >= STEP:
                path.append(track.foot)
    numbers = sorted(corners)[-MOST:]
    ways = [Way(known[n].kind, tuple(corners[n])) for n in numbers if len(corners[n]) > 1]
    return Went(ways, cells.tolist())
