"""The scenes of the demo garden: ground, scenery, cameras and their detectors. Each scene has its own origin."""

from dataclasses import dataclass, field

from dromikon.standins.world.detectors import Detector, LineDetector, StayDetector
from dromikon.standins.world.geometry import Ball, Lens, Solid, box, gable
from dromikon.standins.world.tracks import Place


@dataclass(frozen=True)
class Patch:
    """A polygon of ground of one material; later patches lie on top."""

    material: str
    outline: tuple[Place, ...]


@dataclass(frozen=True)
class Camera:
    """A stand-in camera: its lens, detectors, contacts and relays."""

    id: str
    scene: str
    title: str
    model: str
    serial: str
    lens: Lens
    detectors: tuple[Detector, ...] = ()
    inputs: tuple[str, ...] = ()
    relays: tuple[str, ...] = ()


@dataclass(frozen=True)
class Scene:
    """A piece of the garden. `decks` lie above the ground: (outline, height)."""

    id: str
    base: str
    patches: tuple[Patch, ...]
    things: tuple[Solid | Ball, ...]
    decks: tuple[tuple[tuple[Place, ...], float], ...] = ()
    lamps: tuple[tuple[float, float, float], ...] = ()
    relay_lamp: tuple[float, float, float] | None = None
    hills: float = 1.0
    treeline: float = field(default=1.0)


def rectangle(x0: float, y0: float, x1: float, y1: float) -> tuple[Place, ...]:
    return ((x0, y0), (x1, y0), (x1, y1), (x0, y1))


def tree(x: float, y: float, height: float, spread: float, material: str = "leaves") -> tuple[Solid | Ball, ...]:
    """A trunk and three overlapping crowns."""
    top = height - spread * 0.8
    return (
        box(x - 0.16, y - 0.16, 0, x + 0.16, y + 0.16, top, "bark"),
        Ball((x, y, top), (spread, spread, spread * 0.8), material),
        Ball(
            (x + spread * 0.55, y - spread * 0.2, top - spread * 0.35),
            (spread * 0.7, spread * 0.65, spread * 0.5),
            material,
        ),
        Ball(
            (x - spread * 0.5, y + spread * 0.3, top - spread * 0.25),
            (spread * 0.7, spread * 0.7, spread * 0.55),
            material,
        ),
    )


def lamp_post(x: float, y: float, height: float = 3.4) -> tuple[Solid | Ball, ...]:
    return (
        box(x - 0.05, y - 0.05, 0, x + 0.05, y + 0.05, height, "iron"),
        box(x - 0.18, y - 0.18, height, x + 0.18, y + 0.18, height + 0.35, "lantern"),
        gable(x - 0.26, y - 0.26, height + 0.35, x + 0.26, y + 0.26, height + 0.6, "iron"),
    )


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
    relay_lamp=(3.2, 34.0, 2.6),
    hills=1.3,
)

VISITOR_GATE = Scene(
    id="visitor_gate",
    base="grass",
    patches=(
        Patch("cobbles", ((-7, -2), (7, -2), (6, 12), (4.2, 17.5), (-4.2, 17.5), (-6, 12))),
        Patch("asphalt", ((-80, 24), (80, 26), (80, 33), (-80, 31))),
        Patch("gravel", ((-3.4, 17.5), (3.4, 17.5), (3.6, 24.2), (-3.6, 24.2))),
        Patch("bed", ((-12, 7.5), (-7.6, 6.5), (-6.6, 12.5), (-11, 14))),
        Patch("bed", ((7.6, 5.5), (10.6, 6.5), (9.6, 12.5), (6.6, 12.5))),
    ),
    things=(
        box(-4.6, 16.8, 0, -3.6, 17.8, 3.2, "stone"),
        gable(-4.75, 16.65, 3.2, -3.45, 17.95, 3.75, "stone"),
        box(3.6, 16.8, 0, 4.6, 17.8, 3.2, "stone"),
        gable(3.45, 16.65, 3.2, 4.75, 17.95, 3.75, "stone"),
        box(-34, 17.1, 0, -4.6, 17.5, 1.9, "brick"),
        box(4.6, 17.1, 0, 34, 17.5, 1.9, "brick"),
        box(-3.55, 17.2, 0.1, -3.45, 20.2, 2.4, "railing"),
        box(3.45, 17.2, 0.1, 3.55, 20.2, 2.4, "railing"),
        box(-11.2, 13.2, 0, -7.6, 16.4, 2.5, "boards_green"),
        gable(-11.6, 12.8, 2.5, -7.2, 16.8, 4.0, "slate", along="x"),
        box(-7.62, 13.9, 1.0, -7.55, 15.7, 2.0, "glass"),
        box(-10.6, 13.12, 1.0, -8.3, 13.2, 2.0, "glass"),
        box(11.5, 9.0, 0, 24.0, 16.0, 0.7, "stone"),
        box(11.6, 9.1, 0.7, 23.9, 15.9, 3.6, "glasshouse"),
        gable(11.4, 8.9, 3.6, 24.1, 16.1, 6.2, "glasshouse", along="x"),
        box(-1.15, 13.2, 0, -0.95, 14.2, 1.05, "iron"),
        box(0.95, 13.2, 0, 1.15, 14.2, 1.05, "iron"),
        *lamp_post(-5.6, 11.0),
        *lamp_post(5.6, 11.0),
        *tree(-18, 12.0, 8.0, 2.7, "copper"),
        *tree(-26, 22.0, 10.0, 3.4),
        *tree(15, 21.5, 8.5, 2.8),
        *tree(27, 21.0, 9.5, 3.0, "copper"),
        *tree(-9, 37.0, 9.0, 3.0),
        *tree(6, 39.0, 10.0, 3.4),
        *tree(20, 38.0, 10.0, 3.2),
        Ball((-9.4, 9.4, 0.2), (1.3, 1.1, 0.8), "shrub"),
        Ball((-8.4, 11.6, 0.2), (1.0, 0.9, 0.7), "heather"),
        Ball((8.6, 8.2, 0.2), (1.0, 1.2, 0.7), "heather"),
        Ball((8.4, 10.8, 0.2), (1.1, 1.1, 0.9), "shrub"),
        Ball((-13.0, 20.0, 0.6), (6.0, 1.0, 1.6), "hedge"),
        Ball((13.0, 20.2, 0.6), (6.0, 1.0, 1.6), "hedge"),
    ),
    lamps=((-5.6, 11.0, 3.55), (5.6, 11.0, 3.55)),
    hills=0.8,
    treeline=1.6,
)

