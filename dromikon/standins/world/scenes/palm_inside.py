"""The palm house from inside: a loop of path around a bed of palms, under high glass."""

import math

from dromikon.standins.world.detectors import Region
from dromikon.standins.world.geometry import Ball, Lens, Solid, box, slab
from dromikon.standins.world.scenes.base import Camera, Patch, Scene, rectangle, room


def _palm(x: float, y: float, height: float, spread: float) -> tuple[Solid | Ball, ...]:
    """A trunk, and fronds that hang around its top."""
    made: list[Solid | Ball] = [box(x - 0.15, y - 0.15, 0.4, x + 0.15, y + 0.15, height, "trunk")]
    for i in range(7):
        angle = i * math.tau / 7 + x
        made.append(
            Ball(
                (x + 0.62 * spread * math.cos(angle), y + 0.62 * spread * math.sin(angle), height + 0.15 * (i % 2)),
                (spread * (0.35 + 0.3 * abs(math.cos(angle))), spread * (0.35 + 0.3 * abs(math.sin(angle))), 0.34),
                "frond",
            )
        )
    made.append(Ball((x, y, height + 0.45), (spread * 0.4, spread * 0.4, 0.5), "frond"))
    return tuple(made)


PALM_INSIDE = Scene(
    id="palm_inside",
    base="tiles",
    patches=(
        Patch("bed", rectangle(-2.2, 7.5, 2.2, 18.0)),
        Patch("bed", rectangle(-7.6, 3.0, -5.0, 22.0)),
        Patch("bed", rectangle(5.0, 3.0, 7.6, 22.0)),
    ),
    things=(
        *room(-8.0, -1.5, 8.0, 24.0, 4.4, "panes", "panes")[:4],
        slab(-8.2, 0.0, -1.6, 24.2, 4.3, 8.2, "panes"),
        slab(0.0, 8.2, -1.6, 24.2, 8.2, 4.3, "panes"),
        box(-8.0, 24.0, 4.4, 8.0, 24.2, 8.2, "panes"),
        box(-2.4, 7.3, 0, 2.4, 7.5, 0.42, "stone"),
        box(-2.4, 7.3, 0, -2.2, 18.2, 0.42, "stone"),
        box(2.2, 7.3, 0, 2.4, 18.2, 0.42, "stone"),
        box(-5.0, 3.0, 0, -4.85, 22, 0.3, "stone"),
        box(4.85, 3.0, 0, 5.0, 22, 0.3, "stone"),
        *(box(x, y, 0, x + 0.14, y + 0.14, 6.4, "white") for y in (6.0, 13.0, 20.0) for x in (-4.6, 4.46)),
        *_palm(-0.6, 10.2, 4.6, 2.2),
        *_palm(1.0, 14.6, 5.6, 2.6),
        *_palm(-0.4, 17.0, 3.6, 1.9),
        *_palm(-6.4, 7.4, 3.6, 1.9),
        *_palm(6.4, 9.0, 4.0, 2.0),
        *_palm(-6.2, 16.0, 4.6, 2.1),
        *_palm(6.2, 18.4, 4.2, 2.0),
        *(Ball((-1.7 + 0.85 * (i % 5), 8.2 + 2.0 * (i // 5), 0.5), (0.6, 0.55, 0.5), ("fern", "orchid", "shrub")[i % 3])
          for i in range(25)),
        *(Ball((-6.9 + 0.7 * (i % 3), 4.0 + 1.5 * (i // 3), 0.45), (0.55, 0.5, 0.5), ("fern", "shrub")[i % 2]) for i in range(36)),
        *(Ball((5.6 + 0.7 * (i % 3), 4.0 + 1.5 * (i // 3), 0.45), (0.55, 0.5, 0.5), ("shrub", "fern")[i % 2]) for i in range(36)),
        box(-0.9, 23.6, 0, 0.9, 23.9, 2.5, "white"),
        box(3.2, 5.0, 0.42, 4.5, 5.4, 0.5, "wood"),
        box(3.3, 5.05, 0, 3.42, 5.35, 0.42, "iron"),
        box(4.3, 5.05, 0, 4.42, 5.35, 0.42, "iron"),
    ),
    roof="glass",
)  # fmt: skip

PALMS_CAMERA = Camera(
    "palms", "palm_inside", "PALM HOUSE INSIDE", "Heron 6", "QG-CAM-0513", Lens(0.0, -0.8, 4.0, 0, 12, 78),
    detectors=(
        Region("People in the palm house", ((-0.92, 0.1), (0.92, 0.1), (0.96, -0.9), (-0.96, -0.9)), "count", "palm-count"),
    ),
)  # fmt: skip
