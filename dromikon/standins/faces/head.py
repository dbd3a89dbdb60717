"""A head seen from the front, at any size."""

import math
from collections.abc import Callable

from PIL import ImageDraw

from dromikon.standins.faces.features import Features
from dromikon.standins.picture.drawing import Colour

#: The colour of something under the light: its code, and how much darker it is there (1: not at all).
Shade = Callable[[str, float], Colour]
#: What is worn in front of mouth and nose.
SCARF = "#3b4f6b"


def draw_head(
    pen: ImageDraw.ImageDraw,
    middle: float,
    centre: float,
    half: float,
    of: Features,
    shade: Shade,
    covered: bool = False,
) -> None:
    """The head around (middle, centre), `half` pixels from its centre to the chin; `covered`: mouth and nose are not seen."""
    wide = half * of.wide
    skin, dark = shade(of.skin, 1.0), shade(of.skin, 0.34)
    pen.ellipse((middle - wide, centre - half, middle + wide, centre + half), fill=skin)
    if of.beard:
        _beard(pen, middle, centre, half, of, shade)
    for side in (-1, 1):
        _eye(pen, middle, middle + side * of.apart * half, centre + 0.05 * half, half, of, shade)
    nose = centre + (0.12 + of.nose) * half
    pen.line(
        (middle, centre + 0.12 * half, middle + 0.08 * half, nose, middle - 0.02 * half, nose),
        fill=shade(of.skin, 0.72), width=_pixels(0.08 * half),
    )  # fmt: skip
    lips = centre + 0.64 * half
    pen.ellipse(
        (middle - of.mouth * half, lips - of.lips * half / 2, middle + of.mouth * half, lips + of.lips * half / 2),
        fill=dark,
    )
    _hair(pen, middle, centre, half, of, shade)
    if covered:
        box = (middle - wide * 1.02, centre + 0.24 * half, middle + wide * 1.02, centre + 1.04 * half)
        pen.rounded_rectangle(box, 0.25 * half, fill=shade(SCARF, 1.0))


def _eye(pen: ImageDraw.ImageDraw, middle: float, x: float, y: float, half: float, of: Features, shade: Shade) -> None:
    dark, size = shade(of.skin, 0.3), of.eye * half
    pen.ellipse((x - 1.5 * size, y - size, x + 1.5 * size, y + size), fill=dark)
    side = 1 if x > middle else -1
    inner, outer = x - side * 0.17 * half, x + side * 0.19 * half
    lifted = y - 0.24 * half
    pen.line(
        (inner, lifted + of.slant * half, outer, lifted - of.slant * half * 0.4), fill=shade(of.hair, 0.9),
        width=_pixels(of.brow * half),
    )  # fmt: skip
    if of.glasses:
        pen.ellipse(
            (x - 0.24 * half, y - 0.2 * half, x + 0.24 * half, y + 0.22 * half), outline=shade("#1c1c1e", 1.0),
            width=_pixels(0.06 * half),
        )  # fmt: skip


def _beard(pen: ImageDraw.ImageDraw, middle: float, centre: float, half: float, of: Features, shade: Shade) -> None:
    """Still of the colour of skin, only darker: the skin shines through."""
    outline = _part(middle, centre, half * of.wide, half, 18, 162)
    pen.polygon(outline, fill=shade(of.skin, 1.0 - 0.45 * of.beard))


def _hair(pen: ImageDraw.ImageDraw, middle: float, centre: float, half: float, of: Features, shade: Shade) -> None:
    """The top of the head, down to the fringe."""
    wide, high, above = half * of.wide * 1.07, half * 1.06, centre - 0.06 * half
    fringe = centre - half * (1 - of.fringe)
    turn = math.degrees(math.asin((above - fringe) / high))
    pen.polygon(_part(middle, above, wide, high, 180 + turn, 360 - turn), fill=shade(of.hair, 1.0))


def _part(x: float, y: float, wide: float, high: float, start: float, end: float) -> list[tuple[float, float]]:
    """What a chord cuts off an ellipse, between two of its angles in degrees, clockwise from the right."""
    turns = (math.radians(start + (end - start) * i / 24) for i in range(25))
    return [(x + wide * math.cos(turn), y + high * math.sin(turn)) for turn in turns]


def _pixels(wide: float) -> int:
    return max(1, round(wide))
