"""What a device says of itself, as it is stored. A part that it was not asked for, or would not tell, is missing."""

from typing import Any, TypedDict


class EventSaid(TypedDict):
    """An event that a device can send (ONVIF GetEventProperties): its topic with our prefixes, whether it is a state that
    can be asked for, and the items of source and data, by name with their types ("boolean", "ReferenceToken")."""

    topic: str
    state: bool
    source: dict[str, str]
    data: dict[str, str]


class ShapeSaid(TypedDict):
    """What a detector watches. `sort`: line, area or spot. Points are (x, y) in the picture, from -1 to 1, y upwards (ONVIF's
    normalised coordinates)."""

    sort: str
    item: str
    points: list[tuple[float, float]]


class DetectorSaid(TypedDict, total=False):
    """A detector (an analytics rule). `waits`: seconds it watches before it reports. `channel`: the token of the video
    source configuration whose picture it watches. `analytics`: the configuration that it belongs to."""

    name: str
    type: str
    parameters: dict[str, Any]
    waits: float
    channel: str | None
    analytics: str
    shapes: list[ShapeSaid]


class ParameterSaid(TypedDict):
    """A setting that detectors of a type have: its name and type ("boolean", "float", "Polygon")."""

    name: str
    type: str


class DetectorTypeSaid(TypedDict):
    """A type of detector that the device can run, the topics that one of it sends, and its settings."""

    name: str
    topics: list[str]
    parameters: list[ParameterSaid]
    limit: int | None


class ModuleSaid(TypedDict):
    """An analytics module: what finds the things that detectors reckon with. `running`: False for one that the device only
    could run."""

    name: str
    type: str
    parameters: dict[str, Any]
    running: bool


class PresetSaid(TypedDict):
    """A position that a movable camera knows by name."""

    channel: str
    token: str
    name: str


class DoorSaid(TypedDict):
    """A door of an access controller, what it can be told: release, lock, unlock, block, hold_open (ONVIF door control), and
    the tokens of the access points that lead to it."""

    token: str
    name: str
    can: list[str]
    access: list[str]


class ApplicationSaid(TypedDict):
    """A program installed on a device. `licensed`: None when the device does not say."""

    id: str
    name: str
    version: str
    running: bool
    licensed: bool | None


class Information(TypedDict):
    """Who it is."""

    manufacturer: str
    model: str
    firmware: str
    serial: str


class DeviceCatalogue(TypedDict, total=False):
    """All of it. `sounds`: the channels that can be heard; `scenes`: those that tell which objects they see. `relay_times`: seconds after which relays go off by themselves. `refused`: the parts it would not tell, each with what it said instead."""

    information: Information
    channels: list[str]
    snapshot: str | None
    events: list[EventSaid]
    inputs: list[str]
    relays: list[str]
    relay_times: dict[str, float]
    detector_types: list[DetectorTypeSaid]
    detectors: list[DetectorSaid]
    modules: list[ModuleSaid]
    presets: list[PresetSaid]
    sounds: list[str]
    scenes: list[str]
    doors: list[DoorSaid]
    applications: list[ApplicationSaid]
    refused: dict[str, str]


def topics_of(catalogue: DeviceCatalogue) -> list[str] | None:
    """The topics that a device can send; None when it has not told."""
    events = catalogue.get("events")
    return None if events is None else [e["topic"] for e in events]


#: What a spot of ours is called at a thermal camera while it measures: none of the site's detectors, and gone at once.
MEASURES = "Dromikon measures"


def detector_token(detector: DetectorSaid) -> str:
    """Under which token a detector's events come."""
    return f"{detector.get('channel')}/{detector['name']}"


def topics_set_up(catalogue: DeviceCatalogue) -> dict[str, bool]:
    """For each topic that detectors send, whether one that sends it is set up: what a device *can* send is not yet what it
    does. Other topics are not named."""
    running = {d["type"] for d in catalogue.get("detectors", [])}
    found: dict[str, bool] = {}
    for type in catalogue.get("detector_types", []):
        for topic in type["topics"]:
            found[topic] = found.get(topic, False) or type["name"] in running
    return found
