"""Who and what there is at Quillmere Gardens, and its rules. Ids are fixed so that links and tests can name them."""

from typing import Any

PASSWORD = "quillmere-demo"

GARDENS, NURSERY = "quillmere-gardens", "quillmere-nursery"
SITES = ((GARDENS, "Quillmere Gardens"), (NURSERY, "Quillmere Nursery"))
ZONE = "Europe/London"

#: user name, first name, last name, role at the Gardens, role at the Nursery.
PEOPLE = (
    ("ada", "Ada", "Thornhollow", "administrator", "administrator"),
    ("ines", "Ines", "Falkmere", "integrator", "integrator"),
    ("oskar", "Oskar", "Lindwater", "operator", "operator"),
    ("opal", "Opal", "Reywood", "operator", None),
    ("dara", "Dara", "Quistfield", "duty_manager", "duty_manager"),
    ("vera", "Vera", "Holmgate", "viewer", None),
)

#: id, site, name.
AREAS = (
    ("visitor-gate", GARDENS, "Visitor Gate"),
    ("boathouse", GARDENS, "Boathouse and Lake"),
    ("nursery-yard", NURSERY, "Nursery Yard"),
)

#: id, site, name, roles.
GROUPS = (
    ("operators", GARDENS, "Operators", ["operator"]),
    ("duty", GARDENS, "Duty managers", ["duty_manager"]),
    ("nursery-operators", NURSERY, "Nursery operators", ["operator"]),
    ("nursery-duty", NURSERY, "Nursery duty managers", ["duty_manager"]),
)

#: id, site, area, name, stand-in camera.
DEVICES = (
    ("cam-jetty", GARDENS, "boathouse", "Jetty camera", "jetty"),
    ("cam-gate", GARDENS, "visitor-gate", "Gate camera", "gate"),
    ("cam-yard", NURSERY, "nursery-yard", "Yard camera", "yard"),
)

#: id, site, area, device, channel, kind, name, token, tags.
POINTS = (
    ("jetty", GARDENS, "boathouse", "cam-jetty", None, "camera", "Jetty", "vs0", ["water"]),
    ("jetty-line", GARDENS, "boathouse", "cam-jetty", "jetty", "detector", "Jetty line", "vsc0/Jetty line", ["water"]),
    ("storm-light", GARDENS, "boathouse", "cam-jetty", None, "relay", "Storm light", "relay/storm-light", []),
    ("gate", GARDENS, "visitor-gate", "cam-gate", None, "camera", "Visitor gate", "vs0", ["entrance"]),
    ("gate-line", GARDENS, "visitor-gate", "cam-gate", "gate", "detector", "Gate line", "vsc0/Gate line", ["entrance"]),
    ("gate-help", GARDENS, "visitor-gate", None, None, "button", "Help at gate", "", []),
    ("yard", NURSERY, "nursery-yard", "cam-yard", None, "camera", "Nursery yard", "vs0", []),
    (
        "yard-gate-line",
        NURSERY,
        "nursery-yard",
        "cam-yard",
        "yard",
        "detector",
        "Yard gate line",
        "vsc0/Yard gate line",
        [],
    ),
    ("loading-bay", NURSERY, "nursery-yard", "cam-yard", "yard", "detector", "Loading bay", "vsc0/Loading bay", []),
    ("yard-gate", NURSERY, "nursery-yard", "cam-yard", None, "input", "Yard gate contact", "input/gate-contact", []),
)

SIGHTLINES = (("gate-help", "gate"), ("yard-gate", "yard"))

INTAKES = (("garden-gateway", GARDENS, "Garden gateway", "garden-gateway-token"),)


def _week(*spans: str, closed: tuple[str, ...] = ()) -> dict[str, list[str]]:
    return {day: [] if day in closed else list(spans) for day in ("mon", "tue", "wed", "thu", "fri", "sat", "sun")}


