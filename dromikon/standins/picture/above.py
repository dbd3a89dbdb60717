"""People as a camera sees them that looks straight down: a head over shoulders, and feet that come and go beneath."""

import math
from collections.abc import Callable

from PIL import Image, ImageDraw

from dromikon.standins.picture.clothes import Clothes, clothes_of
from dromikon.standins.picture.drawing import Figure, Tint, canvas, limb
from dromikon.standins.world.geometry import Lens
from dromikon.standins.world.tracks import Actor, Where, tall

#: Drawn so much larger, and shrunk.
SCALE = 3
STRIDE = 1.45
Spot = tuple[float, float]
#: Where something is in the drawing that is so far ahead of somebody, to the left of them, and up, in metres.
Place = Callable[[float, float, float], Spot]


def person_from_above(actor: Actor, here: Where, lens: Lens, tint: Tint, size: tuple[int, int]) -> Figure | None:
    """Whoever walks below, or None where a part of them lies behind the camera."""
    c, s = math.cos(here.heading), math.sin(here.heading)
    high = tall(actor.look)

    def seen(ahead: float, left: float, up: float) -> tuple[float, float, float] | None:
        return lens.project(here.x + ahead * c - left * s, here.y + ahead * s + left * c, here.z + up, *size)

    foot, head = seen(0, 0, 0), seen(0.06, 0, high * 0.94)
    if foot is None or head is None:
        return None
    metre = lens.focal(size[0]) / head[2]
    x0, y0 = min(foot[0], head[0]) - 0.75 * metre, min(foot[1], head[1]) - 0.75 * metre
    wide, tall_ = abs(foot[0] - head[0]) + 1.5 * metre, abs(foot[1] - head[1]) + 1.5 * metre
    image, pen = canvas(wide, tall_, SCALE)

    def place(ahead: float, left: float, up: float) -> Spot:
        there = seen(ahead, left, up) or foot
        return (there[0] - x0) * SCALE, (there[1] - y0) * SCALE

    _body(pen, place, clothes_of(actor.look), metre * SCALE, high, _swing(here), tint)
    small = image.resize((max(1, image.width // SCALE), max(1, image.height // SCALE)), Image.Resampling.BOX)
    box = (x0 + 0.4 * metre, y0 + 0.4 * metre, x0 + wide - 0.4 * metre, y0 + tall_ - 0.4 * metre)
    return Figure(small, round(x0), round(y0), head[2] - 0.3, box)


def _swing(here: Where) -> float:
    return math.sin(here.walked * math.tau / STRIDE) if here.moving else 0.1


def _body(
    pen: ImageDraw.ImageDraw, place: Place, worn: Clothes, m: float, high: float, swing: float, tint: Tint
) -> None:
    """From the ground up: feet and legs, arms, shoulders, what is carried, the head. `m`: a metre at the head, in pixels."""
    hip, shoulder = 0.5 * high, 0.82 * high
    for side in (-1, 1):
        step = side * 0.3 * swing
        _oval(pen, [place(step + a, 0.1 * side + b, 0.03) for a, b in _ring(0.14, 0.055)], tint.of("#1b1a1a"))
        limb(
            pen,
            [place(step * 0.9, 0.1 * side, 0.1), place(0, 0.09 * side, hip)],
            0.11 * m,
            tint.of(worn.trousers, 0.75),
        )
    _oval(pen, [place(a - 0.02, b, hip) for a, b in _ring(0.15, 0.2)], tint.of(worn.coat, 0.62))
    for side in (-1, 1):
        hand = place(-side * 0.26 * swing + 0.06, 0.27 * side, 0.52 * high)
        limb(pen, [hand, place(0, 0.23 * side, shoulder)], 0.1 * m, tint.of(worn.coat, 0.78))
    _oval(pen, [place(a, b, shoulder) for a, b in _ring(0.135, 0.25)], tint.of(worn.coat))
    _oval(pen, [place(a + 0.03, b, shoulder) for a, b in _ring(0.08, 0.17)], tint.of(worn.coat, 1.14))
    if worn.bag:
        _oval(pen, [place(a - 0.19, b, shoulder - 0.12) for a, b in _ring(0.1, 0.15)], tint.of("#4b3a2a"))
    top = 0.96 * high
    if worn.hat:
        _oval(pen, [place(a + 0.07, b, top) for a, b in _ring(0.17, 0.165)], tint.of(worn.coat, 0.6))
        _oval(pen, [place(a + 0.05, b, top) for a, b in _ring(0.1, 0.095)], tint.of(worn.coat, 0.72))
        return
    _oval(pen, [place(a + 0.11, b, top - 0.1) for a, b in _ring(0.06, 0.06)], tint.of(worn.skin))
    _oval(pen, [place(a + 0.04, b, top) for a, b in _ring(0.105, 0.085)], tint.of(worn.hair))
    _oval(pen, [place(a + 0.03, b + 0.015, top) for a, b in _ring(0.05, 0.035)], tint.of(worn.hair, 1.25))


def _ring(ahead: float, aside: float) -> list[Spot]:
    """An ellipse around somebody, in metres."""
    return [(ahead * math.cos(t), aside * math.sin(t)) for t in (i * math.tau / 20 for i in range(20))]


def _oval(pen: ImageDraw.ImageDraw, points: list[Spot], colour: tuple[int, int, int]) -> None:
    pen.polygon(points, fill=colour)
