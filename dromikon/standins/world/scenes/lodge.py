"""The control lodge: desks before two wall displays, where somebody is on duty day and night."""

from dromikon.standins.world.geometry import Ball, Lens, Solid, box
from dromikon.standins.world.scenes.base import Camera, Scene, room


def _desk(x: float) -> tuple[Solid, ...]:
    """A desk with two screens; who sits there looks to the wall."""
    return (
        box(x - 0.95, 3.4, 0.70, x + 0.95, 4.2, 0.76, "wood"),
        box(x - 0.9, 3.45, 0, x - 0.84, 4.15, 0.7, "iron"),
        box(x + 0.84, 3.45, 0, x + 0.9, 4.15, 0.7, "iron"),
        box(x - 0.62, 4.0, 0.9, x - 0.04, 4.04, 1.26, "screen"),
        box(x + 0.04, 4.0, 0.9, x + 0.62, 4.04, 1.26, "screen"),
        box(x - 0.3, 3.5, 0.76, x + 0.3, 3.66, 0.78, "panel"),
        box(x - 0.26, 2.6, 0.42, x + 0.26, 3.1, 0.5, "seat"),
        box(x - 0.24, 2.56, 0.5, x + 0.24, 2.62, 1.0, "seat"),
        box(x - 0.05, 2.8, 0, x + 0.05, 2.9, 0.42, "iron"),
    )


LODGE = Scene(
    id="lodge",
    base="lino",
    patches=(),
    things=(
        *room(-3.6, -0.6, 3.6, 6.4, 2.9, "plaster"),
        box(-2.5, 6.32, 1.35, -0.15, 6.4, 2.45, "screen"),
        box(0.15, 6.32, 1.35, 2.5, 6.4, 2.45, "screen"),
        *_desk(-1.2),
        *_desk(1.2),
        box(-3.5, 4.6, 0, -2.9, 5.8, 1.9, "cabinet"),
        *(box(-2.92, 4.7, 0.2 + 0.22 * i, -2.89, 5.7, 0.34 + 0.22 * i, "panel") for i in range(7)),
        box(3.54, 1.4, 0, 3.6, 2.4, 2.05, "white"),
        box(2.9, 5.2, 0, 3.5, 5.8, 0.5, "terracotta"),
        Ball((3.2, 5.5, 1.0), (0.45, 0.4, 0.6), "fern"),
        box(-3.6, 1.6, 1.0, -3.56, 3.2, 2.1, "window_bright"),
        box(2.7, 0.4, 0.8, 3.5, 1.1, 0.86, "wood"),
        Ball((3.1, 0.75, 1.0), (0.14, 0.14, 0.16), "metal"),
        box(-1.0, 2.8, 2.82, 1.0, 3.0, 2.9, "lantern"),
    ),
    lamps=((-0.6, 2.9, 2.7), (0.6, 2.9, 2.7)),
    roof="manned",
)

LODGE_CAMERA = Camera("lodge", "lodge", "CONTROL LODGE", "Heron 4", "QG-CAM-0901", Lens(-3.1, -0.2, 2.55, 28, 19, 84))
