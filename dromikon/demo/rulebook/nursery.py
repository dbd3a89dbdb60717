"""The Nursery Yard across the road."""

from dromikon.demo.quillmere import NURSERY
from dromikon.demo.rulebook.parts import NURSERY_DUTY, NURSERY_OPERATORS, Rule, deter, every, field, points, ref, still

RULES: tuple[Rule, ...] = (
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
                "where": points(("yard-gate-line", "Yard gate line")),
            },
            "provided": every(field("class", "one_of", ["human", "vehicle"]), field("direction", "is", "in")),
            "hours": {"hours": ref("nursery-hours", "nursery hours"), "inside": False},
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
                "where": points(("loading-bay", "Loading bay")),
            },
            "provided": field("confidence", "at_least", 45),
            "hours": {"hours": ref("nursery-hours", "nursery hours"), "inside": False},
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
                {
                    "do": "signal",
                    "target": {"point": ref("yard-siren", "Yard siren")},
                    "signal": "light alone",
                    "lasts": "held",
                    "held": "state",
                    "after": 10,
                },
                deter(
                    "yard-siren",
                    "Yard siren",
                    after=30,
                    provided=still("scene.loitering", "loading-bay", "Loading bay"),
                ),
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
                "where": points(("yard-gate", "Yard gate contact")),
            },
            "hold_off": {"seconds": 600, "per": "point"},
            "response": [
                {"do": "bookmark", "title": "Gate open for a vehicle", "before": 15, "beyond": 15, "tags": ["delivery"]}
            ],
        },
    ),
    (
        "yard-bay-long",
        NURSERY,
        {
            "name": "A van stands in the bay for long",
            "purpose": "Deliveries",
            "cause": {
                "cause": "lasting",
                "kind": "scene.occupied",
                "seconds": 240,
                "where": points(("yard-bay", "Bay by the wall")),
            },
            "response": [
                {
                    "do": "notice",
                    "text": "{point} has been taken for four minutes",
                    "groups": [NURSERY_OPERATORS],
                    "seconds": 60,
                },
                {"do": "line", "text": "A van stood in the bay for longer than four minutes."},
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
