"""What a device says it can send (ONVIF GetEventProperties)."""

from collections.abc import Iterator

from lxml import etree

from dromikon.core.devices.catalogue import EventSaid
from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.namespaces import TEV, TT, WSTOP
from dromikon.wire.onvif.topics import canonical

Steps = tuple[tuple[str | None, str | None, str], ...]


async def event_properties(device: OnvifDevice) -> list[EventSaid]:
    """Every event the device can send, by topic."""
    answer = await device.ask(TEV, "GetEventProperties")
    topic_set = answer.find(f"{{{WSTOP}}}TopicSet")
    found = {} if topic_set is None else {e["topic"]: e for e in _below(topic_set, ())}
    return [found[topic] for topic in sorted(found)]


def _below(element: etree._Element, path: Steps) -> Iterator[EventSaid]:
    """The elements of a topic set that are marked as topics."""
    for child in element:
        if not isinstance(child.tag, str) or child.tag == f"{{{TT}}}MessageDescription":
            continue
        name = etree.QName(child)
        here = (*path, (name.namespace, child.prefix, name.localname))
        if child.get(f"{{{WSTOP}}}topic") in ("true", "1"):
            yield _event(child, canonical(here))
        yield from _below(child, here)


def _event(element: etree._Element, topic: str) -> EventSaid:
    said = element.find(f"{{{TT}}}MessageDescription")
    if said is None:
        return {"topic": topic, "state": False, "source": {}, "data": {}}
    return {
        "topic": topic,
        "state": said.get("IsProperty") in ("true", "1"),
        "source": _items(said, "Source"),
        "data": _items(said, "Data"),
    }


def _items(said: etree._Element, part: str) -> dict[str, str]:
    found = said.findall(f"{{{TT}}}{part}/{{{TT}}}SimpleItemDescription")
    return {i.get("Name", ""): i.get("Type", "").rsplit(":", 1)[-1] for i in found}
