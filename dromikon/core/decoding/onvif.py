"""Decoders of ONVIF topics (ONVIF Analytics and Core specifications). One more topic is one function with `@topic`."""

from collections.abc import Callable, Mapping

from dromikon.core.decoding import Decoded, NotDecoded
from dromikon.core.events import Phase, Scalar
from dromikon.core.reading import number, whole
from dromikon.core.registry import Registry
from dromikon.core.words import t

Items = Mapping[str, str]
TopicDecoder = Callable[[Items, Items], Decoded]

TOPICS: Registry[TopicDecoder] = Registry("ONVIF topic")

#: tt:Class / tt:ClassDescriptor names to ours.
_CLASSES = {
    "human": "human",
    "person": "human",
    "face": "human",
    "vehicle": "vehicle",
    "animal": "animal",
    "bicycle": "bicycle",
}


#: The topics that detectors of a standard type send (ONVIF Analytics Service Specification, annex of rules), for devices
#: that do not say themselves.
STANDARD_DETECTORS = {
    "tt:LineDetector": ("tns1:RuleEngine/LineDetector/Crossed",),
    "tt:FieldDetector": ("tns1:RuleEngine/FieldDetector/ObjectsInside",),
    "tt:LoiteringDetector": ("tns1:RuleEngine/LoiteringDetector/ObjectIsLoitering",),
    "tt:CellMotionDetector": ("tns1:RuleEngine/CellMotionDetector/Motion",),
    "tt:MotionRegionDetector": ("tns1:RuleEngine/MotionRegionDetector/Motion",),
}
#: The kind of event that each topic becomes.
TOPIC_KINDS: dict[str, str] = {}


def topic(name: str, kind: str) -> Callable[[TopicDecoder], TopicDecoder]:
    """Register a decoder for a topic, with our prefixes, and the kind of its events."""
    TOPIC_KINDS[name] = kind
    return lambda decoder: TOPICS.add(name, decoder)


def decode(name: str, operation: str, source: Items, data: Items) -> Decoded:
    """The event in a notification. Raises NotDecoded for an unknown topic or a missing item."""
    decoder = TOPICS.get(name)
    if decoder is None:
        raise NotDecoded(t("No decoder knows the topic {name}.", name=name))
    try:
        decoded = decoder(source, data)
    except KeyError as error:
        raise NotDecoded(t("The message of {name} has no item {value}.", name=name, value=error.args[0])) from error
    except ValueError as error:
        raise NotDecoded(t("An item of {name} cannot be read: {error}", name=name, error=error)) from error
    if operation == "Initialized":
        return Decoded(decoded.kind, decoded.token, decoded.phase, decoded.fields, told_on_request=True)
    return decoded


def _state(data: Items, name: str) -> Phase:
    value = data[name].strip().lower()
    if value not in ("true", "false", "1", "0"):
        raise ValueError(t("{name} is {value}, neither true nor false", name=name, value=repr(data[name])))
    return Phase.BEGIN if value in ("true", "1") else Phase.END


def _object(data: Items) -> dict[str, Scalar]:
    fields: dict[str, Scalar] = {}
    if "ObjectId" in data:
        fields["object"] = whole(data["ObjectId"])
    if "ClassTypes" in data:
        first = data["ClassTypes"].split()[0].lower() if data["ClassTypes"].split() else "other"
        fields["class"] = _CLASSES.get(first, "other")
    if "Likelihood" in data:
        # tt:Likelihood runs from 0 to 1.
        fields["confidence"] = round(number(data["Likelihood"]) * 100, 1)
    if "Height" in data:
        fields["height"] = round(number(data["Height"]) * 100, 1)
    if "Direction" in data:
        fields["direction"] = {"right": "in", "left": "out"}.get(data["Direction"].lower(), data["Direction"].lower())
    return fields


def _detector_token(source: Items) -> str:
    channel = source.get("VideoSourceConfigurationToken") or source["Source"]
    return f"{channel}/{source['Rule']}"


@topic("tns1:RuleEngine/LineDetector/Crossed", "scene.line_crossed")
def line_crossed(source: Items, data: Items) -> Decoded:
    return Decoded("scene.line_crossed", _detector_token(source), Phase.PULSE, _object(data))


@topic("tns1:RuleEngine/LoiteringDetector/ObjectIsLoitering", "scene.loitering")
def loitering(source: Items, data: Items) -> Decoded:
    return Decoded("scene.loitering", _detector_token(source), _state(data, "State"), _object(data))


@topic("tns1:VideoSource/MotionAlarm", "scene.motion")
def motion(source: Items, data: Items) -> Decoded:
    return Decoded("scene.motion", source["Source"], _state(data, "State"))


@topic("tns1:VideoSource/GlobalSceneChange/ImagingService", "scene.tampered")
def tampering(source: Items, data: Items) -> Decoded:
    return Decoded("scene.tampered", source["Source"], _state(data, "State"))


@topic("tns1:Device/Trigger/DigitalInput", "input.active")
def digital_input(source: Items, data: Items) -> Decoded:
    return Decoded("input.active", f"input/{source['InputToken']}", _state(data, "LogicalState"))
