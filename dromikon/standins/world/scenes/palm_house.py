"""The palm house from its lawn: the long glass, the cross wing, and its door."""

from dromikon.standins.world.geometry import Ball, Lens, box, gable
from dromikon.standins.world.scenes.base import Camera, Patch, Scene, lamp_post, rectangle, tree

DOOR = ((-1.1, 14.9, 0.05), (1.1, 14.9, 0.05), (1.1, 14.9, 2.5), (-1.1, 14.9, 2.5))

PALM_HOUSE = Scene(
    id="palm_house",
    base="grass",
    patches=(
        Patch("gravel", ((-2.4, 8.5), (2.4, 8.5), (2.0, 15.2), (-2.0, 15.2))),
        Patch("gravel", ((-60, 4.6), (0, 5.6), (60, 4.4), (60, 7.6), (0, 8.8), (-60, 7.8))),
        Patch("bed", ((-14, 11.5), (-4.6, 10.6), (-4.6, 13.2), (-14, 13.8))),
        Patch("bed", ((4.6, 10.6), (14, 11.5), (14, 13.8), (4.6, 13.2))),
        Patch("bed", rectangle(-26, 12, -17, 14)),
    ),
    things=(
        box(-4.2, 15.0, 0, -1.2, 26, 0.7, "stone"),
        box(1.2, 15.0, 0, 4.2, 26, 0.7, "stone"),
        box(-4.1, 15.05, 0.7, -1.2, 25.9, 4.6, "glasshouse"),
        box(1.2, 15.05, 0.7, 4.1, 25.9, 4.6, "glasshouse"),
        box(-1.2, 15.05, 2.6, 1.2, 25.9, 4.6, "glasshouse"),
        box(-1.2, 15.2, 0, 1.2, 15.3, 2.6, "glass"),
        gable(-4.4, 14.8, 4.6, 4.4, 26.1, 8.4, "glasshouse", along="y"),
        box(-27, 17, 0, -4.2, 25, 0.7, "stone"),
        box(-26.9, 17.1, 0.7, -4.2, 24.9, 3.8, "glasshouse"),
        gable(-27.2, 16.9, 3.8, -4.0, 25.1, 6.6, "glasshouse", along="x"),
        box(4.2, 17, 0, 27, 25, 0.7, "stone"),
        box(4.2, 17.1, 0.7, 26.9, 24.9, 3.8, "glasshouse"),
        gable(4.0, 16.9, 3.8, 27.2, 25.1, 6.6, "glasshouse", along="x"),
        box(-2.9, 9.4, 0, -2.5, 9.8, 0.9, "stone"),
        box(2.5, 9.4, 0, 2.9, 9.8, 0.9, "stone"),
        Ball((-2.7, 9.6, 1.2), (0.5, 0.5, 0.5), "shrub"),
        Ball((2.7, 9.6, 1.2), (0.5, 0.5, 0.5), "shrub"),
        *lamp_post(-5.6, 9.2),
        *lamp_post(5.6, 9.2),
        *tree(-20, 9.8, 7.0, 2.3, "copper"),
        *tree(21, 10.0, 8.0, 2.6),
        *tree(-14, 34.0, 11.0, 3.6),
        *tree(6, 36.0, 11.0, 3.8),
        *tree(25, 33.0, 10.0, 3.4, "copper"),
        *(Ball((-13.4 + 1.4 * i, 12.4, 0.3), (0.7, 0.7, 0.6), "heather" if i % 2 else "shrub") for i in range(7)),
        *(Ball((5.2 + 1.4 * i, 12.4, 0.3), (0.7, 0.7, 0.6), "shrub" if i % 3 else "heather") for i in range(7)),
    ),
    lamps=((-5.6, 9.2, 3.55), (5.6, 9.2, 3.55)),
    hills=0.9,
    treeline=1.4,
    leaves=(("palm", DOOR),),
)

PALM_CAMERA = Camera("palm", "palm_house", "PALM HOUSE", "Heron 4", "QG-CAM-0512", Lens(-1.5, -5.0, 4.6, 4, 9, 66))
