"""The starting rules, in the order in which they are offered. One more is one entry."""

from typing import Any

from dromikon.core.registry import Registry
from dromikon.core.rules.starting.base import Place, Starting

STARTING: Registry[Starting] = Registry("starting rule")

WHO = Place("who", "who sees it", "groups")


def _bound(name: str) -> dict[str, str]:
    return {"bind": name}


def _where(name: str) -> dict[str, Any]:
    return {"points": _bound(name)}


def _alarm(priority: str, title: str, instruction: str, **more: Any) -> dict[str, Any]:
    return {
        "do": "alarm", "priority": priority, "title": title, "instruction": instruction, "groups": _bound("who"), **more,
    }  # fmt: skip


def _bookmark(title: str, before: float, beyond: float, *tags: str) -> dict[str, Any]:
    return {"do": "bookmark", "title": title, "before": before, "beyond": beyond, "tags": list(tags)}


def _event(kind: str, phase: str, place: str) -> dict[str, Any]:
    return {"cause": "event", "kind": kind, "phase": phase, "where": _where(place)}


for starting in (
    Starting(
        "door-forced",
        "A door is forced",
        "Somebody opens a door that was not released.",
        (Place("doors", "which doors", "points", ("door",)), WHO),
        {
            "name": "Door forced",
            "cause": _event("door.forced", "pulse", "doors"),
            "hold_off": {"seconds": 30, "per": "point", "then": "join"},
            "response": [
                _alarm("critical", "Forced: {point}", "1. Look who is there.\n2. Send somebody; do not go alone.", note_required=True, sound="urgent"),
                _bookmark("Forced: {point}", 20, 60, "door"),
                {"do": "record", "before": 10, "beyond": 120},
            ],
        },
    ),
    Starting(
        "wicket-call",
        "Somebody rings and nobody answers",
        "A call at a door station that is not answered in time.",
        (Place("stations", "which door stations", "points", ("station",)), Place("patience", "seconds until somebody must look", "number", standard=30), WHO),
        {
            "name": "Call not answered",
            "cause": {
                "cause": "missing",
                "first": {"kind": "call.rung", "phase": "pulse", "where": _where("stations")},
                "then": {"kind": "call.answered", "phase": "pulse", "where": _where("stations")},
                "within": _bound("patience"),
                "join": {"per": "point"},
            },
            "response": [_alarm("medium", "Nobody answers at {point}", "Call back, or look who is there.", sound="call"), _bookmark("Call at {point}", 10, 40, "call")],
        },
    ),
    Starting(
        "unknown-plate",
        "An unknown plate outside opening hours",
        "A vehicle whose plate is in no list, misread characters being tolerated.",
        (Place("readers", "which plate readers", "points", ("detector",)), Place("plates", "the list of known plates", "list", sort="plates"), Place("hours", "opening hours", "hours"), WHO),
        {
            "name": "Unknown plate outside hours",
            "cause": _event("plate.read", "pulse", "readers"),
            "provided": {"test": "list", "field": "plate", "among": _bound("plates"), "listed": False, "how": "tolerant", "errors": 1},
            "hours": {"hours": _bound("hours"), "inside": False},
            "hold_off": {"seconds": 300, "per": "field", "field": "plate"},
            "response": [_alarm("medium", "Unknown plate {plate} at {point}", "Look who it is and what they want."), _bookmark("{plate}", 10, 30, "plate")],
        },
    ),
    Starting(
        "excluded-person",
        "An excluded person is seen",
        "A face similar to somebody who must not be here.",
        (Place("cameras", "which face detectors", "points", ("detector",)), Place("people", "the list of excluded persons", "list", sort="people"), Place("similarity", "how similar, in percent", "number", standard=85), WHO),
        {
            "name": "Excluded person seen",
            "cause": _event("face.seen", "pulse", "cameras"),
            "provided": {"test": "list", "field": "template", "among": _bound("people"), "how": "similar", "similarity": _bound("similarity")},
            "hold_off": {"seconds": 600, "per": "point", "then": "join"},
            "response": [_alarm("high", "Looks like {listed}", "1. Compare the pictures yourself.\n2. Speak to them only in company.", note_required=True), _bookmark("Looks like {listed}", 15, 60, "excluded")],
        },
    ),
    Starting(
        "freezer-warm",
        "A freezer is getting warm",
        "A temperature above a limit for longer than a door stands open.",
        (Place("sensors", "which temperature sensors", "points", ("sensor",)), Place("limit", "°C above which it is too warm", "number", standard=-15), WHO),
        {
            "name": "Too warm",
            "cause": {"cause": "level", "way": "up", "value": _bound("limit"), "hysteresis": 2, "held": 600, "where": _where("sensors")},
            "response": [_alarm("high", "{point} is at {value|round} °C", "Look whether the door stands open; ring the engineer on call."), {"do": "line", "text": "{point} was too warm", "anchor": "end"}],
        },
    ),
    Starting(
        "water-leak",
        "Water where none should be",
        "A leak sensor that stays wet; one that only flickers is left alone.",
        (Place("sensors", "which leak contacts", "points", ("input",)), Place("valve", "the shut-off valve", "point", ("relay",)), WHO),
        {
            "name": "Water leak",
            "cause": {"cause": "lasting", "kind": "input.active", "seconds": 10, "where": _where("sensors")},
            "again": "ignore",
            "response": [
                _alarm("critical", "Water at {point}", "The valve has been shut. Look, then open it again by hand.", sound="urgent"),
                {"do": "relay", "target": {"point": _bound("valve")}, "held": "state"},
            ],
        },
    ),
    Starting(
        "bay-occupied",
        "A bay is occupied too long",
        "A vehicle stands in a bay for longer than loading takes.",
        (Place("bays", "which bays", "points", ("detector",)), Place("longest", "seconds it may stand there", "number", standard=1200), WHO),
        {
            "name": "Bay occupied too long",
            "cause": {"cause": "lasting", "kind": "scene.occupied", "seconds": _bound("longest"), "where": _where("bays")},
            "response": [{"do": "notice", "text": "{point} has been occupied for long", "groups": _bound("who"), "seconds": 120}, _bookmark("{point} blocked", 30, 10, "bay")],
        },
    ),
    Starting(
        "after-hours",
        "A line is crossed after hours",
        "A person or vehicle where nobody should be outside opening hours.",
        (Place("lines", "which lines", "points", ("detector",)), Place("hours", "opening hours", "hours"), WHO),
        {
            "name": "Crossing after hours",
            "cause": _event("scene.line_crossed", "pulse", "lines"),
            "provided": {"test": "all", "of": [{"test": "field", "field": "class", "op": "one_of", "value": ["human", "vehicle"]}, {"test": "field", "field": "confidence", "op": "at_least", "value": 60}]},
            "hours": {"hours": _bound("hours"), "inside": False},
            "hold_off": {"seconds": 120, "per": "point", "then": "join"},
            "response": [_alarm("high", "{class|capital} at {point}", "Watch where they go.", note_required=True), _bookmark("{class|capital} at {point}", 12, 30, "night")],
        },
    ),
    Starting(
        "hot-region",
        "A measured region gets hot",
        "A thermal camera's region passes a limit, or warms up faster than it should.",
        (Place("regions", "which regions", "points", ("detector",)), Place("limit", "°C that is too hot", "number", standard=85), Place("rate", "°C a minute that is too fast", "number", standard=5), WHO),
        {
            "name": "Too hot",
            "cause": {
                "cause": "any",
                "of": [
                    {"cause": "level", "kind": "scene.temperature", "way": "up", "value": _bound("limit"), "hysteresis": 3, "held": 20, "where": _where("regions")},
                    {"cause": "level", "kind": "scene.temperature", "way": "rate", "value": _bound("rate"), "where": _where("regions")},
                ],
            },
            "hold_off": {"seconds": 600, "per": "point", "then": "join"},
            "response": [_alarm("critical", "{point} measures {value|round} °C", "1. Look at the picture.\n2. Switch the plant off.\n3. Ring the fire brigade when you see smoke."), {"do": "snapshot", "moments": [-60, 0, 60]}],
        },
    ),
    Starting(
        "occupancy",
        "Too many people inside",
        "The count of people passes a limit, and comes back well below it before it counts again.",
        (Place("counters", "which counting detectors", "points", ("detector",)), Place("limit", "the most people allowed", "number", standard=120), WHO),
        {
            "name": "Too many people",
            "cause": {"cause": "level", "kind": "scene.count", "way": "up", "value": _bound("limit"), "hysteresis": 10, "held": 30, "where": _where("counters")},
            "response": [_alarm("medium", "{value|round} people at {point}", "Ask the door to let nobody in for now."), {"do": "notice", "text": "{point}: room again", "groups": _bound("who"), "anchor": "end"}],
        },
    ),
    Starting(
        "on-battery",
        "The power supply runs on battery",
        "Mains have failed for longer than a flicker.",
        (Place("supplies", "which power supplies", "points", ("power",)), WHO),
        {
            "name": "On battery",
            "cause": {"cause": "lasting", "kind": "power.on_battery", "seconds": 15, "where": _where("supplies")},
            "response": [_alarm("high", "{point} runs on battery", "Look whether the whole house is dark. Half an hour is left."), {"do": "line", "text": "{point}: mains are back", "anchor": "end"}],
        },
    ),
    Starting(
        "camera-lost",
        "A camera is lost",
        "A camera does not answer for longer than a restart takes.",
        (Place("patience", "seconds it may be away", "number", standard=60), WHO),
        {
            "name": "Camera lost",
            "cause": {"cause": "lasting", "kind": "device.lost", "seconds": _bound("patience"), "where": {"point_kinds": ["camera"]}},
            "response": [_alarm("medium", "{point} is out of reach", "Look at Sources for the reason.")],
        },
    ),
    Starting(
        "fallen-silent",
        "A detector or sensor falls silent",
        "What usually comes from a point has stopped, though nothing says that it is broken.",
        (WHO,),
        {
            "name": "Fallen silent",
            "cause": {"cause": "event", "kind": "point.silent", "phase": "begin", "where": {"everywhere": True}},
            "response": [_alarm("low", "{point} is silent: {what}", "1. Walk past, or set it off by hand, and see it come under Sources.\n2. Look at the camera: has it been turned, or is something in front of it?")],
        },
    ),
    Starting(
        "step-expired",
        "Something could not be sent in time",
        "A call, a message or a command of any rule that expired before it went out.",
        (WHO,),
        {
            "name": "Expired unsent",
            "cause": {"cause": "event", "kind": "step.expired", "phase": "pulse", "where": {"everywhere": True}},
            "hold_off": {"seconds": 600, "per": "field", "field": "by_rule", "then": "join"},
            "response": [_alarm("high", "“{by_rule}”: {step} was not sent", "1. Do by hand what it should have done.\n2. Look in the Daybook for the reason; look whether the other side answers.")],
        },
    ),
    Starting(
        "count-inside",
        "Count who is inside",
        "People and vehicles over a line count a counter up going in, and down going out.",
        (Place("lines", "over which lines", "points", ("detector",)), Place("counter", "which counter", "counter")),
        {
            "name": "Who is inside",
            "cause": _event("scene.line_crossed", "pulse", "lines"),
            "response": [
                {"do": "counter", "counter": _bound("counter"), "change": change,
                 "provided": {"test": "field", "field": "direction", "op": "is", "value": way}}
                for change, way in (("up", "in"), ("down", "out"))
            ],
        },
    ),
    Starting(
        "count-full",
        "Too many are inside",
        "A counter reaches a number; another rule counts.",
        (Place("counter", "which counter", "counter"), Place("most", "how many may be inside", "number", standard=120), WHO),
        {
            "name": "Full",
            "cause": {"cause": "limit", "counter": _bound("counter"), "value": _bound("most")},
            "response": [_alarm("medium", "{counter}: {value|round}", "Let nobody in for now.")],
        },
    ),
    Starting(
        "count-anew",
        "Count anew each day",
        "A counter is set to nothing when some hours end.",
        (Place("counter", "which counter", "counter"), Place("hours", "at the end of which hours", "hours")),
        {
            "name": "Count anew",
            "cause": {"cause": "at", "at": "end", "hours": _bound("hours")},
            "response": [{"do": "counter", "counter": _bound("counter"), "change": "set", "by": 0}],
        },
    ),
    Starting(
        "nobody-reached",
        "Nobody could be reached, or a step failed",
        "A message of any rule that was for nobody who is on duty and can be reached, or a step that the other side refused.",
        (WHO,),
        {
            "name": "Nobody reached",
            "cause": {"cause": "any", "of": [
                {"cause": "event", "kind": kind, "phase": "pulse", "where": {"everywhere": True}}
                for kind in ("step.unreached", "step.failed")
            ]},
            "hold_off": {"seconds": 600, "per": "field", "field": "by_rule", "then": "join"},
            "response": [_alarm("high", "“{by_rule}”: {step}: {reason}", "1. Tell somebody by hand.\n2. Look in Deliveries for the reason; look who is on duty under People.")],
        },
    ),
    Starting(
        "help-button",
        "A help button is pressed",
        "Somebody at a desk or till asks for help.",
        (Place("buttons", "which buttons", "points", ("button",)), WHO),
        {
            "name": "Help wanted",
            "cause": {"cause": "button", "where": _where("buttons")},
            "again": "extend",
            "response": [
                _alarm("critical", "Help wanted: {point}", "1. Look at the picture.\n2. Ring them.\n3. Send somebody when nobody answers.", sound="urgent", note_required=True),
                {"do": "popup", "groups": _bound("who"), "seconds": 120},
                _bookmark("Help wanted: {point}", 30, 60, "help"),
            ],
        },
    ),
    Starting(
        "fire-contact",
        "The fire panel's contact closes",
        "A contact of the fire panel; it is told at once and to everybody.",
        (Place("contacts", "which contacts", "points", ("input",)), WHO),
        {
            "name": "Fire panel",
            "cause": _event("input.active", "begin", "contacts"),
            "response": [
                _alarm("critical", "Fire panel: {point}", "1. Follow the fire plan.\n2. Open the escape doors.\n3. Meet the brigade at the gate.", sound="urgent", note_required=True),
                {"do": "record", "before": 60, "beyond": 600},
                {"do": "popup", "groups": _bound("who"), "seconds": 600},
            ],
        },
    ),
):  # fmt: skip
    STARTING.add(starting.id, starting)
