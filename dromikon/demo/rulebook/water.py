"""The jetty, the lake and the wind over them."""

from dromikon.demo.quillmere import GARDENS
from dromikon.demo.rulebook.parts import DUTY, JETTY_LINE, OPERATORS, Rule, alarm, bookmark, every, field, points, ref

RULES: tuple[Rule, ...] = (
    (
        "jetty-closed",
        GARDENS,
        {
            "name": "Somebody on the closed jetty",
            "purpose": "Safety by the water",
            "cause": {"cause": "event", "kind": "scene.line_crossed", "phase": "pulse", "where": points(JETTY_LINE)},
            "provided": every(
                field("class", "is", "human"), field("confidence", "at_least", 55), field("direction", "is", "in")
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
                {
                    "do": "popup",
                    "groups": [OPERATORS, DUTY],
                    "displays": [ref("lodge-wall", "Lodge wall"), ref("lodge-spot", "Lodge spot")],
                    "seconds": 45,
                },
                {
                    "do": "announce",
                    "target": {"point": ref("jetty-speaker", "Boathouse speaker")},
                    "sound": "call",
                    "times": 2,
                    "gap": 10,
                },
                {
                    "do": "ptz",
                    "camera": {"point": ref("lake", "Lake")},
                    "preset": "Jetty end",
                    "then": "back",
                    "held": 60,
                    "back": "Heron Island",
                },
            ],
        },
    ),
    (
        "jetty-geese",
        GARDENS,
        {
            "name": "Geese over the jetty",
            "purpose": "Wildlife",
            "cause": {"cause": "event", "kind": "scene.line_crossed", "phase": "pulse", "where": points(JETTY_LINE)},
            "provided": field("class", "is", "animal"),
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
            "cause": {"cause": "event", "kind": "scene.line_crossed", "phase": "pulse", "where": points(JETTY_LINE)},
            "provided": every(field("class", "is", "human"), field("confidence", "at_least", 50)),
            "hours": {"hours": ref("dark", "the dark")},
            "hold_off": {"seconds": 20, "per": "point"},
            "response": [{"do": "relay", "target": {"point": ref("storm-light", "Storm light")}, "held": 40}],
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
                    "where": points(JETTY_LINE),
                    "provided": every(field("class", "is", "human"), field("direction", "is", "in")),
                },
                "then": {
                    "kind": "scene.line_crossed",
                    "phase": "pulse",
                    "where": points(JETTY_LINE),
                    "provided": field("direction", "is", "out"),
                },
                "within": 100,
                "join": {"per": "point"},
            },
            "hold_off": {"seconds": 600, "per": "point", "then": "join"},
            "response": [
                alarm(
                    "critical",
                    "Nobody came back from the jetty",
                    "Somebody went out and has not come back.\n1. Look whether they are still standing there.\n2. If you cannot see them, send the lake warden and ring the rescue station.",
                    note_required=True,
                    sound="urgent",
                ),
                bookmark("Out on the jetty", 10, 110, "jetty", "safety"),
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
                        "where": points(JETTY_LINE),
                        "provided": every(field("class", "is", "human"), field("direction", "is", way)),
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
                "where": points(("wind", "Wind at the boathouse")),
            },
            "again": "ignore",
            "response": [
                {"do": "relay", "target": {"point": ref("storm-light", "Storm light")}, "held": "state"},
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
                "where": points(("wind", "Wind at the boathouse")),
            },
            "provided": every(field("name", "is", "gale"), {"test": "mode", "modes": ["open", "closing round"]}),
            "response": [
                alarm(
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
)
