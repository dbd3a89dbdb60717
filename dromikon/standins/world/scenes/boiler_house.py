"""The boiler house: the boiler with its flue, the circulation pump; seen by light, and by heat."""

from dromikon.standins.world.detectors import Region
from dromikon.standins.world.geometry import Ball, Lens, box
from dromikon.standins.world.scenes.base import Camera, Patch, Scene, rectangle, room

BOILER_HOUSE = Scene(
    id="boiler_house",
    base="concrete",
    patches=(Patch("paint", rectangle(-4.0, 3.0, 4.0, 3.08)), Patch("tiles", rectangle(-2.6, 4.4, 0.2, 7.4))),
    things=(
        *room(-4.2, -0.6, 4.2, 8.0, 3.8, "brick"),
        box(-2.3, 5.0, 0.15, -0.3, 7.2, 2.0, "boiler"),
        box(-2.4, 4.95, 0, -0.2, 7.3, 0.15, "iron"),
        box(-1.7, 4.9, 0.5, -0.9, 5.0, 1.1, "cabinet"),
        box(-1.65, 4.88, 1.4, -0.95, 4.92, 1.75, "panel"),
        box(-1.55, 5.9, 2.0, -1.05, 6.4, 3.8, "flue"),
        box(-2.1, 6.6, 2.0, -1.95, 6.75, 3.2, "pipe"),
        box(-2.1, 6.6, 3.05, 3.4, 6.75, 3.2, "pipe"),
        box(-0.6, 6.9, 0.7, 2.2, 7.05, 0.85, "pipe"),
        box(1.3, 6.5, 0.5, 1.95, 7.1, 1.0, "warm_pump"),
        Ball((1.62, 6.45, 0.75), (0.3, 0.24, 0.3), "warm_pump", smooth=True),
        box(1.2, 6.4, 0, 2.05, 7.2, 0.5, "concrete"),
        Ball((3.1, 6.6, 1.4), (0.62, 0.62, 1.25), "metal", smooth=True),
        box(2.7, 6.2, 0, 3.5, 7.0, 0.2, "iron"),
        box(3.25, 6.5, 2.5, 3.4, 6.65, 3.2, "pipe"),
        box(-4.1, 3.6, 0, -3.6, 4.8, 1.9, "cabinet"),
        box(4.14, 2.2, 0, 4.2, 3.2, 2.1, "white"),
        box(3.2, 1.2, 0.72, 4.1, 2.0, 0.8, "wood"),
        box(3.3, 1.3, 0, 3.38, 1.9, 0.72, "iron"),
        box(-1.2, 3.6, 3.7, 1.0, 3.8, 3.8, "lantern"),
    ),
    lamps=((-0.1, 3.7, 3.55),),
    warm=(("flue", "boiler-flue"), ("warm_pump", "boiler-pump"), ("boiler", 46.0), ("pipe", 38.0), ("metal", 33.0),
          ("lantern", 44.0), ("panel", 36.0)),
    roof="room",
)  # fmt: skip

BOILER_CAMERA = Camera(
    "boiler", "boiler_house", "BOILER HOUSE", "Heron 4", "QG-CAM-0801", Lens(3.4, 0.0, 3.1, 332, 18, 82)
)
FLUE_CAMERA = Camera(
    "flue", "boiler_house", "BOILER HOUSE HEAT", "Ember 2 T", "QG-CAM-0802", Lens(1.6, 0.4, 2.3, 345, 6, 64),
    detectors=(
        Region("Boiler flue", ((-0.46, 0.82), (-0.24, 0.82), (-0.24, 0.22), (-0.46, 0.22)), "heat", "boiler-flue"),
        Region("Circulation pump", ((0.31, -0.22), (0.6, -0.22), (0.6, -0.64), (0.31, -0.64)), "heat", "boiler-pump"),
    ),
    thermal=True,
)  # fmt: skip
