"""What a point can be."""

from typing import Literal

from dromikon.core.words import N_

PointKind = Literal[
    "camera", "detector", "door", "station", "input", "relay", "siren", "speaker", "sensor", "power", "button", "topic"
]

#: The icon of each.
ICONS = {
    "camera": "video", "detector": "eye", "door": "door", "station": "bell", "input": "plug", "relay": "bulb", "siren": "alert-triangle",
    "speaker": "volume",
    "sensor": "temperature", "power": "battery", "button": "hand-click", "topic": "message",
}  # fmt: skip
#: What each is called.
POINT_KINDS: dict[str, str] = {
    "camera": N_("camera"),
    "detector": N_("detector"),
    "door": N_("door"),
    "station": N_("door station"),
    "input": N_("input"),
    "relay": N_("relay"),
    "siren": N_("siren"),
    "speaker": N_("speaker"),
    "sensor": N_("sensor"),
    "power": N_("power supply"),
    "button": N_("desk button"),
    "topic": N_("event of a device's own"),
}
