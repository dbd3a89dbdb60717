"""The kinds of event: what can happen, in which phases, with which fields.

Add a kind by adding one entry at the end of this file.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from dromikon.core.devices.standing import OF_DEVICE
from dromikon.core.events import Phase, Scalar
from dromikon.core.registry import Registry
from dromikon.core.words import N_, t


@dataclass(frozen=True, slots=True)
class FieldKind:
    """One field of a kind. `type` is number, text, choice, template (a face's) or box (a place in the picture) or point (an id); `unit` is
    shown behind a number."""

    name: str
    called: str
    type: str
    unit: str = ""
    choices: tuple[str, ...] = ()

    @property
    def label(self) -> str:
        """What it is called, in the language that is spoken."""
        return t(self.called)


@dataclass(frozen=True, slots=True)
class Kind:
    """A kind of event. What it `reads` goes on from a point's name: "Jetty line *is crossed*". Without `point_kinds` it may
    come from any point."""

    name: str
    called: str
    reads: str
    phases: tuple[Phase, ...]
    point_kinds: tuple[str, ...]
    fields: tuple[FieldKind, ...] = ()
    icon: str = "wave-sine"
    #: A state that holds while nothing is the matter: a door is locked.
    usual: bool = False
    #: It may also happen to the site as a whole, without a point.
    of_site: bool = False

    @property
    def label(self) -> str:
        """What it is called, in the language that is spoken."""
        return t(self.called)

    @property
    def says(self) -> str:
        """How it reads behind a point's name, in the language that is spoken."""
        return t(self.reads)

    @property
    def reads_not(self) -> str:
        """The opposite of how it reads: "is not open"."""
        return self.reads.replace("is ", "is not ", 1)

    @property
    def says_not(self) -> str:
        """The opposite, in the language that is spoken."""
        return t(self.reads_not)

    @property
    def is_state(self) -> bool:
        """Whether it begins and ends, rather than just happening."""
        return Phase.BEGIN in self.phases

    def field(self, name: str) -> FieldKind | None:
        return next((f for f in self.fields if f.name == name), None)


#: Types of fields that are personal data: such a field leaves in no text, call, page or answer.
PERSONAL = ("template",)
#: What no condition can be about.
NOT_COMPARED = ("box", "point")
HIDDEN = "(face template)"

KINDS: Registry[Kind] = Registry("kind")
STATE = (Phase.BEGIN, Phase.END)
MOMENT = (Phase.PULSE,)
READING = (Phase.READING,)

#: Object classes as ONVIF's analytics name them, in lower case.
CLASSES = ("human", "vehicle", "animal", "bicycle", "other")
OBJECT_FIELDS = (
    FieldKind("class", "class", "choice", choices=CLASSES),
    FieldKind("confidence", "confidence", "number", "%"),
    FieldKind("height", "size (height in the picture)", "number", "%"),
    FieldKind("object", "object number", "number"),
    FieldKind("box", "place in the picture", "box"),
)
PLACE = OBJECT_FIELDS[-1]
WAY = FieldKind("direction", "direction", "choice", choices=("in", "out"))

CARD_FIELDS = (FieldKind("card", "card", "text"), FieldKind("person", "person", "text"))
#: The camera at which a desk button was pressed, by its id: it is the source then.
PRESSED_AT = "pressed_at"
PRESS_FIELDS = (
    FieldKind("person", "person", "text"), FieldKind("position", "position", "text"),
    FieldKind("camera", "camera it was pressed at", "text"), FieldKind(PRESSED_AT, "camera's id", "point"),
)  # fmt: skip
BY = FieldKind("person", "at a desk, by", "text")
WHY = FieldKind("reason", "reason", "text")
#: Raised by a step of a rule, at any point.
DERIVED = "rule.raised"
#: A step of a rule that could not be sent in time, at the point that the rule's run began with.
COUNTED = "counter.changed"
STEP_EXPIRED, STEP_FAILED, STEP_UNREACHED = "step.expired", "step.failed", "step.unreached"
#: A sensor whose readings no longer come.
STALE = "sensor.stale"
#: What usually comes from a point has stopped.
SILENT = "point.silent"
#: Made by the clock, for the site as a whole.
CLOCK = "time.reached"

#: Why a device is lost, as its session says it.
LOST_FOR = (
    N_("refused"), N_("timeout"), N_("unreachable"), N_("malformed"), N_("oversized"), N_("certificate"), N_("fault"),
    N_("not_allowed"), N_("our_fault"),
)  # fmt: skip

for kind in (
    Kind(
        "scene.line_crossed",
        "Line crossed",
        "is crossed",
        MOMENT,
        ("detector",),
        (*OBJECT_FIELDS, WAY),
        icon="walk",
    ),
    Kind("scene.loitering", "Loitering", "has somebody lingering", STATE, ("detector",), OBJECT_FIELDS, icon="clock"),
    Kind("scene.inside", "Somebody inside", "has somebody inside", STATE, ("detector",), OBJECT_FIELDS, icon="walk"),
    Kind("scene.outside", "Somebody outside", "has somebody outside", STATE, ("detector",), OBJECT_FIELDS, icon="walk"),
    Kind("scene.entered", "Somebody enters", "is entered", MOMENT, ("detector",), OBJECT_FIELDS, icon="walk"),
    Kind("scene.left", "Somebody leaves", "is left", MOMENT, ("detector",), OBJECT_FIELDS, icon="walk"),
    Kind(
        "scene.passed",
        "Doorway passed",
        "is passed",
        MOMENT,
        ("detector",),
        (*OBJECT_FIELDS, WAY),
        icon="door",
    ),
    Kind(
        "scene.standing",
        "Somebody stands still",
        "has somebody standing",
        STATE,
        ("detector",),
        OBJECT_FIELDS,
        icon="clock",
    ),
    Kind(
        "scene.left_behind",
        "Thing left behind",
        "has a thing left behind",
        STATE,
        ("detector",),
        OBJECT_FIELDS,
        icon="alert-triangle",
    ),
    Kind(
        "scene.taken_away",
        "Thing taken away",
        "has a thing taken away",
        MOMENT,
        ("detector",),
        OBJECT_FIELDS,
        icon="alert-triangle",
    ),
    Kind(
        "scene.crowded",
        "Too many at once",
        "is crowded",
        STATE,
        ("detector",),
        (FieldKind("value", "how many", "number"),),
        icon="users",
    ),
    Kind(
        "scene.wrong_way",
        "Wrong way",
        "is gone through the wrong way",
        MOMENT,
        ("detector",),
        OBJECT_FIELDS,
        icon="walk",
    ),
    Kind("scene.running", "Somebody runs", "has somebody running", MOMENT, ("detector",), OBJECT_FIELDS, icon="walk"),
    Kind("scene.motion", "Motion", "sees motion", STATE, ("camera", "detector"), icon="wave-sine"),
    Kind("picture.lost", "Picture lost", "is without a picture", STATE, ("camera",), icon="plug-x"),
    Kind("scene.tampered", "Tampering", "is covered or turned away", STATE, ("camera",), icon="eye"),
    Kind("scene.occupied", "Bay occupied", "is occupied", STATE, ("detector",), OBJECT_FIELDS, icon="car"),
    Kind(
        "scene.count",
        "People inside",
        "counts",
        READING,
        ("detector",),
        (FieldKind("value", "people inside", "number"),),
        icon="users",
    ),
    Kind(
        "scene.temperature",
        "Measured temperature",
        "measures",
        READING,
        ("detector",),
        (
            FieldKind("value", "temperature", "number", "°C"),
            FieldKind("lowest", "lowest in the region", "number", "°C"),
            FieldKind("mean", "mean of the region", "number", "°C"),
        ),
        icon="temperature",
    ),
    Kind("scene.hot", "Too hot", "is too hot", STATE, ("detector",), icon="temperature"),
    # No topic of ONVIF's tells of one: a camera that sees flames has one of its own, which a decoder reads.
    Kind(
        "scene.flame",
        "Flame seen",
        "shows a flame",
        STATE,
        ("camera", "detector"),
        (FieldKind("confidence", "confidence", "number", "%"), PLACE),
        icon="temperature",
    ),
    Kind(
        "plate.read",
        "Plate read",
        "reads a plate",
        MOMENT,
        ("detector",),
        (
            FieldKind("plate", "plate", "text"),
            FieldKind("confidence", "confidence", "number", "%"),
            FieldKind("direction", "direction", "choice", choices=("in", "out")),
            PLACE,
        ),
        icon="car",
    ),
    Kind(
        "face.seen",
        "Face seen",
        "sees a face",
        MOMENT,
        ("detector",),
        (
            FieldKind("template", "face", "template"),
            FieldKind("person", "recognised as", "text"),
            FieldKind("confidence", "confidence", "number", "%"),
            FieldKind("covered", "mouth and nose", "choice", choices=("free", "covered")),
            FieldKind("live", "before the camera", "choice", choices=("person", "picture")),
            PLACE,
        ),
        icon="user",
    ),
    Kind("door.open", "Door open", "is open", STATE, ("door",), icon="door"),
    Kind("door.forced", "Door forced", "is forced", MOMENT, ("door",), icon="door"),
    Kind("door.held_open", "Door held open", "is held open", STATE, ("door",), icon="door"),
    Kind("door.locked", "Door locked", "is locked", STATE, ("door",), icon="door", usual=True),
    Kind("door.tampered", "Door tampered with", "is tampered with", STATE, ("door",), icon="alert-triangle"),
    Kind("access.granted", "Access granted", "lets somebody in", MOMENT, ("door",), CARD_FIELDS, icon="id"),
    Kind("access.denied", "Access denied", "turns somebody away", MOMENT, ("door",), (*CARD_FIELDS, WHY), icon="id"),
    Kind(
        "access.duress",
        "Access under duress",
        "lets somebody in under duress",
        MOMENT,
        ("door",),
        (*CARD_FIELDS, WHY),
        icon="alert-triangle",
    ),
    Kind("call.rung", "Call", "rings", MOMENT, ("station",), icon="bell"),
    Kind("call.answered", "Call answered", "is answered", MOMENT, ("station",), (BY,), icon="bell"),
    Kind("call.ended", "Call ended", "hangs up", MOMENT, ("station",), (BY,), icon="bell"),
    Kind("power.on_battery", "On battery", "runs on battery", STATE, ("power",), icon="battery"),
    Kind("input.active", "Contact on", "is on", STATE, ("input",), icon="plug"),
    Kind("output.active", "Output on", "is switched on", STATE, ("relay",), icon="bulb"),
    Kind(
        "device.own",
        "Event of its own",
        "tells something of its own",
        (*STATE, *MOMENT),
        ("topic",),
        (FieldKind("topic", "topic", "text"), FieldKind("items", "what it tells", "text")),
        icon="message",
    ),
    Kind(
        "sensor.reading",
        "Reading",
        "reads",
        READING,
        ("sensor",),
        (FieldKind("value", "value", "number"), FieldKind("unit", "unit", "text")),
        icon="wave-sine",
    ),
    Kind(STALE, "Reading stale", "tells nothing any more", STATE, ("sensor",), icon="clock"),
    Kind(
        "device.lost",
        "Device lost",
        "is out of reach",
        STATE,
        OF_DEVICE,
        (FieldKind("reason", "reason", "choice", choices=LOST_FOR),),
        icon="plug-x",
    ),
    Kind(
        "device.clock_wrong",
        "Clock wrong",
        "has a wrong clock",
        STATE,
        OF_DEVICE,
        (FieldKind("seconds", "off by", "number", "s"),),
        icon="clock",
    ),
    Kind(
        "device.changed",
        "Device changed",
        "can no longer do the same",
        MOMENT,
        OF_DEVICE,
        (FieldKind("new", "what is new", "text"), FieldKind("gone", "what is gone", "text")),
        icon="rotate",
    ),
    Kind(
        SILENT,
        "Fallen silent",
        "is silent",
        STATE,
        ("camera", "detector", "door", "station", "input", "sensor", "power", "topic"),
        (FieldKind("what", "what no longer comes", "text"), FieldKind("days", "for how long", "number", "d")),
        icon="plug-x",
    ),
    Kind(
        "button.pressed",
        "Button pressed",
        "is pressed",
        MOMENT,
        ("button",),
        PRESS_FIELDS,
        icon="hand-click",
    ),
    Kind("button.on", "Button on", "is on", STATE, ("button",), PRESS_FIELDS, icon="hand-click"),
    Kind(
        DERIVED,
        "Raised by a rule",
        "has something raised by a rule",
        MOMENT,
        (),
        (FieldKind("name", "name", "text"), FieldKind("text", "text", "text")),
        icon="wave-sine",
    ),
    *(
        Kind(
            name,
            label,
            reads,
            MOMENT,
            (),
            (
                FieldKind("by_rule", "rule whose step it was", "text"),
                FieldKind("step", "step", "text"),
                FieldKind("reason", "reason", "text"),
            ),
            icon="alert-triangle",
            of_site=True,
        )
        for name, label, reads in (
            (STEP_EXPIRED, "Step expired unsent", "has a step that expired unsent"),
            (STEP_FAILED, "Step failed", "has a step that failed"),
            (STEP_UNREACHED, "Nobody reached", "has a step that reached nobody"),
        )
    ),
    Kind(
        COUNTED,
        "Counter changed",
        "has a counter that changed",
        MOMENT,
        (),
        (
            FieldKind("counter", "counter", "text"),
            FieldKind("id", "id of the counter", "text"),
            FieldKind("value", "stands at", "number"),
            FieldKind("before", "stood at", "number"),
        ),
        icon="calculator",
        of_site=True,
    ),
    Kind(CLOCK, "A time", "comes", MOMENT, (), (FieldKind("clock", "clock time", "text"),), icon="clock"),
):
    KINDS.add(kind.name, kind)

_PERSONAL_NAMES = frozenset(f.name for kind in KINDS for f in kind.fields if f.type in PERSONAL)


def public_fields(fields: Mapping[str, Scalar]) -> dict[str, Scalar]:
    """An event's fields as anybody outside may see them: what a field of any kind marks as personal is hidden, under
    whichever kind it was sent."""
    return {name: HIDDEN if name in _PERSONAL_NAMES else value for name, value in fields.items()}