NURSERY_YARD = Scene(
    id="nursery_yard",
    base="grass",
    patches=(
        Patch("asphalt", ((-13, -3), (14, -3), (14, 24), (4.5, 27), (4.5, 60), (-4.5, 60), (-4.5, 27), (-13, 24))),
        Patch("paint", rectangle(5.9, 9.0, 6.05, 18.0)),
        Patch("paint", rectangle(9.9, 9.0, 10.05, 18.0)),
        Patch("paint", rectangle(5.9, 17.85, 10.05, 18.0)),
    ),
    things=(
        box(-4.9, 25.4, 0, -4.5, 25.8, 2.3, "stone"),
        box(4.5, 25.4, 0, 4.9, 25.8, 2.3, "stone"),
        box(-30, 25.5, 0.1, -4.9, 25.7, 1.9, "railing"),
        box(4.9, 25.5, 0.1, 30, 25.7, 1.9, "railing"),
        box(-26, 10, 0, -12.4, 22, 0.6, "brick"),
        box(-25.9, 10.1, 0.6, -12.5, 21.9, 2.8, "glasshouse"),
        gable(-26.1, 9.9, 2.8, -12.3, 22.1, 5.4, "glasshouse", along="y"),
        box(12.6, 4, 0, 24, 21, 3.6, "metal"),
        gable(12.3, 3.7, 3.6, 24.3, 21.3, 5.6, "metal_roof", along="y"),
        box(12.52, 11.0, 0, 12.62, 15.6, 2.9, "shutter"),
        box(12.5, 17.2, 0, 12.62, 18.4, 2.2, "boat_blue"),
        box(-11.4, 8.2, 0, -10.0, 9.6, 1.0, "pallet"),
        box(-11.3, 10.2, 0, -9.9, 11.6, 1.5, "pallet"),
        box(-9.6, 12.6, 0.7, -7.0, 13.8, 0.8, "timber"),
        box(-9.5, 12.7, 0, -9.35, 12.85, 0.7, "timber"),
        box(-7.25, 12.7, 0, -7.1, 12.85, 0.7, "timber"),
        box(-9.6, 15.6, 0.7, -7.0, 16.8, 0.8, "timber"),
        *(Ball((-9.3 + 0.5 * i, 13.2, 0.95), (0.2, 0.2, 0.25), "heather" if i % 2 else "shrub") for i in range(5)),
        *(Ball((-9.3 + 0.5 * i, 16.2, 1.0), (0.22, 0.22, 0.3), "shrub" if i % 3 else "copper") for i in range(5)),
        *lamp_post(5.6, 24.4, 4.6),
        *lamp_post(-6.0, 20.6, 4.6),
        *tree(-10, 33.0, 9.0, 3.2),
        *tree(-22, 36.0, 10.0, 3.6, "copper"),
        *tree(12, 34.0, 9.0, 3.0),
        *tree(24, 38.0, 11.0, 3.6),
        Ball((-14, 28.6, 0.6), (8.0, 1.0, 1.7), "hedge"),
        Ball((15, 28.6, 0.6), (9.0, 1.0, 1.7), "hedge"),
    ),
    lamps=((5.6, 24.4, 4.75), (-6.0, 20.6, 4.75)),
    hills=1.0,
    treeline=1.3,
)

SCENES = {scene.id: scene for scene in (BOATHOUSE, VISITOR_GATE, NURSERY_YARD)}

CAMERAS = {
    camera.id: camera
    for camera in (
        Camera(
            "jetty", "boathouse", "BOATHOUSE JETTY", "Heron 4", "QG-CAM-0417",
            Lens(0.0, 0.0, 5.2, 12, 15, 74),
            detectors=(LineDetector("Jetty line", (4.4, 13.0), (2.0, 13.0), height=0.5),),
            relays=("storm-light",),
        ),
        Camera(
            "gate", "visitor_gate", "VISITOR GATE", "Heron 4", "QG-CAM-0102",
            Lens(1.2, -1.5, 5.6, 356, 14, 72),
            detectors=(LineDetector("Gate line", (-3.4, 16.2), (3.4, 16.2)),),
        ),
        Camera(
            "yard", "nursery_yard", "NURSERY YARD", "Heron 6", "QN-CAM-0003",
            Lens(-2.0, -2.0, 6.2, 6, 15, 76),
            detectors=(
                LineDetector("Yard gate line", (-4.5, 24.6), (4.5, 24.6)),
                StayDetector("Loading bay", rectangle(3.5, 7.0, 12.0, 18.5), 10),
            ),
            inputs=("gate-contact",),
        ),
    )
}  # fmt: skip
