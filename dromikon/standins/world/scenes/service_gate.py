"""The service gate: the lane from the road, the barrier, and the staff wicket with its bell."""

from dromikon.standins.world.detectors import Region
from dromikon.standins.world.geometry import Ball, Lens, box, gable
from dromikon.standins.world.scenes.base import Camera, Glow, Patch, Scene, lamp_post, rectangle, tree

SERVICE_GATE = Scene(
    id="service_gate",
    base="grass",
    patches=(
        Patch("asphalt", ((-3.2, -6), (3.4, -6), (3.4, 34), (8, 40), (-8, 40), (-3.2, 34))),
        Patch("asphalt", ((-90, 40), (90, 38), (90, 46), (-90, 48))),
        Patch("gravel", ((3.4, 4), (7.4, 4), (7.4, 36), (4.2, 36), (3.4, 30))),
        Patch("paint", rectangle(-2.6, 9.2, 2.8, 9.5)),
    ),
    things=(
        box(-4.4, 7.2, 0, -3.5, 8.1, 2.6, "stone"),
        gable(-4.55, 7.05, 2.6, -3.35, 8.25, 3.1, "stone"),
        box(3.5, 7.2, 0, 4.4, 8.1, 2.6, "stone"),
        gable(3.35, 7.05, 2.6, 4.55, 8.25, 3.1, "stone"),
        box(-30, 7.4, 0, -4.4, 7.8, 1.9, "brick"),
        box(6.4, 7.4, 0, 34, 7.8, 1.9, "brick"),
        # The wicket: a narrow gate beside the drive, its bell on a post before it.
        box(4.4, 7.5, 0.1, 5.0, 7.6, 2.0, "railing"),
        box(6.2, 7.3, 0, 6.5, 7.9, 2.3, "stone"),
        box(5.9, 9.0, 0, 6.1, 9.2, 1.45, "iron"),
        box(5.86, 9.14, 1.12, 6.14, 9.24, 1.42, "shutter"),
        # The barrier stands up beside the drive while nobody waits.
        box(-3.4, 8.4, 0, -3.05, 8.75, 1.1, "boat_red"),
        box(-3.3, 8.5, 1.1, -3.15, 8.65, 4.6, "stone"),
        box(-8.6, 9.4, 0, -5.4, 12.4, 2.5, "boards_green"),
        gable(-8.9, 9.1, 2.5, -5.1, 12.7, 4.0, "slate"),
        box(-5.44, 10.2, 1.0, -5.34, 11.6, 1.9, "glass"),
        *lamp_post(-4.6, 16.0, 4.2),
        *lamp_post(8.2, 20.0, 4.2),
        *tree(-14, 18.0, 9.0, 3.0),
        *tree(-22, 30.0, 10.0, 3.4, "copper"),
        *tree(14, 16.0, 8.5, 2.8),
        *tree(24, 28.0, 10.0, 3.4),
        *tree(-12, 56.0, 10.0, 3.6),
        *tree(6, 58.0, 11.0, 3.6, "copper"),
        *tree(22, 56.0, 9.0, 3.2),
        Ball((-12.0, 37.0, 0.6), (9.0, 1.0, 1.5), "hedge"),
        Ball((20.0, 36.4, 0.6), (9.0, 1.0, 1.5), "hedge"),
        Ball((-6.0, 14.6, 0.2), (1.0, 1.4, 0.8), "heather"),
        Ball((9.6, 11.0, 0.2), (1.4, 1.6, 0.9), "shrub"),
    ),
    lamps=((-4.6, 16.0, 4.35), (8.2, 20.0, 4.35)),
    hills=0.9,
    treeline=1.5,
    glows=(Glow("gate-lights", (-4.6, 16.0, 4.35), radius=1.6), Glow("gate-lights", (8.2, 20.0, 4.35), radius=1.6)),
)

#: Part of the door station at the wicket: it looks out of the bell at whoever rings.
BELL_CAMERA = Camera(
    "bell",
    "service_gate",
    "STAFF WICKET",
    "Wren 2",
    "QG-DS-0031",
    Lens(6.0, 9.32, 1.5, 2, 4, 92),
    relays=("strike",),
    speaks=True,
    hears=True,
)

SERVICE_CAMERA = Camera(
    "service", "service_gate", "SERVICE GATE", "Heron 9 P", "QG-CAM-0221", Lens(0.6, -4.5, 3.0, 3, 6, 44),
    detectors=(
        Region("Plate reader", ((-0.55, 0.05), (0.42, 0.05), (0.5, -0.75), (-0.65, -0.75)), "plates", "service-plates"),
    ),
    relays=("gate-lights", "barrier"),
)  # fmt: skip
