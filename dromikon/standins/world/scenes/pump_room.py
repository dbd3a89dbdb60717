"""The pump room: two pumps, pipes along brick, the cabinet of the power supply, and a floor on which water shows."""

from dromikon.standins.world.geometry import Ball, Lens, Solid, box
from dromikon.standins.world.scenes.base import Camera, Glow, Patch, Puddle, Scene, rectangle, room


def _pump(x: float, y: float) -> tuple[Solid | Ball, ...]:
    return (
        box(x - 0.5, y - 0.4, 0, x + 0.5, y + 0.4, 0.22, "concrete"),
        Ball((x - 0.1, y, 0.62), (0.46, 0.36, 0.38), "pump", smooth=True),
        box(x + 0.2, y - 0.22, 0.4, x + 0.72, y + 0.22, 0.84, "pump"),
        box(x - 0.2, y - 0.09, 0.9, x - 0.02, y + 0.09, 2.3, "cold_pipe"),
    )


PUMP_ROOM = Scene(
    id="pump_room",
    base="concrete",
    patches=(Patch("paint", rectangle(-3.6, 2.3, 3.6, 2.38)), Patch("iron", rectangle(0.7, 3.2, 1.0, 3.5))),
    things=(
        *room(-3.8, -0.6, 3.8, 7.0, 3.1, "brick"),
        *_pump(-1.9, 5.2),
        *_pump(0.4, 5.2),
        box(-3.6, 6.5, 2.2, 3.6, 6.68, 2.38, "cold_pipe"),
        box(-3.6, 6.5, 1.7, 3.6, 6.64, 1.84, "pipe"),
        box(-2.1, 5.1, 2.2, -1.92, 6.6, 2.38, "cold_pipe"),
        box(0.2, 5.1, 2.2, 0.38, 6.6, 2.38, "cold_pipe"),
        Ball((1.5, 6.4, 2.29), (0.3, 0.09, 0.3), "boiler", smooth=True),
        box(1.4, 6.3, 2.4, 1.6, 6.5, 2.7, "cabinet"),
        box(2.5, 5.6, 0, 3.5, 6.4, 2.0, "cabinet"),
        box(2.62, 5.57, 1.35, 3.38, 5.6, 1.75, "panel"),
        *(box(2.62, 5.57, 0.2 + 0.16 * i, 3.38, 5.6, 0.28 + 0.16 * i, "panel") for i in range(5)),
        box(-3.7, 1.2, 0, -3.3, 2.1, 0.9, "wood"),
        Ball((-3.5, 1.6, 1.05), (0.22, 0.22, 0.22), "pipe", smooth=True),
        box(3.74, 2.4, 0, 3.8, 3.4, 2.1, "white"),
        box(-0.9, 3.3, 3.0, 0.9, 3.5, 3.1, "lantern"),
    ),
    lamps=((0.0, 3.4, 2.9),),
    glows=(Glow("shut-off", (1.5, 6.3, 2.55), (255, 120, 90), 0.3),),
    puddles=(Puddle("leak", ((-0.5, 3.1), (0.6, 2.5), (1.9, 2.9), (2.2, 3.8), (1.2, 4.5), (0.0, 4.2))),),
    roof="room",
)

PUMP_CAMERA = Camera(
    "pump", "pump_room", "PUMP ROOM", "Heron 4", "QG-CAM-0702", Lens(-3.2, -0.2, 2.75, 32, 20, 80), relays=("shut-off",)
)
