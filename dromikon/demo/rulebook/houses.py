"""The houses: water, heat, smoke, and how many are in."""

from dromikon.demo.quillmere import GARDENS
from dromikon.demo.rulebook.parts import DUTY, OPERATORS, Rule, alarm, bookmark, points, ref

RULES: tuple[Rule, ...] = (
    (
        "uplink-down",
        GARDENS,
        {
            "name": "The lodge's uplink is down",
            "purpose": "Upkeep",
            "cause": {
                "cause": "lasting",
                "kind": "input.active",
                "seconds": 30,
                "where": points(("uplink", "Uplink of the lodge")),
            },
            "response": [
                {
                    "do": "notice",
                    "text": "The lodge's uplink is down: cameras may be late",
                    "groups": [OPERATORS],
                    "seconds": 60,
                },
                {"do": "line", "text": "The lodge's uplink is up again.", "anchor": "end"},
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
                "where": points(("leak", "Leak sensor")),
            },
            "again": "ignore",
            "response": [
                alarm(
                    "high",
                    "Water in the pump room",
                    "The valve shuts by itself; look whether its red lamp is on. If not: the red wheel, by hand.",
                    sound="call",
                ),
                {"do": "relay", "target": {"point": ref("shut-off", "Shut-off valve")}, "held": 120},
                {
                    "do": "push",
                    "title": "Water in the pump room",
                    "text": "{point} has been wet for ten seconds; the valve shuts.",
                    "groups": [OPERATORS],
                },
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
                "what": {"kind": "input.active", "phase": "begin", "where": points(("leak", "Leak sensor"))},
                "times": 6,
                "within": 120,
                "join": {"per": "point"},
            },
            "hold_off": {"seconds": 3600, "per": "point", "then": "sum"},
            "response": [
                alarm(
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
                "where": points(("palm-door", "Palm house door")),
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
                alarm(
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
                "where": points(("palm-count", "People in the palm house")),
            },
            "response": [
                alarm(
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
                alarm(
                    "critical",
                    "Fire panel: {point}",
                    "1. Follow the fire plan.\n2. Open the palm house doors.\n3. Meet the brigade at the visitor gate.\nOn Fridays at half past ten the panel is tested.",
                    note_required=True,
                    sound="urgent",
                ),
                {"do": "record", "before": 60, "beyond": 300, "cameras": {"point": ref("gate", "Visitor gate")}},
                {
                    "do": "door",
                    "target": {"point": ref("palm-door", "Palm house door")},
                    "set": "unlock",
                    "held": "state",
                },
                {
                    "do": "call",
                    "text": "The fire panel reports the palm house. Nobody at the desks has answered.",
                    "groups": [DUTY],
                    "anchor": "unanswered",
                    "after": 60,
                    "urgent": True,
                },
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
                        "where": {"areas": [ref("boiler-house", "Boiler House")]},
                    },
                    {
                        "cause": "level",
                        "kind": "scene.temperature",
                        "way": "rate",
                        "value": 4,
                        "where": {"areas": [ref("boiler-house", "Boiler House")]},
                    },
                ],
            },
            "hold_off": {"seconds": 3600, "per": "point", "then": "join"},
            "response": [
                alarm(
                    "high",
                    "{point} measures {value|round} °C",
                    "Ring the boiler man. Above 95 °C switch the burner off at the door.",
                    sound="call",
                )
            ],
        },
    ),
    (
        "flue-apart",
        GARDENS,
        {
            "name": "The flue is far hotter than the pump",
            "purpose": "Houses",
            "cause": {
                "cause": "apart",
                "kind": "scene.temperature",
                "first": ref("boiler-flue", "Boiler flue"),
                "second": ref("boiler-pump", "Heating pump"),
                "value": 45,
                "hysteresis": 5,
                "held": 300,
                "fresh": 1800,
            },
            "hold_off": {"seconds": 3600, "per": "rule"},
            "response": [
                {
                    "do": "notice",
                    "text": "The heat of the flue does not get to the pump",
                    "groups": [OPERATORS],
                    "seconds": 60,
                },
                bookmark("Flue {value|round} °C", 30, 60, "boiler"),
            ],
        },
    ),
    (
        "palm-run",
        GARDENS,
        {
            "name": "Somebody runs in the palm house",
            "purpose": "Houses",
            "cause": {
                "cause": "event",
                "kind": "scene.running",
                "phase": "pulse",
                "where": points(("palm-walk", "Walk round the palm bed")),
            },
            "hold_off": {"seconds": 120, "per": "rule"},
            "response": [
                {"do": "notice", "text": "Somebody runs in the palm house", "groups": [OPERATORS], "seconds": 30},
                bookmark("Running, {point}", 10, 20, "running"),
            ],
        },
    ),
)
