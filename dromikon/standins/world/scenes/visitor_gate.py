"""The visitor gate from inside: the cobbled court, the turnstile, the road."""

from dromikon.standins.world.detectors import LineDetector, Region
from dromikon.standins.world.geometry import Ball, Lens, box, gable
from dromikon.standins.world.scenes.base import Camera, Patch, Scene, lamp_post, tree

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
        # The turnstile: its housings with their lids, and an arm from each.
        box(-1.17, 13.1, 0, -0.93, 14.3, 1.0, "iron"),
        box(0.93, 13.1, 0, 1.17, 14.3, 1.0, "iron"),
        box(-1.2, 13.05, 1.0, -0.9, 14.35, 1.05, "stone"),
        box(0.9, 13.05, 1.0, 1.2, 14.35, 1.05, "stone"),
        box(-0.93, 13.64, 0.86, -0.35, 13.7, 0.92, "white"),
        box(0.35, 13.7, 0.86, 0.93, 13.76, 0.92, "white"),
        # A low chain keeps those who leave beside it.
        box(-1.12, 14.3, 0.6, -1.08, 17.0, 0.66, "iron"),
        box(1.08, 14.3, 0.6, 1.12, 17.0, 0.66, "iron"),
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

GATE_CAMERA = Camera(
    "gate",
    "visitor_gate",
    "VISITOR GATE",
    "Heron 4",
    "QG-CAM-0102",
    Lens(1.2, -1.5, 5.6, 356, 14, 72),
    detectors=(LineDetector("Gate line", (-3.4, 16.2), (3.4, 16.2)),),
)

ENTRY_CAMERA = Camera(
    "entry",
    "visitor_gate",
    "ENTRANCE FROM ABOVE",
    "Heron 3 C",
    "QG-CAM-0117",
    Lens(0.0, 13.7, 5.2, 0, 90, 72),
    detectors=(
        Region("Visitors today", ((-0.27, 0.5), (0.27, 0.5), (0.27, -0.5), (-0.27, -0.5)), "count", "entrance-count"),
    ),
)