_SUMMER_FRIDAY = {**_week("09:00-18:00"), "fri": ["09:00-21:00"]}
_CLOSED = [
    {"date": f"{year}-12-{day}", "why": "closed for the holidays"} for year in range(2025, 2031) for day in (24, 25, 26)
]

HOURS = (
    (
        "garden-hours",
        GARDENS,
        "garden hours",
        {
            "seasons": [
                {"start": "06-01", "end": "08-31", "week": _SUMMER_FRIDAY},
                {"start": "04-01", "end": "10-31", "week": _week("09:00-18:00")},
                {"start": "11-01", "end": "03-31", "week": _week("10:00-16:00")},
            ],
            "exceptions": _CLOSED,
        },
    ),
    (
        "staff-hours",
        GARDENS,
        "staff hours",
        {"seasons": [{"start": "01-01", "end": "12-31", "week": _week("07:00-20:00")}]},
    ),
    (
        "nursery-hours",
        NURSERY,
        "nursery hours",
        {
            "seasons": [
                {
                    "start": "01-01",
                    "end": "12-31",
                    "week": {**_week("07:30-17:30", closed=("sun",)), "tue": ["07:30-17:30", "20:00-23:45"]},
                }
            ],
            "exceptions": _CLOSED,
        },
    ),
)


def _ref(id: str, name: str) -> dict[str, str]:
    return {"id": id, "name": name}


def _field(field: str, op: str, value: Any) -> dict[str, Any]:
    return {"test": "field", "field": field, "op": op, "value": value}


def _all(*conditions: dict[str, Any]) -> dict[str, Any]:
    return {"test": "all", "of": list(conditions)}


def _points(*points: tuple[str, str]) -> dict[str, Any]:
    return {"points": [_ref(*p) for p in points]}


OPERATORS, DUTY = _ref("operators", "Operators"), _ref("duty", "Duty managers")
NURSERY_OPERATORS, NURSERY_DUTY = (
    _ref("nursery-operators", "Nursery operators"),
    _ref("nursery-duty", "Nursery duty managers"),
)
JETTY_LINE = ("jetty-line", "Jetty line")

