"""The rules of the tests' own small site. Nothing in them hangs on the hour, the sun or the demo."""

from typing import Any

from dromikon.demo.quillmere import GARDENS, NURSERY

OPERATORS, DUTY = {"id": "operators", "name": "Operators"}, {"id": "duty", "name": "Duty managers"}
NURSERY_OPERATORS = {"id": "nursery-operators", "name": "Nursery operators"}


def happens(kind: str, phase: str = "pulse", **where: Any) -> dict[str, Any]:
    """The cause that something happens somewhere."""
    return {"cause": "event", "kind": kind, "phase": phase, "where": where}


def at(*points: str) -> list[dict[str, str]]:
    return [{"id": point} for point in points]


def field(name: str, op: str, value: Any) -> dict[str, Any]:
    return {"test": "field", "field": name, "op": op, "value": value}


#: id, site, document.
RULES: tuple[tuple[str, str, dict[str, Any]], ...] = (
    (
        "jetty-closed",
        GARDENS,
        {
            "name": "Somebody on the closed jetty",
            "purpose": "Safety by the water",
            "cause": happens("scene.line_crossed", points=[{"id": "jetty-line", "name": "Jetty line"}]),
            "provided": {
                "test": "all",
                "of": [
                    field("class", "is", "human"),
                    field("confidence", "at_least", 55),
                    field("direction", "is", "in"),
                ],
            },
            "hold_off": {"seconds": 60, "per": "point"},
            "response": [
                {
                    "do": "alarm",
                    "priority": "high",
                    "title": "Somebody on the jetty",
                    "instruction": "Call them back.",
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
            "cause": happens("scene.line_crossed", points=at("jetty-line")),
            "provided": field("class", "is", "animal"),
            "hold_off": {"seconds": 600, "per": "rule"},
            "response": [
                {"do": "bookmark", "title": "Geese on the jetty", "before": 5, "beyond": 30, "tags": ["geese"]}
            ],
        },
    ),
    (
        "gate-help",
        GARDENS,
        {
            "name": "Help at the gate",
            "purpose": "Visitors",
            "cause": {"cause": "button", "where": {"points": at("gate-help")}},
            "response": [
                {
                    "do": "alarm",
                    "priority": "critical",
                    "title": "Help wanted at the gate",
                    "instruction": "Watch the gate camera.",
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
                {"do": "alarm", "priority": "medium", "title": "{point} is out of reach", "groups": [OPERATORS, DUTY]}
            ],
        },
    ),
    (
        "vault-forced",
        GARDENS,
        {
            "name": "The vault door is forced",
            "purpose": "Seed vault",
            "cause": happens("door.forced", points=at("vault-door")),
            "hold_off": {"seconds": 120, "per": "point", "then": "join"},
            "response": [
                {
                    "do": "alarm",
                    "priority": "critical",
                    "title": "Forced: {point}",
                    "instruction": "Do not go alone.",
                    "groups": [OPERATORS, DUTY],
                    "note_required": True,
                },
                {"do": "record", "before": 120, "beyond": 600, "cameras": {"point": {"id": "gate"}}},
                {"do": "webhook", "url": "http://127.0.0.1:8100/sink", "text": "Forced: {point}, {date} {time}"},
            ],
        },
    ),
    (
        "yard-night",
        NURSERY,
        {
            "name": "Yard gate passed",
            "purpose": "After hours",
            "cause": happens("scene.line_crossed", points=at("yard-gate-line")),
            "hold_off": {"seconds": 120, "per": "point"},
            "response": [
                {
                    "do": "alarm",
                    "priority": "high",
                    "title": "{class|capital} through the yard gate",
                    "instruction": "Nobody is expected.",
                    "groups": [NURSERY_OPERATORS],
                }
            ],
        },
    ),
)
