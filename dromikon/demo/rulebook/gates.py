"""Who comes to the gates, on foot and by vehicle."""

from dromikon.demo.quillmere import GARDENS
from dromikon.demo.rulebook.parts import (
    DUTY,
    GROUND_STAFF,
    OPERATORS,
    Rule,
    alarm,
    among,
    bookmark,
    every,
    field,
    points,
    ref,
)

#: Who is inside, as rules count it.
VISITORS = ref("visitors", "Visitors inside")

RULES: tuple[Rule, ...] = (
    (
        "turnstile-climbed",
        GARDENS,
        {
            "name": "Turnstile climbed over",
            "purpose": "Visitors",
            "cause": {
                "cause": "event",
                "kind": "door.forced",
                "phase": "pulse",
                "where": points(("turnstile", "Turnstile")),
            },
            "hold_off": {"seconds": 60, "per": "point"},
            "response": [
                alarm(
                    "low",
                    "Turnstile climbed over",
                    "Look who it is. Children are sent to the till; by night the patrol goes.",
                    sound="chime",
                ),
                bookmark("Turnstile climbed over", 10, 20, "gate"),
            ],
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
                "where": points(("gate-line", "Gate line")),
            },
            "provided": field("class", "one_of", ["human", "vehicle"]),
            "hours": {"hours": ref("staff-hours", "staff hours"), "inside": False},
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
                    "where": points(("gate-line", "Gate line")),
                    "provided": field("class", "is", "human"),
                },
                "times": 8,
                "within": 60,
                "join": {"per": "point"},
            },
            "hours": {"hours": ref("garden-hours", "garden hours")},
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
        "gate-help",
        GARDENS,
        {
            "name": "Help at the gate",
            "purpose": "Visitors",
            "cause": {"cause": "button", "where": points(("gate-help", "Help at gate"))},
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
                {
                    "do": "popup",
                    "groups": [OPERATORS, DUTY],
                    "displays": [ref("lodge-spot", "Lodge spot")],
                    "priority": "high",
                    "seconds": 120,
                },
                {"do": "bookmark", "title": "Help at the gate", "before": 30, "beyond": 60, "tags": ["help"]},
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
                    "where": points(("gate-line", "Gate line"), ("jetty-line", "Jetty line")),
                    "provided": field("class", "one_of", ["human", "vehicle"]),
                },
                "places": 2,
                "within": 300,
            },
            "hours": {"hours": ref("staff-hours", "staff hours"), "inside": False},
            "hold_off": {"seconds": 900, "per": "rule"},
            "response": [{"do": "line", "text": "Movement at the gate and at the jetty within five minutes."}],
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
                "first": {"kind": "call.rung", "phase": "pulse", "where": points(("wicket", "Staff wicket"))},
                "then": {"kind": "call.answered", "phase": "pulse", "where": points(("wicket", "Staff wicket"))},
                "within": 30,
                "join": {"per": "point"},
            },
            "response": [
                alarm(
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
                "where": points(("service-plates", "Plate reader")),
            },
            "provided": every(
                among("plate", "staff-plates", "staff plates", False),
                among("plate", "delivery-firms", "delivery firms", False),
            ),
            "hours": {"hours": ref("staff-hours", "staff hours"), "inside": False},
            "hold_off": {"seconds": 600, "per": "field", "field": "plate"},
            "response": [
                alarm(
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
                "where": points(("service-plates", "Plate reader")),
            },
            "provided": every(among("plate", "delivery-firms", "delivery firms"), field("direction", "is", "in")),
            "response": [
                {"do": "counter", "counter": ref("deliveries", "Deliveries today")},
                {"do": "notice", "text": "{listed} at the service gate", "groups": [OPERATORS], "seconds": 60},
                {"do": "line", "text": "{listed} delivered ({plate})."},
                {"do": "chat", "room": GROUND_STAFF, "text": "{listed} is at the service gate ({time})."},
            ],
        },
    ),
    (
        "gate-bag",
        GARDENS,
        {
            "name": "Something is left at the gate",
            "purpose": "Visitors",
            "cause": {
                "cause": "event",
                "kind": "scene.left_behind",
                "phase": "begin",
                "where": points(("gate-things", "Things left at the gate")),
            },
            "response": [
                {"do": "notice", "text": "Something was left: {point}", "groups": [OPERATORS], "seconds": 60},
                {"do": "popup", "groups": [OPERATORS], "seconds": 60},
                {
                    "do": "bookmark",
                    "title": "Left behind, {point}",
                    "before": 45,
                    "beyond": 30,
                    "tags": ["left behind"],
                },
            ],
        },
    ),
    (
        "visitors-inside",
        GARDENS,
        {
            "name": "Count the visitors who are inside",
            "purpose": "Visitors",
            "cause": {
                "cause": "event",
                "kind": "scene.line_crossed",
                "phase": "pulse",
                "where": points(("gate-line", "Gate line")),
            },
            "provided": field("class", "is", "human"),
            "response": [
                {
                    "do": "counter",
                    "counter": VISITORS,
                    "change": change,
                    "provided": field("direction", "is", way),
                }
                for change, way in (("up", "in"), ("down", "out"))
            ],
        },
    ),
    (
        "garden-full",
        GARDENS,
        {
            "name": "Many visitors inside",
            "purpose": "Visitors",
            "cause": {"cause": "limit", "counter": VISITORS, "value": 60},
            "response": [
                {
                    "do": "notice",
                    "text": "{value|round} visitors are inside: open the second till",
                    "groups": [OPERATORS],
                    "seconds": 60,
                }
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
                "where": points(("service-plates", "Plate reader")),
            },
            "provided": every(
                among("plate", "delivery-firms", "delivery firms"),
                {"test": "counter", "counter": ref("deliveries", "Deliveries today"), "value": 3},
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
                {"do": "counter", "counter": counter, "change": "set", "by": 0}
                for counter in (ref("deliveries", "Deliveries today"), VISITORS)
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
                "cause": {"cause": "at", "at": at, "offset": offset, "hours": ref("garden-hours", "garden hours")},
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
)
