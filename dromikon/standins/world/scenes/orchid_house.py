"""The orchid house from inside: two long benches under glass, a tiled path, hanging baskets."""

import math

from dromikon.standins.world.geometry import Ball, Lens, Solid, box, slab
from dromikon.standins.world.scenes.base import Camera, Glow, Patch, Scene, rectangle, room

_BLOOMS = ("orchid", "orchid_white", "fern", "orchid", "fern", "orchid_white", "orchid")


def _bench(x0: float, x1: float) -> tuple[Solid | Ball, ...]:
    """A slatted bench with pots in two rows."""
    things: list[Solid | Ball] = [box(x0, 2.0, 0.72, x1, 16.4, 0.82, "deck"), box(x0, 2.0, 0.5, x1, 2.1, 0.72, "wood")]
    things += [
        box(x, y, 0, x + 0.08, y + 0.08, 0.72, "iron") for y in (2.1, 6.6, 11.1, 15.9) for x in (x0 + 0.05, x1 - 0.12)
    ]
    for i in range(13):
        for row, x in enumerate((x0 + 0.32, x1 - 0.32)):
            y, bloom = 2.6 + 1.08 * i + 0.3 * row, _BLOOMS[(3 * i + 5 * row) % 7]
            tall = 0.26 + 0.10 * math.sin(2.3 * i + row)
            things.append(box(x - 0.10, y - 0.10, 0.82, x + 0.10, y + 0.10, 0.99, "terracotta"))
            things.append(Ball((x, y, 1.0 + tall * 0.3), (0.25, 0.23, tall * 0.5), "fern"))
            if bloom != "fern":
                things.append(Ball((x + 0.05, y - 0.04, 1.1 + tall), (0.17, 0.15, tall * 0.55), bloom))
    return tuple(things)


def _baskets() -> tuple[Solid | Ball, ...]:
    made: list[Solid | Ball] = []
    for i, y in enumerate((5.0, 8.6, 12.2, 15.4)):
        x = -1.15 if i % 2 else 1.15
        made += [
            box(x - 0.01, y - 0.01, 2.45, x + 0.01, y + 0.01, 4.6, "iron"),
            Ball((x, y, 2.3), (0.24, 0.24, 0.22), "fern" if i % 2 else "orchid"),
        ]
    return tuple(made)


ORCHID_HOUSE = Scene(
    id="orchid_house",
    base="gravel",
    patches=(Patch("tiles", rectangle(-0.95, -2, 0.95, 18)),),
    things=(
        *room(-4.2, -1.5, 4.2, 18.0, 2.6, "panes", "panes")[:4],
        box(-4.2, -1.5, 0, -4.0, 18, 0.8, "stone"),
        box(4.0, -1.5, 0, 4.2, 18, 0.8, "stone"),
        box(-4.2, 17.8, 0, -0.9, 18, 0.8, "stone"),
        box(0.9, 17.8, 0, 4.2, 18, 0.8, "stone"),
        slab(-4.4, 0.0, -1.6, 18.2, 2.5, 5.0, "panes"),
        slab(0.0, 4.4, -1.6, 18.2, 5.0, 2.5, "panes"),
        box(-4.2, 18.0, 2.5, 4.2, 18.2, 5.0, "panes"),
        box(-0.75, 17.7, 0, 0.75, 17.95, 2.2, "white"),
        box(-0.55, 17.66, 1.0, 0.55, 17.7, 2.0, "panes"),
        *_bench(-3.6, -1.5),
        *_bench(1.5, 3.6),
        *_baskets(),
        box(-0.14, 3.0, 4.72, 0.14, 16.5, 4.9, "iron"),
        box(-0.32, 9.4, 4.4, 0.32, 9.9, 4.75, "cabinet"),
        box(3.86, 3.2, 1.2, 4.0, 3.7, 1.8, "cabinet"),
        *(box(x, 1.8, 3.05, x + 0.04, 17.0, 3.09, "cold_pipe") for x in (-2.6, 2.6)),
        Ball((-3.4, 17.0, 1.3), (0.7, 0.6, 1.3), "frond"),
        Ball((3.3, 17.0, 1.2), (0.8, 0.6, 1.2), "frond"),
    ),
    glows=(
        Glow("vents", (0.0, 9.6, 4.4), (150, 220, 170), 0.35),
        Glow("misting", (-2.6, 7.0, 2.6), (226, 232, 232), 2.6),
        Glow("misting", (2.6, 9.0, 2.6), (226, 232, 232), 2.8),
    ),
    roof="glass",
)

ORCHID_CAMERA = Camera(
    "orchid", "orchid_house", "ORCHID HOUSE", "Heron 4", "QG-CAM-0601", Lens(0.5, 0.2, 2.9, 357, 13, 76),
    relays=("vents", "misting"),
)  # fmt: skip
