"""Notification messages of ONVIF events (ONVIF Core Specification, "Notification Interface")."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from itertools import islice

from lxml import etree

from dromikon.core import instants
from dromikon.core.instants import Instant
from dromikon.wire.onvif.namespaces import TT, WSNT
from dromikon.wire.onvif.soap import DeviceError, parse_xml
from dromikon.wire.onvif.topics import canonical

#: So many texts of one element are kept.
MOST_TEXTS = 60


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
    """Simple items by name; of what elements hold, each text and attribute by its path ("LicensePlateInfo/PlateNumber",
    "LicensePlateInfo/PlateNumber@Likelihood")."""
    simple = message.findall(f"{{{TT}}}{part}/{{{TT}}}SimpleItem")
    found = {item.get("Name", ""): item.get("Value", "") for item in simple}
    for item in message.findall(f"{{{TT}}}{part}/{{{TT}}}ElementItem"):
        found.update(islice(_texts(item, item.get("Name", "")), MOST_TEXTS))
    return found


def _texts(element: etree._Element, path: str) -> Iterator[tuple[str, str]]:
    for child in element:
        if isinstance(child.tag, str):
            here = f"{path}/{etree.QName(child).localname}"
            if child.text and child.text.strip():
                yield here, child.text.strip()
            yield from ((f"{here}@{etree.QName(str(n)).localname}", str(v)) for n, v in child.attrib.items())
            yield from _texts(child, here)


def _time(text: str | None) -> Instant | None:
    if not text:
        return None
    try:
        return instants.parse(text)
    except ValueError:
        return None
