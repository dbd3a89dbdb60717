"""The scenes of the demo garden, one file each, with their cameras."""

from dataclasses import replace

from dromikon.standins.world.detectors import LineDetector, StayDetector
from dromikon.standins.world.scenes.base import Camera, Patch, Preset, Scene
from dromikon.standins.world.scenes.boathouse import BOATHOUSE, JETTY_CAMERA, LAKE_CAMERA
from dromikon.standins.world.scenes.boiler_house import BOILER_CAMERA, BOILER_HOUSE, FLUE_CAMERA
from dromikon.standins.world.scenes.lodge import LODGE, LODGE_CAMERA
from dromikon.standins.world.scenes.nursery_yard import NURSERY_YARD, YARD_CAMERA
from dromikon.standins.world.scenes.orchid_house import ORCHID_CAMERA, ORCHID_HOUSE
from dromikon.standins.world.scenes.palm_house import PALM_CAMERA, PALM_HOUSE
from dromikon.standins.world.scenes.palm_inside import PALM_INSIDE, PALMS_CAMERA
from dromikon.standins.world.scenes.pump_room import PUMP_CAMERA, PUMP_ROOM
from dromikon.standins.world.scenes.seed_vault import SEED_VAULT, VAULT_CAMERA
from dromikon.standins.world.scenes.service_gate import BELL_CAMERA, SERVICE_CAMERA, SERVICE_GATE
from dromikon.standins.world.scenes.visitor_gate import ENTRY_CAMERA, GATE_CAMERA, VISITOR_GATE

_SCENES = (
    BOATHOUSE, VISITOR_GATE, NURSERY_YARD, SERVICE_GATE, SEED_VAULT, PALM_HOUSE, PALM_INSIDE, ORCHID_HOUSE, PUMP_ROOM,
    BOILER_HOUSE, LODGE,
)  # fmt: skip
#: What a demo shows first is drawn first.
_CAMERAS = (
    JETTY_CAMERA, GATE_CAMERA, YARD_CAMERA, SERVICE_CAMERA, VAULT_CAMERA, PALM_CAMERA, LAKE_CAMERA, PALMS_CAMERA, ORCHID_CAMERA,
    PUMP_CAMERA, BOILER_CAMERA, FLUE_CAMERA, LODGE_CAMERA, ENTRY_CAMERA, BELL_CAMERA,
)  # fmt: skip
SCENES = {scene.id: scene for scene in _SCENES}
CAMERAS = {camera.id: camera for camera in _CAMERAS}
#: Each view of a movable camera, as a camera of its own: the picture is drawn for the one that it stands at.
VIEWS = {
    **CAMERAS,
    **{f"{c.id}-{p.token}": replace(c, lens=p.lens, presets=()) for c in CAMERAS.values() for p in c.presets},
}

__all__ = ["CAMERAS", "SCENES", "VIEWS", "Camera", "LineDetector", "Patch", "Preset", "Scene", "StayDetector"]
