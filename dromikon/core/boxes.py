"""Where in a picture a thing is seen, and which part of the picture shows it well."""

from typing import NamedTuple

from dromikon.core.reading import number
from dromikon.core.words import t

#: Around a thing there is half as much again, so that one sees where it stands.
MARGIN = 0.35
#: Less than this part of the picture's width is never cut out: there would be nothing to see but grain.
LEAST = 0.1
#: Of a cut-out, width by height.
SHAPE = 3 / 4


class Box(NamedTuple):
    """Sides as shares of the picture, from its left and from its top."""

    left: float
    top: float
    right: float
    bottom: float

    def written(self) -> str:
        """As an event's field has it: "0.412 0.3 0.45 0.61"."""
        return " ".join(f"{side:.4g}" for side in self)


def box_of(left: float, top: float, right: float, bottom: float) -> Box:
    """Of sides from 0 to 1; what lies outside the picture is cut off. Raises ValueError for one without an extent."""
    inside = [max(0.0, min(1.0, side)) for side in (left, top, right, bottom)]
    found = Box(
        min(inside[0], inside[2]), min(inside[1], inside[3]), max(inside[0], inside[2]), max(inside[1], inside[3])
    )
    if found.right <= found.left or found.bottom <= found.top:
        raise ValueError(t("the box lies outside the picture, or has no extent"))
    return found


def normalised(left: float, top: float, right: float, bottom: float) -> Box:
    """Of ONVIF's normalised coordinates: from -1 to 1, upwards (ONVIF Analytics, spatial relation). Raises ValueError."""
    return box_of((left + 1) / 2, (1 - top) / 2, (right + 1) / 2, (1 - bottom) / 2)


def read_box(text: object) -> Box | None:
    """The inverse of `written`; None for anything else."""
    sides = str(text or "").replace(",", " ").split()
    if len(sides) != 4:
        return None
    try:
        return box_of(*(number(side) for side in sides))
    except ValueError:
        return None


def cut_out(box: Box, width: int, height: int) -> tuple[int, int, int, int]:
    """The part of a picture of so many pixels that shows a box with something around it: upright, within the picture."""
    tall = (box.bottom - box.top) * height * (1 + MARGIN)
    wide = (box.right - box.left) * width * (1 + MARGIN)
    wide = min(width, max(wide, tall * SHAPE, width * LEAST))
    tall = min(height, wide / SHAPE)
    wide = min(wide, max(tall * SHAPE, (box.right - box.left) * width))
    x = _within((box.left + box.right) / 2 * width - wide / 2, wide, width)
    y = _within((box.top + box.bottom) / 2 * height - tall / 2, tall, height)
    return round(x), round(y), round(x + wide), round(y + tall)


def _within(start: float, length: float, whole: int) -> float:
    return max(0.0, min(start, whole - length))
