"""Who and what there is at Quillmere Gardens, and its rules. Ids are fixed so that links and tests can name them."""

from typing import Any

from dromikon import config
from dromikon.core.point_kinds import PointKind
from dromikon.standins.faces.model import template_of
from dromikon.standins.fieldbus import FREEZER, LEAK, WIND
from dromikon.standins.world.plant.vault import EXCLUDED, STAFF
from dromikon.standins.world.plant.wicket import DELIVERY_PLATES, STAFF_PLATES

PASSWORD = "quillmere-demo"
GATEWAY_TOKEN = "garden-gateway-token"

CUSTOMER = "quillmere"
GARDENS, NURSERY = "quillmere-gardens", "quillmere-nursery"
SITES = ((GARDENS, "Quillmere Gardens"), (NURSERY, "Quillmere Nursery"))
ZONE = "Europe/London"
LATITUDE, LONGITUDE = 54.2, -2.9
MODES = ("open", "closing round", "closed", "works")

#: user name, first name, last name, role at the Gardens, role at the Nursery.
PEOPLE = (
    ("ada", "Ada", "Thornhollow", "administrator", "administrator"),
    ("ines", "Ines", "Falkmere", "integrator", "integrator"),
    ("oskar", "Oskar", "Lindwater", "operator", "operator"),
    ("opal", "Opal", "Reywood", "operator", None),
    ("dara", "Dara", "Quistfield", "duty_manager", "duty_manager"),
    ("vera", "Vera", "Holmgate", "viewer", None),
)

#: Where they can be texted; from the range that is kept for made-up numbers.
NUMBERS = {"oskar": "+447700900214", "opal": "+447700900377", "dara": "+447700900561"}

#: What the gateway for push messages knows them by.
PUSHED = {"oskar": "oskar-lodge", "opal": "opal-gate"}
#: And that for chat messages.
CHATS = {"opal": "opal.reywood", "ines": "ines.falkmere"}

#: id, site, name.
AREAS = (
    ("visitor-gate", GARDENS, "Visitor Gate"),
    ("boathouse", GARDENS, "Boathouse and Lake"),
    ("service-gate", GARDENS, "Service Gate"),
    ("palm-house", GARDENS, "Palm House"),
    ("orchid-house", GARDENS, "Orchid House"),
    ("seed-vault", GARDENS, "Seed Vault"),
    ("pump-room", GARDENS, "Pump Room"),
    ("boiler-house", GARDENS, "Boiler House"),
    ("control-lodge", GARDENS, "Control Lodge"),
    ("nursery-yard", NURSERY, "Nursery Yard"),
)

#: id, site, name, roles.
GROUPS = (
    ("operators", GARDENS, "Operators", ["operator"]),
    ("duty", GARDENS, "Duty managers", ["duty_manager"]),
    ("nursery-operators", NURSERY, "Nursery operators", ["operator"]),
    ("nursery-duty", NURSERY, "Nursery duty managers", ["duty_manager"]),
)

#: id, site, area, name, stand-in.
DEVICES = (
    ("cam-jetty", GARDENS, "boathouse", "Jetty camera", "jetty"),
    ("cam-gate", GARDENS, "visitor-gate", "Gate camera", "gate"),
    ("cam-yard", NURSERY, "nursery-yard", "Yard camera", "yard"),
    ("cam-lake", GARDENS, "boathouse", "Lake camera", "lake"),
    ("cam-service", GARDENS, "service-gate", "Service gate camera", "service"),
    ("cam-vault", GARDENS, "seed-vault", "Vault camera", "vault"),
    ("cam-palm", GARDENS, "palm-house", "Palm house camera", "palm"),
    ("cam-palms", GARDENS, "palm-house", "Palm house camera, inside", "palms"),
    ("cam-orchid", GARDENS, "orchid-house", "Orchid camera", "orchid"),
    ("cam-pump", GARDENS, "pump-room", "Pump room camera", "pump"),
    ("cam-boiler", GARDENS, "boiler-house", "Boiler house camera", "boiler"),
    ("cam-flue", GARDENS, "boiler-house", "Thermal camera", "flue"),
    ("cam-lodge", GARDENS, "control-lodge", "Lodge camera", "lodge"),
    ("cam-entry", GARDENS, "visitor-gate", "Entrance camera", "entry"),
    ("door-station", GARDENS, "service-gate", "Door station", "bell"),
    ("door-controller", GARDENS, "seed-vault", "Door controller", "doors"),
)

