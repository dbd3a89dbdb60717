"""Where things stand in the areas of a channel's detectors. Most things are in few areas, so only those are asked that reach into
the field of the picture in which a thing stands; few things are in a picture, so nothing is gained by reckoning with arrays."""

from collections.abc import Callable, Iterator, Sequence
from functools import cached_property

import numpy as np

from dromikon.core.scene.shapes import Corner

#: An area's share that a box covers is counted on a grid of so many cells.
COLUMNS, ROWS = 160, 90
#: The picture in so many fields, each of which knows what reaches into it; the last is of what lies on the very edge.
ACROSS, DOWN = 25, 17
LAST_ACROSS, LAST_DOWN = ACROSS - 1, DOWN - 1
#: Left, top, right, bottom, in shares of the picture.
Sides = Sequence[float]


class Area:
    """One area: by where things stand, or (`covers`) by how much is covered of it."""

    def __init__(self, corners: tuple[Corner, ...], covers: bool) -> None:
        self.covers = covers
        xs, ys = [x for x, _ in corners], [y for _, y in corners]
        self.around = min(xs), min(ys), max(xs), max(ys)
        pairs = zip(corners, (*corners[1:], corners[0]), strict=True)
        self._edges = [(ax, ay, by, (bx - ax) / (by - ay)) for (ax, ay), (bx, by) in pairs if ay != by]

    def holds(self, x: float, y: float) -> bool:
        """Whether a place lies inside: a way to the right of it meets an odd number of edges."""
        inside = False
        for ax, ay, by, slope in self._edges:
            if (ay > y) != (by > y) and x < slope * (y - ay) + ax:
                inside = not inside
        return inside

    def covered(self, box: Sides) -> float:
        """How much of it a box covers: by sums over the grid, from the four corners of the box."""
        left, right = round(box[0] * COLUMNS), round(box[2] * COLUMNS)
        top, bottom = self._sums[round(box[1] * ROWS)], self._sums[round(box[3] * ROWS)]
        return bottom[right] - top[right] - bottom[left] + top[left]

    @cached_property
    def _sums(self) -> list[list[float]]:
        """How much of the area lies to the upper left of each corner of the grid."""
        middles = [((column + 0.5) / COLUMNS, (row + 0.5) / ROWS) for row in range(ROWS) for column in range(COLUMNS)]
        inside = np.array([self.holds(x, y) for x, y in middles], float).reshape(ROWS, COLUMNS)
        sums = np.zeros((ROWS + 1, COLUMNS + 1))
        sums[1:, 1:] = inside.cumsum(axis=0).cumsum(axis=1)
        # One that lies between the middles of cells has nothing to be covered.
        whole: list[list[float]] = (sums / max(sums[-1, -1], 1.0)).tolist()
        return whole


class Ground:
    """Several areas, each known by its place among them."""

    def __init__(self, areas: Sequence[Area]) -> None:
        #: By the field of the picture that a foot is in, the areas that reach into it.
        self._fields: list[list[tuple[int, Callable[[float, float], bool]]]] = [[] for _ in range(ACROSS * DOWN)]
        for place, area in enumerate(areas):
            if not area.covers:
                for number in _reached(area):
                    self._fields[number].append((place, area.holds))
        self._covered = [(place, *a.around, a.covered) for place, a in enumerate(areas) if a.covers]

    def pairs(self, boxes: Sequence[Sides]) -> list[tuple[int, int, float]]:
        """Each object (by its row) that is in an area (by its place), and how much of it: 1 for one that stands inside, or the
        share of the area that it covers."""
        found = []
        for row, box in enumerate(boxes):
            left, top, right, bottom = box
            x = (left + right) / 2
            for place, holds in self._fields[int(x * LAST_ACROSS) + int(bottom * LAST_DOWN) * ACROSS]:
                if holds(x, bottom):
                    found.append((row, place, 1.0))
            for place, least_x, least_y, most_x, most_y, covered in self._covered:
                if left < most_x and right > least_x and top < most_y and bottom > least_y:
                    share = covered(box)
                    if share > 0:
                        found.append((row, place, share))
        return found


def _reached(area: Area) -> Iterator[int]:
    """The fields that the rectangle around an area reaches into."""
    left, top, right, bottom = (max(0.0, min(1.0, side)) for side in area.around)
    for y in range(int(top * LAST_DOWN), int(bottom * LAST_DOWN) + 1):
        for x in range(int(left * LAST_ACROSS), int(right * LAST_ACROSS) + 1):
            yield x + y * ACROSS
