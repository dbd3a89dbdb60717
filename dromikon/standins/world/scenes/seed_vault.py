"""The seed vault: a forecourt before a portal in the hill, and its steel door."""

from dromikon.standins.world.geometry import Ball, Lens, box
from dromikon.standins.world.scenes.base import Camera, Glow, Patch, Scene, lamp_post, rectangle, tree

#: The opening of the door, seen from the forecourt: its corners, and how far the leaf turns.
DOOR = ((-1.0, 13.9, 0.05), (1.0, 13.9, 0.05), (1.0, 13.9, 2.35), (-1.0, 13.9, 2.35))

SEED_VAULT = Scene(
    id="seed_vault",
    base="grass",
    patches=(
        Patch("cobbles", ((-5.5, 4), (5.5, 4), (5, 14), (-5, 14))),
        Patch("gravel", ((-2.2, -6), (2.2, -6), (3.0, 4), (-3.0, 4))),
        Patch("gravel", ((5.0, 6.4), (40, 2.0), (40, 4.4), (5.0, 9.0))),
        Patch("bed", rectangle(-9.4, 6.0, -6.2, 12.0)),
    ),
    things=(
        # The hill, and the portal that is let into it.
        Ball((0.0, 27.0, -1.5), (26.0, 13.0, 9.6), "grass"),
        Ball((-15.0, 22.0, -1.0), (12.0, 9.0, 6.0), "grass"),
        Ball((16.0, 23.0, -1.0), (13.0, 9.0, 6.4), "grass"),
        box(-6.2, 14.0, 0, -1.2, 20.0, 4.2, "stone"),
        box(1.2, 14.0, 0, 6.2, 20.0, 4.2, "stone"),
        box(-1.2, 14.0, 2.5, 1.2, 20.0, 4.2, "stone"),
        box(-6.6, 13.6, 4.2, 6.6, 20.4, 4.7, "slate"),
        box(-1.2, 14.1, 0, 1.2, 14.3, 2.5, "metal"),
        box(1.5, 13.9, 1.0, 1.75, 14.02, 1.4, "shutter"),
        box(-8.8, 12.6, 0, -6.2, 13.4, 2.0, "stone"),
        box(6.2, 12.6, 0, 8.8, 13.4, 2.0, "stone"),
        box(-4.4, 13.96, 3.1, 4.4, 14.0, 3.7, "boards"),
        box(3.4, 10.6, 0.4, 5.0, 11.1, 0.48, "timber"),
        box(3.5, 10.7, 0, 3.62, 11.0, 0.4, "iron"),
        box(4.78, 10.7, 0, 4.9, 11.0, 0.4, "iron"),
        *lamp_post(-4.8, 8.4),
        *lamp_post(4.8, 8.4),
        *tree(-18, 9.0, 9.0, 3.0),
        *tree(19, 9.0, 9.5, 3.2, "copper"),
        *tree(-11, 36.0, 9.0, 3.0),
        *tree(9, 37.0, 10.0, 3.4),
        *tree(24, 30.0, 9.0, 3.0),
        Ball((-7.8, 7.4, 0.2), (1.2, 1.1, 0.8), "heather"),
        Ball((-7.6, 10.0, 0.2), (1.1, 1.3, 0.9), "shrub"),
        Ball((8.4, 11.0, 0.2), (1.4, 1.0, 0.9), "shrub"),
    ),
    lamps=((-4.8, 8.4, 3.55), (4.8, 8.4, 3.55)),
    hills=1.2,
    treeline=1.5,
    leaves=(("vault", DOOR),),
    glows=(Glow("siren-light", (1.9, 13.8, 3.3), (255, 96, 80), 0.6),),
)

VAULT_CAMERA = Camera(
    "vault",
    "seed_vault",
    "SEED VAULT",
    "Heron 4 F",
    "QG-CAM-0330",
    Lens(0.9, -0.5, 3.4, 356, 9, 62),
    relays=("siren-light", "siren-sound"),
    ends=(("siren-light", 300.0), ("siren-sound", 45.0)),
    hears=True,
)