#: id, site, area, device, channel, kind, name, token, tags.
PointRow = tuple[str, str, str, str | None, str | None, PointKind, str, str, list[str]]
POINTS: tuple[PointRow, ...] = (
    ("jetty", GARDENS, "boathouse", "cam-jetty", None, "camera", "Jetty", "vs0", ["water"]),
    ("jetty-line", GARDENS, "boathouse", "cam-jetty", "jetty", "detector", "Jetty line", "vsc0/Jetty line", ["water"]),
    ("jetty-speaker", GARDENS, "boathouse", "cam-jetty", None, "speaker", "Boathouse speaker", "speaker", []),
    ("storm-light", GARDENS, "boathouse", "cam-jetty", None, "relay", "Storm light", "relay/storm-light", []),
    ("gate", GARDENS, "visitor-gate", "cam-gate", None, "camera", "Visitor gate", "vs0", ["entrance"]),
    ("gate-line", GARDENS, "visitor-gate", "cam-gate", "gate", "detector", "Gate line", "vsc0/Gate line", ["entrance"]),
    ("entry", GARDENS, "visitor-gate", "cam-entry", None, "camera", "Visitor gate, from above", "vs0", ["entrance"]),
    (
        "entrance-count",
        GARDENS,
        "visitor-gate",
        "cam-entry",
        "entry",
        "detector",
        "Visitors today",
        "vsc0/Visitors today",
        ["entrance"],
    ),
    (
        "turnstile",
        GARDENS,
        "visitor-gate",
        "door-controller",
        None,
        "door",
        "Turnstile",
        "door/turnstile",
        ["entrance"],
    ),
    ("gate-help", GARDENS, "visitor-gate", None, None, "button", "Help at gate", "", []),
    ("lake-patrol", GARDENS, "boathouse", None, None, "button", "Lake patrol", "", []),
    ("wind", GARDENS, "boathouse", None, None, "sensor", "Wind at the boathouse", "", []),
    ("lake", GARDENS, "boathouse", "cam-lake", None, "camera", "Lake, from the boathouse", "vs0", ["water"]),
    ("service", GARDENS, "service-gate", "cam-service", None, "camera", "Service gate", "vs0", []),
    ("vault", GARDENS, "seed-vault", "cam-vault", None, "camera", "Vault forecourt", "vs0", []),
    ("palm", GARDENS, "palm-house", "cam-palm", None, "camera", "Palm house lawn", "vs0", []),
    (
        "service-plates",
        GARDENS,
        "service-gate",
        "cam-service",
        "service",
        "detector",
        "Plate reader",
        "vsc0/Plate reader",
        [],
    ),
    ("gate-lights", GARDENS, "service-gate", "cam-service", None, "relay", "Gate lights", "relay/gate-lights", []),
    ("barrier", GARDENS, "service-gate", "cam-service", None, "relay", "Barrier", "relay/barrier", []),
    ("bell", GARDENS, "service-gate", "door-station", None, "camera", "Wicket, from the bell", "vs0", []),
    ("wicket", GARDENS, "service-gate", "door-station", None, "station", "Staff wicket", "call", []),
    ("wicket-strike", GARDENS, "service-gate", "door-station", None, "relay", "Wicket latch", "relay/strike", []),
    ("palm-door", GARDENS, "palm-house", "door-controller", None, "door", "Palm house door", "door/palm", []),
    ("palms", GARDENS, "palm-house", "cam-palms", None, "camera", "Palm house, inside", "vs0", []),
    (
        "palm-count",
        GARDENS,
        "palm-house",
        "cam-palms",
        "palms",
        "detector",
        "People in the palm house",
        "vsc0/People in the palm house",
        [],
    ),
    ("palm-smoke", GARDENS, "palm-house", None, None, "input", "Fire panel, palm house", "", ["fire"]),
    ("orchid", GARDENS, "orchid-house", "cam-orchid", None, "camera", "Orchid house", "vs0", []),
    ("orchid-vents", GARDENS, "orchid-house", "cam-orchid", None, "relay", "Vent motors", "relay/vents", []),
    ("orchid-misting", GARDENS, "orchid-house", "cam-orchid", None, "relay", "Misting valve", "relay/misting", []),
    ("orchid-temp", GARDENS, "orchid-house", None, None, "sensor", "Orchid house temperature", "", []),
    ("orchid-humidity", GARDENS, "orchid-house", None, None, "sensor", "Orchid house humidity", "", []),
    ("vault-face", GARDENS, "seed-vault", None, None, "detector", "Vault face detector", "", []),
    ("vault-door", GARDENS, "seed-vault", "door-controller", None, "door", "Vault door", "door/vault", []),
    ("vault-siren", GARDENS, "seed-vault", "cam-vault", None, "siren", "Vault siren", "siren", []),
    ("freezer-temp", GARDENS, "seed-vault", None, None, "sensor", "Freezer temperature", "", []),
    ("freezer-alarm", GARDENS, "seed-vault", None, None, "input", "Freezer controller", "", []),
    ("uplink", GARDENS, "control-lodge", None, None, "input", "Uplink of the lodge", "", []),
    ("pump", GARDENS, "pump-room", "cam-pump", None, "camera", "Pump room", "vs0", []),
    ("shut-off", GARDENS, "pump-room", "cam-pump", None, "relay", "Shut-off valve", "relay/shut-off", []),
    ("leak", GARDENS, "pump-room", None, None, "input", "Leak sensor", "", []),
    ("ups", GARDENS, "pump-room", None, None, "power", "Pump room supply", "", []),
    ("boiler", GARDENS, "boiler-house", "cam-boiler", None, "camera", "Boiler house", "vs0", []),
    ("flue", GARDENS, "boiler-house", "cam-flue", None, "camera", "Boiler house, heat", "vs0", []),
    ("boiler-flue", GARDENS, "boiler-house", "cam-flue", "flue", "detector", "Boiler flue", "vsc0/Boiler flue", []),
    (
        "boiler-pump",
        GARDENS,
        "boiler-house",
        "cam-flue",
        "flue",
        "detector",
        "Circulation pump",
        "vsc0/Circulation pump",
        [],
    ),
    ("lodge", GARDENS, "control-lodge", "cam-lodge", None, "camera", "Control lodge", "vs0", []),
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
    ("yard-siren", NURSERY, "nursery-yard", "cam-yard", None, "siren", "Yard siren", "siren", []),
    ("yard-gate", NURSERY, "nursery-yard", "cam-yard", None, "input", "Yard gate contact", "input/gate-contact", []),
)