#: id, site, document. All are switched on.
RULES: tuple[tuple[str, str, dict[str, Any]], ...] = (
    (
        "jetty-closed",
        GARDENS,
        {
            "name": "Somebody on the closed jetty",
            "purpose": "Safety by the water",
            "cause": {"cause": "event", "kind": "scene.line_crossed", "phase": "pulse", "where": _points(JETTY_LINE)},
            "provided": _all(
                _field("class", "is", "human"), _field("confidence", "at_least", 55), _field("direction", "is", "in")
            ),
            "hold_off": {"seconds": 60, "per": "point"},
            "response": [
                {
                    "do": "alarm",
                    "priority": "high",
                    "title": "Somebody on the jetty",
                    "instruction": "The jetty is closed in winter.\n1. Look whether anybody is in the water.\n2. Call them back over the boathouse speaker.\n3. If they stay, send the lake warden (channel 4).",
                    "groups": [OPERATORS, DUTY],
                    "note_required": True,
                    "sound": "call",
                },
                {
                    "do": "bookmark",
                    "title": "Jetty: {class} going {direction}",
                    "before": 10,
                    "beyond": 25,
                    "tags": ["jetty"],
                },
                {"do": "popup", "groups": [OPERATORS, DUTY], "seconds": 45},
            ],
        },
    ),
    (
        "jetty-geese",
        GARDENS,
        {
            "name": "Geese over the jetty",
            "purpose": "Wildlife",
            "cause": {"cause": "event", "kind": "scene.line_crossed", "phase": "pulse", "where": _points(JETTY_LINE)},
            "provided": _field("class", "is", "animal"),
            "hold_off": {"seconds": 600, "per": "rule"},
            "response": [
                {
                    "do": "bookmark",
                    "title": "Geese on the jetty",
                    "before": 5,
                    "beyond": 30,
                    "tags": ["geese", "wildlife"],
                }
            ],
        },
    ),
    (
        "jetty-light",
        GARDENS,
        {
            "name": "Light the jetty for whoever is on it by night",
            "purpose": "Safety by the water",
            "cause": {"cause": "event", "kind": "scene.line_crossed", "phase": "pulse", "where": _points(JETTY_LINE)},
            "provided": _all(_field("class", "is", "human"), _field("confidence", "at_least", 50)),
            "hours": {"hours": _ref("garden-hours", "garden hours"), "inside": False},
            "hold_off": {"seconds": 20, "per": "point"},
            "response": [{"do": "relay", "target": {"point": _ref("storm-light", "Storm light")}, "held": 40}],
        },
    ),
    (
        "gate-night",
        GARDENS,
        {
            "name": "Visitor gate passed by night",
            "purpose": "After hours",
            "cause": {
                "cause": "event",
                "kind": "scene.line_crossed",
                "phase": "pulse",
                "where": _points(("gate-line", "Gate line")),
            },
            "provided": _field("class", "one_of", ["human", "vehicle"]),
            "hours": {"hours": _ref("staff-hours", "staff hours"), "inside": False},
            "hold_off": {"seconds": 300, "per": "point"},
            "response": [
                {
                    "do": "alarm",
                    "priority": "medium",
                    "title": "{class|capital} at the visitor gate",
                    "instruction": "The patrol stays inside the gate. If this is not a fox, ring the duty manager.",
                    "groups": [OPERATORS],
                    "sound": "chime",
                },
                {"do": "bookmark", "title": "Gate by night", "before": 12, "beyond": 15, "tags": ["gate", "night"]},
            ],
        },
    ),
    (
        "gate-help",
        GARDENS,
        {
            "name": "Help at the gate",
            "purpose": "Visitors",
            "cause": {"cause": "button", "where": _points(("gate-help", "Help at gate"))},
            "response": [
                {
                    "do": "alarm",
                    "priority": "critical",
                    "title": "Help wanted at the gate",
                    "instruction": "Somebody at the ticket kiosk asks for help.\n1. Watch the gate camera.\n2. Ring the kiosk (extension 12).\n3. If nobody answers, send the duty manager.",
                    "groups": [OPERATORS, DUTY],
                    "note_required": True,
                    "sound": "urgent",
                },
                {"do": "popup", "groups": [OPERATORS, DUTY], "seconds": 120},
                {"do": "bookmark", "title": "Help at the gate", "before": 30, "beyond": 60, "tags": ["help"]},
            ],
        },
    ),
    (
        "camera-lost",
        GARDENS,
        {
            "name": "A garden camera is out of reach",
            "purpose": "Keeping it running",
            "cause": {"cause": "lasting", "kind": "device.lost", "seconds": 20, "where": {"point_kinds": ["camera"]}},
            "response": [
                {
                    "do": "alarm",
                    "priority": "medium",
                    "title": "{point} is out of reach",
                    "instruction": "Look at Sources for the reason. After five minutes, ring the electrician on call.",
                    "groups": [OPERATORS, DUTY],
                }
            ],
        },
    ),
    (
        "yard-night",
        NURSERY,
        {
            "name": "Yard gate passed after hours",
            "purpose": "After hours",
            "cause": {
                "cause": "event",
                "kind": "scene.line_crossed",
                "phase": "pulse",
                "where": _points(("yard-gate-line", "Yard gate line")),
            },
            "provided": _all(_field("class", "one_of", ["human", "vehicle"]), _field("direction", "is", "in")),
            "hours": {"hours": _ref("nursery-hours", "nursery hours"), "inside": False},
            "hold_off": {"seconds": 120, "per": "point"},
            "response": [
                {
                    "do": "alarm",
                    "priority": "high",
                    "title": "{class|capital} through the yard gate",
                    "instruction": "Nobody is expected. Watch where they go; ring the duty manager when they make for the glasshouses.",
                    "groups": [NURSERY_OPERATORS, NURSERY_DUTY],
                    "note_required": True,
                    "sound": "call",
                },
                {
                    "do": "bookmark",
                    "title": "Yard gate after hours",
                    "before": 10,
                    "beyond": 30,
                    "tags": ["yard", "night"],
                },
            ],
        },
    ),
    (
        "yard-linger",
        NURSERY,
        {
            "name": "Lingering in the loading bay",
            "purpose": "After hours",
            "cause": {
                "cause": "event",
                "kind": "scene.loitering",
                "phase": "begin",
                "where": _points(("loading-bay", "Loading bay")),
            },
            "provided": _field("confidence", "at_least", 45),
            "hours": {"hours": _ref("nursery-hours", "nursery hours"), "inside": False},
            "response": [
                {
                    "do": "alarm",
                    "priority": "critical",
                    "title": "Somebody lingers in the loading bay",
                    "instruction": "1. Watch their hands and bags.\n2. Speak to them over the yard speaker.\n3. If they stay for a minute, ring the duty manager.",
                    "groups": [NURSERY_OPERATORS, NURSERY_DUTY],
                    "note_required": True,
                    "sound": "urgent",
                },
                {
                    "do": "bookmark",
                    "title": "Lingering in the bay",
                    "before": 20,
                    "beyond": 40,
                    "tags": ["yard", "lingering"],
                },
                {"do": "popup", "groups": [NURSERY_OPERATORS, NURSERY_DUTY], "seconds": 60},
            ],
        },
    ),
    (
        "yard-gate-open",
        NURSERY,
        {
            "name": "Yard gate held open",
            "purpose": "Deliveries",
            "cause": {
                "cause": "lasting",
                "kind": "input.active",
                "seconds": 4,
                "where": _points(("yard-gate", "Yard gate contact")),
            },
            "hold_off": {"seconds": 600, "per": "point"},
            "response": [
                {"do": "bookmark", "title": "Gate open for a vehicle", "before": 15, "beyond": 15, "tags": ["delivery"]}
            ],
        },
    ),
    (
        "yard-lost",
        NURSERY,
        {
            "name": "The nursery camera is out of reach",
            "purpose": "Keeping it running",
            "cause": {"cause": "lasting", "kind": "device.lost", "seconds": 20, "where": {"point_kinds": ["camera"]}},
            "response": [
                {
                    "do": "alarm",
                    "priority": "medium",
                    "title": "{point} is out of reach",
                    "instruction": "Look at Sources for the reason. The plug behind the potting bench comes loose.",
                    "groups": [NURSERY_OPERATORS, NURSERY_DUTY],
                }
            ],
        },
    ),
)

