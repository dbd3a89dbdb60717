"""What decoders of topics have in common: their registry, and reading of items."""

from collections.abc import Callable, Mapping
from typing import Any

from dromikon.core.boxes import normalised
from dromikon.core.decoding import Decoded, NotDecoded
from dromikon.core.events import Phase, Scalar
from dromikon.core.reading import number, whole
from dromikon.core.registry import Registry
from dromikon.core.words import t

Items = Mapping[str, str]
TopicDecoder = Callable[[Items, Items], Decoded]

TOPICS: Registry[TopicDecoder] = Registry("ONVIF topic")
#: The kinds of event that each topic becomes.
TOPIC_KINDS: dict[str, tuple[str, ...]] = {}
#: The topics that detectors of a standard type send (ONVIF Analytics Service Specification, annex of rules), for devices
#: that do not say themselves.
STANDARD_DETECTORS = {
    "tt:LineDetector": ("tns1:RuleEngine/LineDetector/Crossed",),
    "tt:FieldDetector": ("tns1:RuleEngine/FieldDetector/ObjectsInside",),
    "tt:LoiteringDetector": ("tns1:RuleEngine/LoiteringDetector/ObjectIsLoitering",),
    "tt:CellMotionDetector": ("tns1:RuleEngine/CellMotionDetector/Motion",),
    "tt:MotionRegionDetector": ("tns1:RuleEngine/MotionRegionDetector/Motion",),
    "tt:LineCounting": ("tns1:RuleEngine/CountAggregation/Counter",),
}
#: A point of a device that stands for a topic of its own has this before the topic in its token.
OWN = "topic/"

#: tt:Class / tt:ClassDescriptor names to ours.
_CLASSES = {
    "human": "human",
    "person": "human",
    "face": "human",
    "vehicle": "vehicle",
    "car": "vehicle",
    "truck": "vehicle",
    "bus": "vehicle",
    "animal": "animal",
    "bicycle": "bicycle",
    "bike": "bicycle",
}
_YES, _NO = ("true", "1", "active", "on"), ("false", "0", "inactive", "off")


def topic(name: str, *kinds: str) -> Callable[[TopicDecoder], TopicDecoder]:
    """Register a decoder for a topic, with our prefixes, and the kinds of its events."""
    TOPIC_KINDS[name] = kinds
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
    return _on_request(decoded) if operation == "Initialized" else decoded


def own_event(name: str, operation: str, source: Items, data: Items) -> Decoded:
    """An event of a topic that nobody here knows, for a point that stands for the topic: a state where it is a property with
    one thing that is on or off, otherwise a moment. Its items are kept as text."""
    states = [value.lower() for value in data.values() if value.lower() in (*_YES, *_NO)]
    phase = Phase.PULSE
    if operation and len(states) == 1:
        phase = Phase.BEGIN if states[0] in _YES else Phase.END
    items = ", ".join(f"{item}={value}" for item, value in {**source, **data}.items())
    decoded = Decoded("device.own", f"{OWN}{name}", phase, {"topic": name, "items": items[:500]})
    return _on_request(decoded) if operation == "Initialized" else decoded


def content(name: str, operation: str, source: Items, data: Items) -> dict[str, Any]:
    """A notification as content that decoders read, like any other message."""
    return {"topic": name, "operation": operation, "source": dict(source), "data": dict(data)}


def _on_request(decoded: Decoded) -> Decoded:
    return Decoded(decoded.kind, decoded.token, decoded.phase, decoded.fields, told_on_request=True)


def is_on(data: Items, name: str) -> bool:
    """Whether an item is on. Raises KeyError, ValueError."""
    value = data[name].strip().lower()
    if value not in (*_YES, *_NO):
        raise ValueError(t("{name} is {value}, neither true nor false", name=name, value=repr(data[name])))
    return value in _YES


def state(data: Items, name: str) -> Phase:
    """The beginning or end of what an item says. Raises KeyError, ValueError."""
    return Phase.BEGIN if is_on(data, name) else Phase.END


def object_fields(data: Items) -> dict[str, Scalar]:
    """What is told of an object: number, class, likelihood, size, direction."""
    fields: dict[str, Scalar] = {}
    if "ObjectId" in data:
        fields["object"] = whole(data["ObjectId"])
    if data.get("ClassTypes", "").split():
        fields["class"] = _CLASSES.get(data["ClassTypes"].split()[0].lower(), "other")
    fields.update(confidence(data))
    if "Height" in data:
        fields["height"] = round(number(data["Height"]) * 100, 1)
    if "Direction" in data:
        fields["direction"] = {"right": "in", "left": "out"}.get(data["Direction"].lower(), data["Direction"].lower())
    return {**fields, **place_of(data)}


def place_of(data: Items) -> dict[str, Scalar]:
    """Where in the picture the object is: the sides of a tt:Rectangle in whatever element holds it. One that cannot be
    read, or lies outside, is left out: the event is worth more than its place."""
    at = next((name.removesuffix("@left") for name in data if name.endswith("BoundingBox@left")), None)
    if at is None:
        return {}
    try:
        sides = (number(data[f"{at}@{side}"]) for side in ("left", "top", "right", "bottom"))
        return {"box": normalised(*sides).written()}
    except (KeyError, ValueError):
        return {}


def confidence(data: Items) -> dict[str, Scalar]:
    """tt:Likelihood, which runs from 0 to 1, in percent."""
    return {"confidence": round(number(data["Likelihood"]) * 100, 1)} if "Likelihood" in data else {}


def channel_of(source: Items) -> str:
    """The token of the channel that a detector watches. Raises KeyError."""
    for name in ("VideoSourceConfigurationToken", "VideoSource", "VideoSourceToken"):
        if name in source:
            return source[name]
    return source["Source"]


def detector_of(source: Items) -> str:
    """The token of the detector that reports. Raises KeyError."""
    return f"{channel_of(source)}/{source['Rule']}"