SIGHTLINES = (
    ("gate-help", "gate"), ("turnstile", "entry"), ("turnstile", "gate"), ("yard-gate", "yard"), ("wind", "jetty"), ("wicket", "bell"), ("wicket", "service"), ("wicket-strike", "bell"),
    ("vault-door", "vault"), ("vault-face", "vault"), ("vault-siren", "vault"), ("uplink", "lodge"), ("palm-door", "palm"), ("palm-door", "palms"),
    ("palm-smoke", "palms"), ("palm-smoke", "palm"), ("gate-lights", "service"), ("barrier", "service"),
    ("orchid-temp", "orchid"), ("orchid-humidity", "orchid"), ("orchid-vents", "orchid"), ("orchid-misting", "orchid"),
    ("leak", "pump"), ("ups", "pump"), ("shut-off", "pump"), ("boiler-flue", "boiler"), ("boiler-pump", "boiler"),
    ("yard-siren", "yard"),
)  # fmt: skip

#: The plans, with how wide they are, in metres.
PLANS = ((GARDENS, "gardens.svg", 420.0), (NURSERY, "nursery.svg", 110.0))
#: Where points stand on them: (x, y); for cameras also where they look, how wide and how far they see.
PLACES: dict[str, tuple[float, ...]] = {
    "gate": (151, 246, 176, 72, 42), "gate-line": (150, 264), "gate-help": (167, 263), "lake-patrol": (74, 118),
    "entry": (138, 251, 120, 72, 8), "entrance-count": (137, 262), "turnstile": (164, 251),
    "jetty": (86, 132, 12, 74, 45), "jetty-line": (89.5, 119), "storm-light": (89.5, 96), "wind": (64, 108),
    "lake": (79, 111, 50, 60, 40), "service": (394, 214, 86, 44, 24), "service-plates": (408, 214), "wicket": (407, 222), "bell": (402, 232, 88, 80, 8), "wicket-strike": (393, 225),
    "palm": (228, 190, 2, 66, 32), "vault": (347, 122, 354, 62, 30),
    "palm-door": (229, 171), "palm-count": (229, 151), "palm-smoke": (212, 151),
    "orchid-temp": (300, 162), "orchid-humidity": (318, 162),
    "vault-face": (352, 106), "vault-door": (345, 101), "freezer-temp": (355, 94), "freezer-alarm": (366, 100), "uplink": (206, 268), "leak": (182, 125), "ups": (188, 127),
    "boiler-flue": (278, 200), "boiler-pump": (268, 205), "boiler": (266, 196, 120, 70, 14), "flue": (283, 208, 300, 60, 14),
    "palms": (240, 158, 330, 74, 18), "orchid": (326, 156, 262, 76, 22), "orchid-vents": (309, 152), "orchid-misting": (309, 172),
    "pump": (176, 132, 60, 78, 12), "shut-off": (176, 120), "vault-siren": (352, 116), "gate-lights": (386, 205),
    "barrier": (401, 204), "lodge": (196, 262, 320, 80, 14), "yard-siren": (70, 45),
    "yard": (53, 66, 6, 76, 34), "yard-gate-line": (55, 39.4), "loading-bay": (63, 51), "yard-gate": (60, 38.4),
}  # fmt: skip

