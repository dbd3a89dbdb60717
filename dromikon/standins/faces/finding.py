"""Finding faces in a picture: patches of the colour of skin that have two eyes where eyes are."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

Field = NDArray[Any]
#: Nothing smaller is looked at, in pixels of a patch's width.
SMALLEST = 12
#: A picture is looked through at most this wide.
WIDEST = 1920
#: How dark something on a face is, as a share of its skin's light, to be an eye or a brow.
DARK = 0.62
#: How far below its middle a face has its eyes, as a share of its width.
EYES_BELOW = 0.03


@dataclass(frozen=True, slots=True)
class Face:
    """Where the eyes are, how wide the face is and where it is widest, in pixels of the picture."""

    left: tuple[float, float]
    right: tuple[float, float]
    wide: float
    middle: float
    centre: float
    covered: bool

    @property
    def eyes(self) -> float:
        """From eye to eye, in pixels."""
        return float(np.hypot(self.right[0] - self.left[0], self.right[1] - self.left[1]))

    @property
    def box(self) -> tuple[float, float, float, float]:
        """Left, top, right, bottom of the whole head, in pixels."""
        half = self.wide * 0.6
        return self.middle - half, self.centre - half * 1.1, self.middle + half, self.centre + half * 1.1


def find_faces(picture: Field) -> list[Face]:
    """The faces of an 8-bit picture (height, width, 3), the largest first."""
    colour = picture.astype(np.float32)
    found = (_face(colour, *box) for box in _patches(_skin(colour)))
    faces: list[Face] = []
    for face in sorted((f for f in found if f), key=lambda f: -f.wide):
        # Behind glasses there is skin, too.
        if not any(_within(face, larger) for larger in faces):
            faces.append(face)
    return faces


def _within(face: Face, larger: Face) -> bool:
    left, top, right, bottom = larger.box
    return left < face.middle < right and top < face.centre < bottom


def _skin(colour: Field) -> Field:
    """Pixels whose colour is a skin's, whatever the light: more red than green, more green than blue, by so much."""
    red, green, blue = colour[..., 0], colour[..., 1], colour[..., 2]
    bright = np.maximum(red, 1)
    first, second = (red - green) / bright, (green - blue) / bright
    return (red > 70) & (first > 0.11) & (first < 0.40) & (second > 0.085) & (second < 0.25)


def _patches(mask: Field) -> Iterator[tuple[int, int, int, int]]:
    """Boxes (left, top, right, bottom) of what hangs together, by the runs of each row that touch runs of the row above."""
    patches, above, last = _Patches(), list[tuple[int, int, int]](), -2
    for y in np.flatnonzero(mask.any(axis=1)).tolist():
        touching = above if y == last + 1 else []
        edges = np.flatnonzero(np.diff(np.concatenate(([0], mask[y].view(np.int8), [0])))).tolist()
        above, last = [], y
        for start, end in zip(edges[::2], edges[1::2], strict=True):
            near = [patch for a, b, patch in touching if a < end and b > start]
            above.append((start, end, patches.take((start, y, end, y + 1), near)))
    for left, top, right, bottom in patches.boxes():
        if right - left >= SMALLEST and bottom - top >= SMALLEST * 0.4:
            yield left, top, right, bottom


class _Patches:
    """Patches that grow together: each has a box until it belongs to another."""

    def __init__(self) -> None:
        self._parents: list[int] = []
        self._boxes: list[tuple[int, int, int, int]] = []

    def take(self, box: tuple[int, int, int, int], near: Sequence[int]) -> int:
        """Add a run to the patches that it touches, which are one from now on; to none: a new one. Its number."""
        roots = {self._root(patch) for patch in near}
        if not roots:
            self._parents.append(len(self._parents))
            self._boxes.append(box)
            return len(self._parents) - 1
        own = min(roots)
        for other in roots:
            self._parents[other] = own
        boxes = [box, *(self._boxes[root] for root in roots)]
        lefts, tops, rights, bottoms = zip(*boxes, strict=True)
        self._boxes[own] = min(lefts), min(tops), max(rights), max(bottoms)
        return own

    def boxes(self) -> Iterator[tuple[int, int, int, int]]:
        yield from (box for i, box in enumerate(self._boxes) if self._parents[i] == i)

    def _root(self, patch: int) -> int:
        while self._parents[patch] != patch:
            patch = self._parents[patch]
        return patch


def _face(colour: Field, left: int, top: int, right: int, bottom: int) -> Face | None:
    """The face of a patch, where it has two eyes side by side, a little below where it is widest."""
    wide, high = right - left, bottom - top
    if wide > 3.2 * high or high > 3.2 * wide:
        return None
    part = colour[top : min(bottom, top + 2 * wide), left:right]
    skin = _skin(part)
    across = np.where(skin.any(axis=1), wide - np.argmax(skin[:, ::-1], axis=1) - np.argmax(skin, axis=1), 0)
    centre = float(np.median(np.flatnonzero(across >= 0.97 * across.max())))
    if skin.mean() < 0.35:
        return None
    light = part @ np.array([0.299, 0.587, 0.114], np.float32)
    dark = light < float(np.median(light[skin])) * DARK
    eyes = _two(dark, wide, centre)
    if eyes is not None:
        # Eyes say better than the outline where the middle is; then they are looked for once more, around it.
        centre = (eyes[0][1] + eyes[1][1]) / 2 - EYES_BELOW * wide
        eyes = _two(dark, wide, centre)
    if eyes is None:
        return None
    (x0, y0), (x1, y1) = eyes
    centre = (y0 + y1) / 2 - EYES_BELOW * wide
    place = (left + x0, top + y0), (left + x1, top + y1)
    return Face(*place, float(wide), left + wide / 2, top + centre, _covered(colour, left, wide, top + centre))


def _two(dark: Field, wide: int, centre: float) -> tuple[tuple[float, float], tuple[float, float]] | None:
    """The middles of what is dark in the two places where eyes are."""
    top, bottom = max(0, round(centre - 0.07 * wide)), round(centre + 0.13 * wide) + 1
    sides = []
    for start, end in ((0.13, 0.46), (0.54, 0.87)):
        first = round(start * wide)
        rows, columns = np.nonzero(dark[top:bottom, first : round(end * wide)])
        if len(rows) < max(2, 0.002 * wide * wide):
            return None
        sides.append((float(columns.mean()) + first, float(rows.mean()) + top))
    return (sides[0], sides[1]) if abs(sides[0][1] - sides[1][1]) < 0.1 * wide else None


def _covered(colour: Field, left: int, wide: int, centre: float) -> bool:
    """Whether what lies around nose and mouth is no skin."""
    top, bottom = round(centre + 0.22 * wide), round(centre + 0.5 * wide)
    part = colour[top:bottom, left + round(0.25 * wide) : left + round(0.75 * wide)]
    return part.size == 0 or float(_skin(part).mean()) < 0.3
