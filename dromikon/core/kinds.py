"""The kinds of event: what can happen, in which phases, with which fields.

Add a kind by adding one entry at the end of this file.
"""

from dataclasses import dataclass

from dromikon.core.events import Phase
from dromikon.core.registry import Registry


@dataclass(frozen=True, slots=True)
class FieldKind:
    """One field of a kind. `type` is number, text or choice; `unit` is shown behind a number."""

    name: str
    label: str
    type: str
    unit: str = ""
    choices: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Kind:
    """A kind of event. `says` reads on from a point's name: "Jetty line *is crossed*"."""

    name: str
    label: str
    says: str
    phases: tuple[Phase, ...]
    point_kinds: tuple[str, ...]
    fields: tuple[FieldKind, ...] = ()
    icon: str = "wave-sine"

    @property
    def is_state(self) -> bool:
        """Whether it begins and ends, rather than just happening."""
        return Phase.BEGIN in self.phases

    def field(self, name: str) -> FieldKind | None:
        return next((f for f in self.fields if f.name == name), None)


KINDS: Registry[Kind] = Registry("kind")
STATE = (Phase.BEGIN, Phase.END)
MOMENT = (Phase.PULSE,)

#: Object classes as ONVIF's analytics name them, in lower case.
CLASSES = ("human", "vehicle", "animal", "bicycle", "other")
OBJECT_FIELDS = (
    FieldKind("class", "class", "choice", choices=CLASSES),
    FieldKind("confidence", "confidence", "number", "%"),
    FieldKind("height", "size (height in the picture)", "number", "%"),
    FieldKind("object", "object number", "number"),
)

for kind in (
    Kind(
        "scene.line_crossed",
        "Line crossed",
        "is crossed",
        MOMENT,
        ("detector",),
        (*OBJECT_FIELDS, FieldKind("direction", "direction", "choice", choices=("in", "out"))),
        icon="walk",
    ),
    Kind("scene.loitering", "Loitering", "has somebody lingering", STATE, ("detector",), OBJECT_FIELDS, icon="clock"),
    Kind("scene.motion", "Motion", "sees motion", STATE, ("camera",), icon="wave-sine"),
    Kind("input.active", "Contact on", "is on", STATE, ("input",), icon="plug"),
    Kind(
        "sensor.reading",
        "Reading",
        "reads",
        (Phase.READING,),
        ("sensor",),
        (FieldKind("value", "value", "number"), FieldKind("unit", "unit", "text")),
        icon="wave-sine",
    ),
    Kind("device.lost", "Device lost", "is out of reach", STATE, ("camera",), icon="plug-x"),
    Kind(
        "button.pressed",
        "Button pressed",
        "is pressed",
        MOMENT,
        ("button",),
        (FieldKind("person", "person", "text"), FieldKind("position", "position", "text")),
        icon="hand-click",
    ),
):
    KINDS.add(kind.name, kind)