#: The light at cameras by night, in lx, for those of which it is said how they hang.
NIGHT_LIGHT: dict[str, float] = {
    "gate": 5, "entry": 50, "jetty": 0.5, "service": 20, "bell": 20, "palm": 5, "palms": 100, "orchid": 100, "vault": 10,
    "pump": 100, "boiler": 100, "lodge": 150, "yard": 8,
}  # fmt: skip

#: Detectors of our own: id, site, camera, name, what it watches.
OWN: tuple[tuple[str, str, str, str, dict[str, Any]], ...] = (
    ("jetty-deck", GARDENS, "jetty", "On the jetty", {
        "detects": "inside", "classes": ["human"],
        "corners": [(0.45, 0.62), (0.59, 0.6), (0.455, 0.345), (0.39, 0.345)]}),
    ("vault-porch", GARDENS, "vault", "Porch of the vault", {
        "detects": "lingering", "classes": ["human"], "seconds": 20,
        "corners": [(0.335, 0.84), (0.64, 0.84), (0.61, 0.63), (0.41, 0.63)]}),
    ("palm-walk", GARDENS, "palms", "Walk round the palm bed", {
        "detects": "running", "classes": ["human"],
        "corners": [(0.05, 0.96), (0.95, 0.96), (0.69, 0.55), (0.31, 0.55)]}),
    ("palm-bed", GARDENS, "palms", "Palm bed", {
        "detects": "crowd", "classes": ["human"], "most": 6, "seconds": 10,
        "corners": [(0.05, 0.96), (0.95, 0.96), (0.69, 0.55), (0.31, 0.55)]}),
    ("gate-things", GARDENS, "gate", "Things left at the gate", {
        "detects": "left_behind", "seconds": 30,
        "corners": [(0.25, 0.94), (0.8, 0.97), (0.68, 0.6), (0.36, 0.6)]}),
    ("yard-bay", NURSERY, "yard", "Bay by the wall", {
        "detects": "occupied", "classes": ["vehicle"], "seconds": 5, "overlap": 40,
        "corners": [(0.779, 0.686), (0.903, 0.675), (0.808, 0.579), (0.708, 0.585)]}),
)  # fmt: skip

#: Points that a movable camera looks at from one of its presets: (camera, preset) in order.
BY_PRESET = (("storm-light", (("lake", "1"), ("jetty", ""))),)

#: id, site, name, and how many there is room for.
COUNTERS = (("deliveries", GARDENS, "Deliveries today", 0), ("visitors", GARDENS, "Visitors inside", 200))

#: id, site, name, sort, entries as (value, label, note, template).
LISTS = (
    ("staff-plates", GARDENS, "staff plates", "plates", tuple((p, label, "", "") for p, label in STAFF_PLATES.items())),
    ("delivery-firms", GARDENS, "delivery firms", "plates", tuple((p, label, "", "") for p, label in DELIVERY_PLATES.items())),
    ("garden-staff", GARDENS, "garden staff", "people", tuple((card, name, "may enter the vault", template_of(name)) for name, card in STAFF.items())),
    ("excluded-persons", GARDENS, "excluded persons", "people", tuple((name, name, "barred by the trust", template_of(name)) for name in EXCLUDED)),
)  # fmt: skip

#: In which of them stand out.
LIST_COLOURS = {"garden-staff": "good", "staff-plates": "good", "excluded-persons": "alert", "delivery-firms": "wait"}

