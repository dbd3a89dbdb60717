"""Notification messages of ONVIF events (ONVIF Core Specification, "Notification Interface")."""

from dataclasses import dataclass, field

from lxml import etree

from dromikon.core import instants
from dromikon.core.instants import Instant
from dromikon.wire.onvif.namespaces import TT, WSNT
from dromikon.wire.onvif.soap import DeviceError, parse_xml
from dromikon.wire.onvif.topics import canonical


@dataclass(frozen=True, slots=True)
class Notification:
    """One message: its topic ("tns1:RuleEngine/LineDetector/Crossed"), its items, and how a property stands."""

    topic: str
    source: dict[str, str]
    data: dict[str, str]
    key: dict[str, str] = field(default_factory=dict)
    #: Initialized, Changed, Deleted, or "" for a message that is no property.
    operation: str = ""
    device_at: Instant | None = None


def parse_notification(data: bytes) -> Notification:
    """Read one wsnt:NotificationMessage. Raises DeviceError("malformed") with what is missing."""
    root = parse_xml(data)
    topic = root.find(f"{{{WSNT}}}Topic")
    message = root.find(f"{{{WSNT}}}Message/{{{TT}}}Message")
    if topic is None or not (topic.text or "").strip():
        raise DeviceError("malformed", "The message names no topic.")
    if message is None:
        raise DeviceError("malformed", "The message has no tt:Message in it.")
    return Notification(
        topic=_canonical_topic(topic),
        source=_items(message, "Source"),
        data=_items(message, "Data"),
        key=_items(message, "Key"),
        operation=message.get("PropertyOperation", ""),
        device_at=_time(message.get("UtcTime")),
    )


def _canonical_topic(topic: etree._Element) -> str:
    """The topic with our prefixes, whatever prefixes the device chose."""
    steps = []
    for step in (topic.text or "").strip().split("/"):
        prefix, colon, name = step.rpartition(":")
        # A prefix that the message does not declare stays as it is.
        space = topic.nsmap.get(prefix, prefix) if colon else None
        steps.append((space, prefix or None, name))
    return canonical(steps)


def _items(message: etree._Element, part: str) -> dict[str, str]:
    found = message.findall(f"{{{TT}}}{part}/{{{TT}}}SimpleItem")
    return {item.get("Name", ""): item.get("Value", "") for item in found}


def _time(text: str | None) -> Instant | None:
    if not text:
        return None
    try:
        return instants.parse(text)
    except ValueError:
        return None