#: What the garden's operators write when they answer an alarm of a rule: (note, tags).
ANSWERS: dict[str, tuple[tuple[str, tuple[str, ...]], ...]] = {
    "jetty-closed": (
        ("A visitor went past the chain to look at the geese; called back, came at once.", ("visitor",)),
        ("Two walkers with a camera; told them the boards are slippery.", ("visitor",)),
        ("The lake warden, checking the rails.", ("staff",)),
        ("A goose, taken for a person.", ("false", "geese")),
        ("Somebody after their hat; back on the path after a minute.", ("visitor",)),
    ),
    "gate-night": (
        ("Fox under the gate, seen on the picture.", ("false", "fox")),
        ("The early shift, let in by the patrol.", ("staff",)),
        ("", ("checked",)),
    ),
    "yard-night": (
        ("Late courier, turned round at the shut bay.", ("courier",)),
        ("Somebody on foot; spoken to, left again.", ("stranger",)),
    ),
    "yard-linger": (
        ("Waiting for a lift out of the rain; asked to wait at the road.", ("stranger",)),
        ("Looked into the bins, left when spoken to. Duty manager told.", ("stranger", "told duty manager")),
    ),
    "yard-lost": (("Plug behind the potting bench again; pushed back in.", ("power",)),),
    "camera-lost": (("Switch in the lodge was restarted.", ("network",)),),
    "gate-help": (("Wheelchair ramp wanted; kiosk opened the side gate.", ("visitor",)),),
}