IntakeRow = tuple[str, str, str, dict[str, Any]]
#: id, site, name, and how it is set. What is printed here is printed on their pages: nothing of it is secret.
INTAKES: tuple[IntakeRow, ...] = (
    ("garden-gateway", GARDENS, "Garden gateway", {
        "secret": GATEWAY_TOKEN, "note": f"The gateway in the lodge. In the demo its token is {GATEWAY_TOKEN}."}),
    ("tickets", GARDENS, "Ticket office", {
        "proof": "standard", "secret": "whsec_cXVpbGxtZXJlLWdhcmRlbnMtdGlja2V0cw==",
        "note": "Tills and turnstile, as CloudEvents. In the demo the secret is whsec_cXVpbGxtZXJlLWdhcmRlbnMtdGlja2V0cw=="}),
    ("badges", GARDENS, "Badge office", {
        "proof": "signature", "header": "X-Signature", "secret": "quillmere-badges",
        "note": "Cards that are lost or handed out. In the demo the key is quillmere-badges"}),
    ("switches", GARDENS, "Network and power", {
        "proof": "community", "secret": "quillmere",
        "note": "Traps of switches and supplies. In the demo the community is quillmere"}),
    ("supplies", GARDENS, "Supplies and freezers", {
        "proof": "usm", "user": "garden", "secret": "garden-auth-pass", "private": "garden-priv-pass",
        "note": "Traps of version 3. In the demo the user is garden, SHA-256 garden-auth-pass, AES-128 garden-priv-pass"}),
    ("orchid-broker", GARDENS, "Orchid house sensors", {
        "proof": "mqtt", "address": f"mqtt://127.0.0.1:{config.demo_mqtt_port()}", "topics": ["quillmere/#"],
        "note": "The broker in the orchid house. In the demo anybody on this machine may publish below quillmere/"}),
    ("field-device", GARDENS, "Cabinet in the boathouse", {
        "proof": "modbus", "address": f"modbus://127.0.0.1:{config.demo_modbus_port()}", "every": 1.0, "registers": [
            {"point": {"id": "freezer-temp", "name": "Freezer temperature"}, "number": FREEZER, "scale": 0.1, "unit": "°C"},
            {"point": {"id": "wind", "name": "Wind at the boathouse"}, "number": WIND, "form": "f32", "unit": "m/s"},
            {"point": {"id": "leak", "name": "Leak sensor"}, "table": "discrete", "number": LEAK},
        ],
        "note": "Freezer, wind and the leak sensor in the pump room, over one cable"}),
    ("kiosk", GARDENS, "Kiosk", {
        "proof": "basic", "user": "kiosk", "secret": "quillmere-kiosk",
        "note": "The old till at the kiosk, which sends forms. In the demo the password is quillmere-kiosk"}),
)  # fmt: skip


def _call(state: str, kind: str, called: str) -> dict[str, Any]:
    """What a state of the door station's calls means: its maker's topic is none of the standard's."""
    return {
        "name": called, "kind": kind, "point": {"id": "wicket", "name": "Staff wicket"},
        "device": {"id": "door-station", "name": "Door station"},
        "when": [
            {"path": "$.topic", "how": "is", "value": "sta:Call/State"},
            {"path": "$.data.State", "how": "is", "value": state},
        ],
    }  # fmt: skip


#: How readings are kept; every twenty minutes something is told at the latest.
_SIREN: dict[str, Any] = {
    "light": "siren-light", "sound": "siren-sound",
    "signals": [
        {"name": "deter", "light": 40, "sound": 20}, {"name": "hint", "light": 8, "sound": 2}, {"name": "light alone", "light": 120},
    ],
}  # fmt: skip
SETTINGS: dict[str, dict[str, Any]] = {
    "orchid-temp": {"unit": "°C", "deadband": 0.2, "at_least_every": 1200, "stale_after": 3000},
    "orchid-humidity": {"unit": "%", "deadband": 1, "at_least_every": 1200, "stale_after": 3000},
    "freezer-temp": {"unit": "°C", "deadband": 0.2, "at_least_every": 1200, "stale_after": 1500},
    "wind": {"unit": "m/s", "deadband": 0.5, "at_least_every": 1200, "stale_after": 1500},
    "vault-siren": {"siren": _SIREN},
    "yard-siren": {"siren": _SIREN},
    "gate-help": {"button": {"icon": "bell", "cameras": [{"id": "gate"}, {"id": "entry"}]}},
    "lake-patrol": {
        "button": {
            "positions": "two",
            "on": "out on the lake",
            "off": "ashore",
            "icon": "user",
            "cameras": [{"id": "lake"}],
            "row": True,
        }
    },
}

