"""The seed vault and its freezer."""

from dromikon.demo.quillmere import GARDENS
from dromikon.demo.rulebook.parts import (
    ARCHIVE,
    DUTY,
    NETWORK,
    OPERATORS,
    SINK,
    VAULT_DOOR,
    Rule,
    alarm,
    bookmark,
    deter,
    every,
    points,
    ref,
    still,
)

RULES: tuple[Rule, ...] = (
    (
        "vault-forced",
        GARDENS,
        {
            "name": "The vault door is forced",
            "purpose": "Seed vault",
            "cause": {"cause": "event", "kind": "door.forced", "phase": "pulse", "where": points(VAULT_DOOR)},
            "hold_off": {"seconds": 120, "per": "point", "then": "join"},
            "response": [
                alarm(
                    "critical",
                    "Forced: {point}",
                    "1. Do not go alone.\n2. Ring the duty manager, then the police.\n3. Watch the visitor gate for somebody leaving.",
                    note_required=True,
                    sound="urgent",
                ),
                {
                    "do": "popup",
                    "groups": [OPERATORS, DUTY],
                    "displays": [ref("lodge-wall", "Lodge wall"), ref("lodge-spot", "Lodge spot")],
                    "priority": "critical",
                    "seconds": 180,
                    "cameras": {"point": ref("gate", "Visitor gate")},
                },
                {"do": "record", "before": 120, "beyond": 600, "cameras": {"point": ref("gate", "Visitor gate")}},
                deter("vault-siren", "Vault siren"),
                deter(
                    "vault-siren",
                    "Vault siren",
                    after=45,
                    provided=still("door.open", *VAULT_DOOR),
                ),
                {"do": "webhook", "url": SINK, "text": "Forced: {point}, {date} {time}"},
                {"do": "snmp", "manager": NETWORK, "text": "Forced: {point}", "severity": "critical"},
                {
                    "do": "mail",
                    "subject": "Forced: {point}",
                    "text": "{point} was forced open at {time} on {date}.\nSeen by: {cameras}.",
                    "groups": [DUTY],
                    "moments": [-2, 0, 3],
                    "urgent": True,
                },
                {"do": "clip", "where": ARCHIVE, "before": 15, "beyond": 30},
                {
                    "do": "summon",
                    "text": "{point} forced at {time}. Please answer the alarm.",
                    "ladder": [{"groups": [OPERATORS]}, {"groups": [DUTY]}],
                    "ways": ["push", "text"],
                    "each": 90,
                    "after": 30,
                },
                {
                    "do": "text",
                    "text": "{point} forced at {time}, nobody has answered",
                    "groups": [DUTY],
                    "anchor": "unanswered",
                    "after": 120,
                    "hours": {"hours": ref("staff-hours", "staff hours"), "inside": False},
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
            "cause": {"cause": "event", "kind": "door.open", "phase": "begin", "where": points(VAULT_DOOR)},
            "provided": every(
                {"test": "since", "kind": "access.granted", "seconds": 15, "within": False},
                {"test": "since", "kind": "door.forced", "seconds": 15, "within": False},
            ),
            "response": [
                alarm(
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
                        "where": points(("vault-face", "Vault face detector")),
                        "provided": {
                            "test": "list",
                            "field": "template",
                            "among": ref("garden-staff", "garden staff"),
                            "how": "similar",
                            "similarity": 80,
                        },
                    },
                    {"kind": "access.granted", "phase": "pulse", "where": points(VAULT_DOOR)},
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
                "where": points(("vault-face", "Vault face detector")),
            },
            "provided": {
                "test": "list",
                "field": "template",
                "among": ref("excluded-persons", "excluded persons"),
                "how": "similar",
                "similarity": 80,
            },
            "hold_off": {"seconds": 600, "per": "point", "then": "join"},
            "response": [
                alarm(
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
                "where": points(("freezer-temp", "Freezer temperature")),
            },
            "response": [
                alarm(
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
        "vault-porch",
        GARDENS,
        {
            "name": "Somebody lingers at the vault by night",
            "purpose": "Seed vault",
            "cause": {
                "cause": "event",
                "kind": "scene.loitering",
                "phase": "begin",
                "where": points(("vault-porch", "Porch of the vault")),
            },
            "hours": {"hours": ref("garden-hours", "garden hours"), "inside": False},
            "hold_off": {"seconds": 300, "per": "point"},
            "response": [
                {"do": "notice", "text": "Somebody lingers: {point}", "groups": [OPERATORS], "seconds": 60},
                {"do": "popup", "groups": [OPERATORS], "seconds": 60},
                bookmark("Lingers, {point}", 30, 40, "lingering"),
            ],
        },
    ),
)
