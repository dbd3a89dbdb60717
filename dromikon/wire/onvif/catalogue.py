"""What a device says of itself, as it is stored: topics, channels, detectors, inputs and relays."""

from typing import Any, NotRequired, TypedDict


class DetectorSaid(TypedDict):
    """A detector (an analytics rule) of a device. `waits`: seconds it watches before it reports."""

    name: str
    type: str
    parameters: dict[str, Any]
    waits: float
    channel: str | None


class Information(TypedDict):
    """GetDeviceInformation, in our words."""

    manufacturer: str
    model: str
    firmware: str
    serial: str


class DeviceCatalogue(TypedDict, total=False):
    """All of it. What a device did not tell is empty or missing; `refused` says what it would not tell, and why."""

    information: Information
    channels: list[str]
    snapshot: str | None
    topics: list[str]
    inputs: list[str]
    relays: list[str]
    detectors: list[DetectorSaid]
    refused: NotRequired[list[str]]