#: Displays: id, site, and what each is.
DISPLAYS: tuple[tuple[str, str, dict[str, Any]], ...] = (
    (
        "lodge-wall", GARDENS,
        {
            "name": "Lodge wall", "cells": 4,
            "usual": [{"id": "gate"}, {"id": "service"}, {"id": "jetty"}, {"id": "vault"}],
        },
    ),
    ("lodge-spot", GARDENS, {"name": "Lodge spot", "cells": 1, "usual": [{"id": "lodge"}]}),
)  # fmt: skip

_ORCHIDS: dict[str, Any] = {
    "name": "Orchid house sensors", "kind": "sensor.reading", "phase": "reading",
    "intake": {"id": "orchid-broker", "name": "Orchid house sensors"},
    "when": [{"path": "$.topic", "how": "begins", "value": "quillmere/orchid-house/"}, {"path": "$.payload.value", "how": "there"}],
    "point_path": "$.levels[2]",
    "points": [
        {"said": "temp", "point": {"id": "orchid-temp", "name": "Orchid house temperature"}},
        {"said": "humidity", "point": {"id": "orchid-humidity", "name": "Orchid house humidity"}},
    ],
    "fields": [{"name": "value", "path": "$.payload.value"}, {"name": "unit", "path": "$.payload.unit"}],
    "time_path": "$.payload.at",
}  # fmt: skip

_SUPPLY: dict[str, Any] = {
    "name": "The supply runs on its battery", "kind": "power.on_battery", "intake": {"id": "supplies", "name": "Supplies and freezers"},
    "when": [{"path": "$.named.upsAlarmDescr", "how": "is", "value": "upsAlarmOnBattery"}],
    "phase_path": "$.name", "begins": ["upsTrapAlarmEntryAdded"], "ends": ["upsTrapAlarmEntryRemoved"],
    "point": {"id": "ups", "name": "Pump room supply"},
}  # fmt: skip

_FREEZER: dict[str, Any] = {
    "name": "The freezer's controller", "kind": "input.active", "intake": {"id": "supplies", "name": "Supplies and freezers"},
    "when": [{"path": "$.name", "how": "is", "value": "freezerStateChanged"}],
    "phase_path": "$.named.freezerState", "begins": ["warm"], "ends": ["cold"],
    "point": {"id": "freezer-alarm", "name": "Freezer controller"},
}  # fmt: skip

_UPLINK: dict[str, Any] = {
    "name": "The lodge's uplink", "kind": "input.active", "intake": {"id": "switches", "name": "Network and power"},
    "when": [{"path": "$.by['1.3.6.1.2.1.2.2.1.1.24']", "how": "there"}], "phase_path": "$.name", "begins": ["linkDown"], "ends": ["linkUp"],
    "point": {"id": "uplink", "name": "Uplink of the lodge"},
}  # fmt: skip

#: id, site, document.
DECODERS = (
    ("supply-battery", GARDENS, _SUPPLY),
    ("freezer-state", GARDENS, _FREEZER),
    ("lodge-uplink", GARDENS, _UPLINK),
    ("orchid-sensors", GARDENS, _ORCHIDS),
    ("wicket-rings", GARDENS, _call("Ringing", "call.rung", "The wicket rings")),
    ("wicket-answered", GARDENS, _call("Talking", "call.answered", "The call is answered")),
    ("wicket-ended", GARDENS, _call("Idle", "call.ended", "The call is over")),
)


def _week(*spans: str, closed: tuple[str, ...] = ()) -> dict[str, list[str]]:
    return {day: [] if day in closed else list(spans) for day in ("mon", "tue", "wed", "thu", "fri", "sat", "sun")}


#: Tuesdays, as the nursery's calendar has it.
NIGHT_WORK = """BEGIN:VCALENDAR\r
VERSION:2.0\r
PRODID:-//Quillmere Nursery//EN\r
BEGIN:VEVENT\r
UID:night-work@quillmere.example\r
DTSTART;TZID=Europe/London:20260106T200000\r
DTEND;TZID=Europe/London:20260106T234500\r
RRULE:FREQ=WEEKLY;BYDAY=TU\r
SUMMARY:Night work in the yard\r
END:VEVENT\r
END:VCALENDAR\r
"""
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
        "dark",
        GARDENS,
        "the dark",
        {"seasons": [{"start": "01-01", "end": "12-31", "week": _week("sunset+15-sunrise-15")}]},
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
                    "week": _week("07:30-17:30", closed=("sun",)),
                }
            ],
            "exceptions": _CLOSED,
            "calendars": [{"name": "Night work", "text": NIGHT_WORK}],
        },
    ),
)
