"""The nursery's yard with its loading bay, its gate and the lane."""

from dromikon.standins.world.detectors import LineDetector, StayDetector
from dromikon.standins.world.geometry import Ball, Lens, box, gable
from dromikon.standins.world.scenes.base import Camera, Glow, Patch, Scene, lamp_post, rectangle, tree

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
    glows=(Glow("siren-light", (7.6, 20.8, 4.2), (255, 96, 80), 0.7),),
)

YARD_CAMERA = Camera(
    "yard",
    "nursery_yard",
    "NURSERY YARD",
    "Heron 6",
    "QN-CAM-0003",
    Lens(-2.0, -2.0, 6.2, 6, 15, 76),
    detectors=(
        LineDetector("Yard gate line", (-4.5, 24.6), (4.5, 24.6)),
        StayDetector("Loading bay", rectangle(3.5, 7.0, 12.0, 18.5), 10),
    ),
    inputs=("gate-contact",),
    relays=("siren-light", "siren-sound"),
    ends=(("siren-sound", 60.0),),
)
