"""The rules of Quillmere Gardens, and what its operators write when they answer."""

from typing import Any

from dromikon import config
from dromikon.demo.quillmere import GARDENS, NURSERY


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
JETTY_LINE, VAULT_DOOR = ("jetty-line", "Jetty line"), ("vault-door", "Vault door")


def _in(field: str, id: str, name: str, listed: bool = True) -> dict[str, Any]:
    """In a list of plates or not, one misread character being tolerated."""
    return {"test": "list", "field": field, "among": _ref(id, name), "listed": listed, "how": "tolerant", "errors": 1}


def _alarm(priority: str, title: str, instruction: str, **more: Any) -> dict[str, Any]:
    groups = [OPERATORS, DUTY]
    return {"do": "alarm", "priority": priority, "title": title, "instruction": instruction, "groups": groups, **more}


def _bookmark(title: str, before: float, beyond: float, *tags: str) -> dict[str, Any]:
    return {"do": "bookmark", "title": title, "before": before, "beyond": beyond, "tags": list(tags)}


#: The stand-in that keeps what webhooks deliver.
SINK = f"http://127.0.0.1:{config.standins_port()}/sink"

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
            "hours": {"hours": _ref("dark", "the dark")},
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
        "both-ends",
        GARDENS,
        {
            "name": "Movement at both ends by night",
            "purpose": "After hours",
            "cause": {
                "cause": "roaming",
                "what": {
                    "kind": "scene.line_crossed",
                    "phase": "pulse",
                    "where": _points(("gate-line", "Gate line"), ("jetty-line", "Jetty line")),
                    "provided": _field("class", "one_of", ["human", "vehicle"]),
                },
                "places": 2,
                "within": 300,
            },
            "hours": {"hours": _ref("staff-hours", "staff hours"), "inside": False},
            "hold_off": {"seconds": 900, "per": "rule"},
            "response": [{"do": "line", "text": "Movement at the gate and at the jetty within five minutes."}],
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
        "jetty-not-back",
        GARDENS,
        {
            "name": "Out on the jetty and not back",
            "purpose": "Safety by the water",
            "cause": {
                "cause": "missing",
                "first": {
                    "kind": "scene.line_crossed",
                    "phase": "pulse",
                    "where": _points(JETTY_LINE),
                    "provided": _all(_field("class", "is", "human"), _field("direction", "is", "in")),
                },
                "then": {
                    "kind": "scene.line_crossed",
                    "phase": "pulse",
                    "where": _points(JETTY_LINE),
                    "provided": _field("direction", "is", "out"),
                },
                "within": 100,
                "join": {"per": "point"},
            },
            "hold_off": {"seconds": 600, "per": "point", "then": "join"},
            "response": [
                _alarm(
                    "critical",
                    "Nobody came back from the jetty",
                    "Somebody went out and has not come back.\n1. Look whether they are still standing there.\n2. If you cannot see them, send the lake warden and ring the rescue station.",
                    note_required=True,
                    sound="urgent",
                ),
                _bookmark("Out on the jetty", 10, 110, "jetty", "safety"),
                {"do": "record", "before": 30, "beyond": 240},
            ],
            "stop": {"on_acknowledged": True},
        },
    ),
    (
        "jetty-visit",
        GARDENS,
        {
            "name": "A visit to the jetty end",
            "purpose": "Safety by the water",
            "cause": {
                "cause": "order",
                "of": [
                    {
                        "kind": "scene.line_crossed",
                        "phase": "pulse",
                        "where": _points(JETTY_LINE),
                        "provided": _all(_field("class", "is", "human"), _field("direction", "is", way)),
                    }
                    for way in ("in", "out")
                ],
                "within": 300,
                "join": {"per": "point"},
            },
            "response": [{"do": "line", "text": "Somebody was out on the jetty and came back."}],
        },
    ),
    (
        "gale",
        GARDENS,
        {
            "name": "A gale over the lake",
            "purpose": "Safety by the water",
            "cause": {
                "cause": "level",
                "way": "up",
                "value": 14,
                "hysteresis": 3,
                "held": 30,
                "where": _points(("wind", "Wind at the boathouse")),
            },
            "again": "ignore",
            "response": [
                {"do": "relay", "target": {"point": _ref("storm-light", "Storm light")}, "held": "state"},
                {"do": "derive", "name": "gale", "text": "{value|round} m/s at {time}"},
                {"do": "line", "text": "The wind has gone down again.", "anchor": "end"},
            ],
        },
    ),
    (
        "gale-close",
        GARDENS,
        {
            "name": "Clear the lake path in a gale",
            "purpose": "Safety by the water",
            "cause": {
                "cause": "event",
                "kind": "rule.raised",
                "phase": "pulse",
                "where": _points(("wind", "Wind at the boathouse")),
            },
            "provided": _all(_field("name", "is", "gale"), {"test": "mode", "modes": ["open", "closing round"]}),
            "response": [
                _alarm(
                    "medium",
                    "Gale: clear the lake path ({text})",
                    "Call the lake warden. Branches come down by the boathouse from 14 m/s on.",
                ),
                {
                    "do": "notice",
                    "text": "Gale at the lake: {text}",
                    "groups": [DUTY],
                    "anchor": "unanswered",
                    "after": 180,
                },
            ],
        },
    ),
    (
        "gate-rush",
        GARDENS,
        {
            "name": "A rush at the visitor gate",
            "purpose": "Visitors",
            "cause": {
                "cause": "repeated",
                "what": {
                    "kind": "scene.line_crossed",
                    "phase": "pulse",
                    "where": _points(("gate-line", "Gate line")),
                    "provided": _field("class", "is", "human"),
                },
                "times": 8,
                "within": 60,
                "join": {"per": "point"},
            },
            "hours": {"hours": _ref("garden-hours", "garden hours")},
            "hold_off": {"seconds": 1800, "per": "rule", "then": "sum"},
            "response": [
                {
                    "do": "notice",
                    "text": "Many people at the visitor gate: open the second till",
                    "groups": [OPERATORS],
                    "seconds": 60,
                },
                {"do": "snapshot", "moments": [-20, 0]},
            ],
        },
    ),
    (
        "wicket-call",
        GARDENS,
        {
            "name": "Nobody answers at the staff wicket",
            "purpose": "Visitors",
            "cause": {
                "cause": "missing",
                "first": {"kind": "call.rung", "phase": "pulse", "where": _points(("wicket", "Staff wicket"))},
                "then": {"kind": "call.answered", "phase": "pulse", "where": _points(("wicket", "Staff wicket"))},
                "within": 30,
                "join": {"per": "point"},
            },
            "response": [
                _alarm(
                    "medium",
                    "Nobody answers at the staff wicket",
                    "Ring back (extension 30). Behind the door is the compost yard; let nobody in unseen.",
                    sound="call",
                ),
                {
                    "do": "line",
                    "text": "A caller at the wicket waited for three minutes.",
                    "anchor": "unanswered",
                    "after": 180,
                },
            ],
        },
    ),
    (
        "plate-unknown",
        GARDENS,
        {
            "name": "Unknown plate out of hours",
            "purpose": "After hours",
            "cause": {
                "cause": "event",
                "kind": "plate.read",
                "phase": "pulse",
                "where": _points(("service-plates", "Plate reader")),
            },
            "provided": _all(
                _in("plate", "staff-plates", "staff plates", False),
                _in("plate", "delivery-firms", "delivery firms", False),
            ),
            "hours": {"hours": _ref("staff-hours", "staff hours"), "inside": False},
            "hold_off": {"seconds": 600, "per": "field", "field": "plate"},
            "response": [
                _alarm(
                    "medium",
                    "Unknown plate {plate} at the service gate",
                    "The barrier stays down. Look who it is; the compost firm comes by day only.",
                    sound="call",
                )
            ],
        },
    ),
    (
        "delivery",
        GARDENS,
        {
            "name": "A delivery arrives",
            "purpose": "Deliveries",
            "cause": {
                "cause": "event",
                "kind": "plate.read",
                "phase": "pulse",
                "where": _points(("service-plates", "Plate reader")),
            },
            "provided": _all(_in("plate", "delivery-firms", "delivery firms"), _field("direction", "is", "in")),
            "response": [
                {"do": "counter", "counter": _ref("deliveries", "Deliveries today")},
                {"do": "notice", "text": "{listed} at the service gate", "groups": [OPERATORS], "seconds": 60},
                {"do": "line", "text": "{listed} delivered ({plate})."},
            ],
        },
    ),
    (
        "many-deliveries",
        GARDENS,
        {
            "name": "More deliveries than the yard can take",
            "purpose": "Deliveries",
            "cause": {
                "cause": "event",
                "kind": "plate.read",
                "phase": "pulse",
                "where": _points(("service-plates", "Plate reader")),
            },
            "provided": _all(
                _in("plate", "delivery-firms", "delivery firms"),
                {"test": "counter", "counter": _ref("deliveries", "Deliveries today"), "value": 3},
            ),
            "hold_off": {"seconds": 7200, "per": "rule"},
            "response": [
                {
                    "do": "notice",
                    "text": "The fourth delivery today: send it round to the nursery",
                    "groups": [OPERATORS, DUTY],
                    "seconds": 120,
                }
            ],
        },
    ),
    (
        "midnight",
        GARDENS,
        {
            "name": "Count deliveries anew each day",
            "purpose": "Keeping it running",
            "cause": {"cause": "at", "time": "00:00"},
            "response": [
                {"do": "counter", "counter": _ref("deliveries", "Deliveries today"), "change": "set", "by": 0}
            ],
        },
    ),
    *(
        (
            f"mode-{id}",
            GARDENS,
            {
                "name": name,
                "purpose": "The day",
                "cause": {"cause": "at", "at": at, "offset": offset, "hours": _ref("garden-hours", "garden hours")},
                "response": [{"do": "mode", "mode": mode}, *more],
            },
        )
        for id, name, at, offset, mode, more in (
            ("open", "The garden opens", "start", 0, "open", []),
            (
                "round",
                "The closing round begins",
                "end",
                -15,
                "closing round",
                [
                    {
                        "do": "notice",
                        "text": "Closing round: walk the lake path first",
                        "groups": [OPERATORS, DUTY],
                        "seconds": 300,
                    }
                ],
            ),
            ("closed", "The garden closes", "end", 0, "closed", []),
        )
    ),
    (
        "vault-forced",
        GARDENS,
        {
            "name": "The vault door is forced",
            "purpose": "Seed vault",
            "cause": {"cause": "event", "kind": "door.forced", "phase": "pulse", "where": _points(VAULT_DOOR)},
            "hold_off": {"seconds": 120, "per": "point", "then": "join"},
            "response": [
                _alarm(
                    "critical",
                    "Forced: {point}",
                    "1. Do not go alone.\n2. Ring the duty manager, then the police.\n3. Watch the visitor gate for somebody leaving.",
                    note_required=True,
                    sound="urgent",
                ),
                {
                    "do": "popup",
                    "groups": [OPERATORS, DUTY],
                    "seconds": 180,
                    "cameras": {"point": _ref("gate", "Visitor gate")},
                },
                {"do": "record", "before": 120, "beyond": 600, "cameras": {"point": _ref("gate", "Visitor gate")}},
                {"do": "webhook", "url": SINK, "text": "Forced: {point}, {date} {time}"},
                {
                    "do": "text",
                    "text": "{point} forced at {time}, nobody has answered",
                    "groups": [DUTY],
                    "anchor": "unanswered",
                    "after": 120,
                },
                {
                    "do": "notice",
                    "text": "Nobody has answered: {point} forced",
                    "groups": [DUTY],
                    "anchor": "unanswered",
                    "after": 60,
                    "times": 3,
                    "gap": 60,
                },
            ],
        },
    ),
    (
        "vault-no-card",
        GARDENS,
        {
            "name": "The vault opens without a card",
            "purpose": "Seed vault",
            "cause": {"cause": "event", "kind": "door.open", "phase": "begin", "where": _points(VAULT_DOOR)},
            "provided": _all(
                {"test": "since", "kind": "access.granted", "seconds": 15, "within": False},
                {"test": "since", "kind": "door.forced", "seconds": 15, "within": False},
            ),
            "response": [
                _alarm(
                    "high",
                    "{point} opened without a card",
                    "Somebody may have held the door for somebody else. Ask who went in.",
                    note_required=True,
                )
            ],
        },
    ),
    (
        "vault-entered",
        GARDENS,
        {
            "name": "Face and card agree",
            "purpose": "Seed vault",
            "cause": {
                "cause": "together",
                "of": [
                    {
                        "kind": "face.seen",
                        "phase": "pulse",
                        "where": _points(("vault-face", "Vault face detector")),
                        "provided": {
                            "test": "list",
                            "field": "template",
                            "among": _ref("garden-staff", "garden staff"),
                            "how": "similar",
                            "similarity": 80,
                        },
                    },
                    {"kind": "access.granted", "phase": "pulse", "where": _points(VAULT_DOOR)},
                ],
                "within": 20,
                "join": {"per": "area"},
            },
            "response": [{"do": "line", "text": "{person} went into the vault; face and card agree."}],
        },
    ),
    (
        "vault-excluded",
        GARDENS,
        {
            "name": "An excluded person at the vault",
            "purpose": "Seed vault",
            "cause": {
                "cause": "event",
                "kind": "face.seen",
                "phase": "pulse",
                "where": _points(("vault-face", "Vault face detector")),
            },
            "provided": {
                "test": "list",
                "field": "template",
                "among": _ref("excluded-persons", "excluded persons"),
                "how": "similar",
                "similarity": 80,
            },
            "hold_off": {"seconds": 600, "per": "point", "then": "join"},
            "response": [
                _alarm(
                    "high",
                    "Looks like {listed}",
                    "Compare the pictures yourself before you speak to anybody. Go in company.",
                    note_required=True,
                    sound="call",
                )
            ],
        },
    ),
    (
        "freezer-warm",
        GARDENS,
        {
            "name": "The seed freezer is getting warm",
            "purpose": "Seed vault",
            "cause": {
                "cause": "level",
                "way": "up",
                "value": -17,
                "hysteresis": 2,
                "held": 60,
                "where": _points(("freezer-temp", "Freezer temperature")),
            },
            "response": [
                _alarm(
                    "high",
                    "Seed freezer at {value|round} °C",
                    "Look whether its door stands ajar. Below -15 °C the seeds are safe for two hours.",
                    sound="call",
                ),
                {
                    "do": "notice",
                    "text": "The seed freezer is still warm and nobody has answered",
                    "groups": [DUTY],
                    "anchor": "unanswered",
                    "after": 300,
                },
                {"do": "line", "text": "The seed freezer is cold again.", "anchor": "end"},
            ],
        },
    ),
    (
        "leak",
        GARDENS,
        {
            "name": "Water in the pump room",
            "purpose": "Houses",
            "cause": {
                "cause": "lasting",
                "kind": "input.active",
                "seconds": 10,
                "where": _points(("leak", "Leak sensor")),
            },
            "again": "ignore",
            "response": [
                _alarm(
                    "high",
                    "Water in the pump room",
                    "Shut the lake valve by hand (red wheel), then look.",
                    sound="call",
                )
            ],
            "stop": {"on_end": True},
        },
    ),
    (
        "leak-chatters",
        GARDENS,
        {
            "name": "The leak sensor chatters",
            "purpose": "Keeping it running",
            "cause": {
                "cause": "repeated",
                "what": {"kind": "input.active", "phase": "begin", "where": _points(("leak", "Leak sensor"))},
                "times": 6,
                "within": 120,
                "join": {"per": "point"},
            },
            "hold_off": {"seconds": 3600, "per": "point", "then": "sum"},
            "response": [
                _alarm(
                    "low",
                    "The leak sensor chatters",
                    "Condensation, most likely. Wipe it dry at the next round.",
                    sound="none",
                )
            ],
        },
    ),
    (
        "palm-door",
        GARDENS,
        {
            "name": "The palm house door is held open",
            "purpose": "Houses",
            "cause": {
                "cause": "event",
                "kind": "door.held_open",
                "phase": "begin",
                "where": _points(("palm-door", "Palm house door")),
            },
            "response": [
                {
                    "do": "notice",
                    "text": "The palm house door stands open",
                    "groups": [OPERATORS],
                    "seconds": 120,
                    "times": 3,
                    "gap": 300,
                },
                _alarm(
                    "low",
                    "The palm house has been open for ten minutes",
                    "The palms do not like it. Ask the delivery to close it.",
                    after=600,
                    sound="chime",
                ),
                {"do": "line", "text": "The palm house door is shut again.", "anchor": "end"},
            ],
            "stop": {"on_end": True},
        },
    ),
    (
        "palm-full",
        GARDENS,
        {
            "name": "The palm house is full",
            "purpose": "Houses",
            "cause": {
                "cause": "level",
                "kind": "scene.count",
                "way": "up",
                "value": 120,
                "hysteresis": 15,
                "where": _points(("palm-count", "People in the palm house")),
            },
            "response": [
                _alarm(
                    "medium",
                    "{value|round} people in the palm house",
                    "At most 120 may be inside. Ask the door to let nobody in for now.",
                ),
                {
                    "do": "notice",
                    "text": "There is room in the palm house again",
                    "groups": [OPERATORS],
                    "anchor": "end",
                },
            ],
        },
    ),
    (
        "fire-panel",
        GARDENS,
        {
            "name": "The fire panel reports the palm house",
            "purpose": "Houses",
            "cause": {"cause": "event", "kind": "input.active", "phase": "begin", "where": {"tags": ["fire"]}},
            "provided": {"test": "not", "of": {"test": "mode", "modes": ["works"]}},
            "response": [
                _alarm(
                    "critical",
                    "Fire panel: {point}",
                    "1. Follow the fire plan.\n2. Open the palm house doors.\n3. Meet the brigade at the visitor gate.\nOn Fridays at half past ten the panel is tested.",
                    note_required=True,
                    sound="urgent",
                ),
                {"do": "record", "before": 60, "beyond": 300, "cameras": {"point": _ref("gate", "Visitor gate")}},
            ],
        },
    ),
    (
        "boiler-hot",
        GARDENS,
        {
            "name": "The boiler house gets hot",
            "purpose": "Houses",
            "cause": {
                "cause": "any",
                "of": [
                    {
                        "cause": "level",
                        "kind": "scene.temperature",
                        "way": "up",
                        "value": 85,
                        "hysteresis": 5,
                        "where": {"areas": [_ref("boiler-house", "Boiler House")]},
                    },
                    {
                        "cause": "level",
                        "kind": "scene.temperature",
                        "way": "rate",
                        "value": 4,
                        "where": {"areas": [_ref("boiler-house", "Boiler House")]},
                    },
                ],
            },
            "hold_off": {"seconds": 3600, "per": "point", "then": "join"},
            "response": [
                _alarm(
                    "high",
                    "{point} measures {value|round} °C",
                    "Ring the boiler man. Above 95 °C switch the burner off at the door.",
                    sound="call",
                )
            ],
        },
    ),
    (
        "expired-unsent",
        GARDENS,
        {
            "name": "A step could not be sent in time",
            "purpose": "Keeping it running",
            "cause": {"cause": "event", "kind": "step.expired", "phase": "pulse", "where": {"everywhere": True}},
            "hold_off": {"seconds": 600, "per": "field", "field": "by_rule", "then": "join"},
            "response": [
                _alarm(
                    "high",
                    "{by_rule}: {step} was not sent",
                    "1. Do by hand what it should have done.\n2. Look in the Daybook for the reason.",
                )
            ],
        },
    ),
    (
        "on-battery",
        GARDENS,
        {
            "name": "The pump room runs on battery",
            "purpose": "Keeping it running",
            "cause": {
                "cause": "lasting",
                "kind": "power.on_battery",
                "seconds": 15,
                "where": {"point_kinds": ["power"]},
            },
            "response": [
                _alarm(
                    "medium",
                    "{point} runs on battery",
                    "Look whether the lodge is dark too. The pumps stop in half an hour.",
                ),
                {"do": "line", "text": "{point}: mains are back.", "anchor": "end"},
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
    "jetty-not-back": (
        ("Still standing at the end, drawing. Told them we close at four.", ("visitor",)),
        ("Sat down behind the rail where the camera does not see; all well.", ("visitor",)),
    ),
    "gale-close": (("Path cleared, warden walked it.", ("weather",)),),
    "wicket-call": (
        ("Called back: the post, left at the kiosk.", ("post",)),
        ("Gone when I looked.", ()),
        ("New volunteer at the wrong door.", ("staff",)),
    ),
    "plate-unknown": (
        ("Turned round in the lane.", ("stranger",)),
        ("Satellite navigation; sent to the visitor gate.", ("lost",)),
    ),
    "vault-no-card": (
        ("Bertil held the door for Clio. Reminded both.", ("staff",)),
        ("Trolley in both hands; card shown afterwards.", ("staff",)),
    ),
    "vault-excluded": (
        ("It was Agnes's brother, not him.", ("false",)),
        ("Yes. Walked on when he saw the camera; duty manager told.", ("told duty manager",)),
    ),
    "leak-chatters": (("Condensation, wiped dry.", ("condensation",)),),
    "palm-door": (("Pot delivery; wedge taken away.", ("delivery",)),),
    "palm-full": (("Door asked to wait; school party leaving.", ("visitors",)),),
    "fire-panel": (("Weekly test.", ("test",)),),
    "boiler-hot": (("Burner ran long after the cold night; boiler man rang back.", ("boiler",)),),
    "on-battery": (("Lake side only, back after a minute.", ("power",)),),
    "gate-help": (("Wheelchair ramp wanted; kiosk opened the side gate.", ("visitor",)),),
}
