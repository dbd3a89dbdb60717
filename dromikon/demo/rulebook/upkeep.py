"""What keeps the site running."""

from dromikon.demo.quillmere import GARDENS
from dromikon.demo.rulebook.parts import DUTY, OPERATORS, Rule, alarm

RULES: tuple[Rule, ...] = (
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
                alarm(
                    "medium",
                    "{point} runs on battery",
                    "Look whether the lodge is dark too. The pumps stop in half an hour.",
                ),
                {"do": "line", "text": "{point}: mains are back.", "anchor": "end"},
            ],
        },
    ),
    (
        "nobody-reached",
        GARDENS,
        {
            "name": "Nobody was reached, or a step failed",
            "purpose": "Keeping it running",
            "cause": {
                "cause": "any",
                "of": [
                    {"cause": "event", "kind": kind, "phase": "pulse", "where": {"everywhere": True}}
                    for kind in ("step.unreached", "step.failed")
                ],
            },
            "hold_off": {"seconds": 600, "per": "field", "field": "by_rule", "then": "join"},
            "response": [
                alarm(
                    "high",
                    "{by_rule}: {step}: {reason}",
                    "1. Tell somebody by hand.\n2. Look in Deliveries for the reason.",
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
                alarm(
                    "high",
                    "{by_rule}: {step} was not sent",
                    "1. Do by hand what it should have done.\n2. Look in the Daybook for the reason.",
                )
            ],
        },
    ),
)
