"""The boathouse, its jetty and the lake."""

from dromikon.standins.world.detectors import LineDetector
from dromikon.standins.world.geometry import Ball, Lens, Solid, box, gable
from dromikon.standins.world.scenes.base import Camera, Glow, Patch, Preset, Scene, lamp_post, rectangle, tree


def _posts(xs: tuple[float, ...], ys: range, top: float) -> tuple[Solid, ...]:
    return tuple(box(x - 0.09, y - 0.09, -1, x + 0.09, y + 0.09, top, "timber") for x in xs for y in ys)


def _boat(x: float, y: float, material: str) -> tuple[Solid, ...]:
    return (
        box(x, y, 0, x + 1.3, y + 3.4, 0.42, material),
        box(x + 0.12, y + 0.2, 0.3, x + 1.18, y + 3.2, 0.45, "shade"),
        box(x + 0.05, y + 1.0, 0.42, x + 1.25, y + 1.25, 0.48, "timber"),
        box(x + 0.05, y + 2.2, 0.42, x + 1.25, y + 2.45, 0.48, "timber"),
    )


def _bench(x: float, y: float) -> tuple[Solid, ...]:
    return (
        box(x, y, 0.4, x + 1.8, y + 0.45, 0.47, "timber"),
        box(x, y + 0.45, 0.4, x + 1.8, y + 0.5, 0.95, "timber"),
        box(x + 0.1, y, 0, x + 0.2, y + 0.45, 0.4, "iron"),
        box(x + 1.6, y, 0, x + 1.7, y + 0.45, 0.4, "iron"),
    )


JETTY = rectangle(2.0, 9.5, 4.4, 34.0)

BOATHOUSE = Scene(
    id="boathouse",
    base="grass",
    patches=(
        Patch(
            "water",
            (
                (-90, 14.5),
                (-40, 12.6),
                (-15, 13.4),
                (-4, 11.4),
                (1, 10.6),
                (6, 11.2),
                (12, 13.2),
                (20, 12.6),
                (40, 16),
                (90, 15),
                (120, 260),
                (-120, 260),
            ),
        ),
        Patch(
            "shore",
            (
                (-90, 13.7),
                (-40, 11.8),
                (-15, 12.5),
                (-4, 10.7),
                (1, 9.9),
                (6, 10.4),
                (12, 12.2),
                (20, 11.7),
                (40, 15),
                (90, 14),
                (90, 15),
                (40, 16),
                (20, 12.6),
                (12, 13.2),
                (6, 11.2),
                (1, 10.6),
                (-4, 11.4),
                (-15, 13.4),
                (-40, 12.6),
                (-90, 14.5),
            ),
        ),
        Patch(
            "gravel",
            (
                (-60, 7.6),
                (-18, 6.4),
                (0, 6.0),
                (18, 6.6),
                (60, 8.6),
                (60, 10.6),
                (18, 8.6),
                (0, 8.0),
                (-18, 8.4),
                (-60, 9.6),
            ),
        ),
        Patch("gravel", ((2.0, 7.6), (4.4, 7.6), (4.4, 9.7), (2.0, 9.7))),
    ),
    things=(
        box(2.0, 9.5, 0.32, 4.4, 34.0, 0.5, "deck"),
        *_posts((2.0, 4.4), range(12, 36, 4), 1.15),
        box(1.96, 12, 1.0, 2.04, 34, 1.06, "timber"),
        box(4.36, 12, 1.0, 4.44, 34, 1.06, "timber"),
        box(-14.5, 12.0, 0, -7.5, 21.0, 2.7, "boards"),
        gable(-15.0, 11.6, 2.7, -7.0, 21.4, 5.2, "slate"),
        box(-12.6, 11.94, 0, -9.4, 12.1, 2.2, "shade"),
        box(-7.56, 14.5, 1.0, -7.44, 16.0, 2.0, "glass"),
        box(-7.56, 17.5, 1.0, -7.44, 19.0, 2.0, "glass"),
        *_boat(-6.4, 8.6, "boat_red"),
        *_boat(-4.4, 8.9, "boat_blue"),
        *_bench(8.2, 8.9),
        *lamp_post(5.4, 9.1),
        *tree(13.5, 11.0, 8.5, 2.6),
        *tree(20.0, 10.0, 10.0, 3.2, "copper"),
        *tree(-21.0, 11.0, 9.0, 3.0),
        Ball((8.6, 11.6, 0.3), (1.1, 0.7, 0.8), "reeds"),
        Ball((10.6, 12.4, 0.3), (1.5, 0.7, 0.9), "reeds"),
        Ball((-2.4, 11.4, 0.2), (0.9, 0.5, 0.7), "reeds"),
        Ball((28.0, 74.0, -1.0), (14.0, 6.0, 3.2), "island"),
    ),
    decks=((JETTY, 0.5),),
    lamps=((5.4, 9.1, 3.55),),
    glows=(Glow("storm-light", (3.2, 34.0, 2.6)),),
    hills=1.3,
)

JETTY_CAMERA = Camera(
    "jetty",
    "boathouse",
    "BOATHOUSE JETTY",
    "Heron 4",
    "QG-CAM-0417",
    Lens(0.0, 0.0, 5.2, 12, 15, 74),
    detectors=(LineDetector("Jetty line", (4.4, 13.0), (2.0, 13.0), height=0.5),),
    relays=("storm-light",),
    speaks=True,
    hears=True,
)

#: On the gable of the boathouse.
_PRESETS = (
    Preset("1", "Jetty end", Lens(-6.9, 20.6, 5.0, 50, 12, 60)),
    Preset("2", "Heron Island", Lens(-6.9, 20.6, 5.0, 34, 3, 34)),
    Preset("3", "Lake path", Lens(-6.9, 20.6, 5.0, 134, 13, 66)),
    Preset("4", "Boats", Lens(-6.9, 20.6, 5.0, 168, 22, 62)),
)
LAKE_CAMERA = Camera("lake", "boathouse", "LAKE", "Heron 12 M", "QG-CAM-0440", _PRESETS[0].lens, presets=_PRESETS)
