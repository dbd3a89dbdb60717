"""Trying a decoder on messages that an intake or a device really sent, and on one that somebody pastes."""

import json
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from dromikon.core import reading
from dromikon.core.decoders import paths
from dromikon.core.decoders.decode import Made, Reading, read_with
from dromikon.core.decoders.document import DecoderDocument
from dromikon.core.decoding import bodies, mqtt, snmp
from dromikon.core.decoding.onvif import topics
from dromikon.core.instants import iso
from dromikon.core.mibs.names import STANDARD, Names
from dromikon.core.words import t
from dromikon.intake.looking import Captured, captured
from dromikon.sites.models import Site
from dromikon.sources.mibs import names_at
from dromikon.sources.models import Device, Intake, Point
from dromikon.sources.naming import names_of
from dromikon.wire.onvif.notification import parse_notification
from dromikon.wire.onvif.soap import DeviceError

#: Whose messages a decoder reads.
Source = Intake | Device
#: A pasted message has no number.
PASTED = 0


@dataclass(frozen=True, slots=True)
class Message:
    """A message as far as it can be read: its content, or why there is none."""

    id: int
    at: int
    content: Any
    why: str


def source_of(site: Site, document: DecoderDocument) -> Source | None:
    """Whose messages a decoder of a site reads."""
    if document.device is not None:
        return Device.objects.filter(pk=document.device.id, site=site, retired_at=None).first()
    named = document.intake.id if document.intake else ""
    return Intake.objects.filter(pk=named, site=site, retired_at=None).first()


def messages_of(source: Source, limit: int = 40) -> list[Message]:
    """The last messages of an intake or a device, the newest first."""
    names = names_at(source.site_id)
    return [_read(c, names) for c in captured(source.id, limit)]


def pasted(text: str, content_type: str = "") -> Message:
    """A message that somebody has at hand."""
    kind = content_type or ("text/plain" if text.lstrip()[:1] not in "{[<" else "")
    return _read(Captured(PASTED, 0, kind, "", text.encode()))


def _read(message: Captured, names: Names = STANDARD) -> Message:
    try:
        content = _content(message, names)
    except (reading.NotReadable, DeviceError) as error:
        return Message(message.id, message.at, None, str(error))
    except ValueError:
        return Message(message.id, message.at, None, t("It is not JSON."))
    return Message(message.id, message.at, content, "")


def _content(message: Captured, names: Names) -> Any:
    if message.adapter == "snmp":
        return snmp.read(message.body, names)
    if message.adapter == "mqtt":
        return mqtt.read(message.topic, message.retained, message.body)
    if message.adapter == "onvif":
        note = parse_notification(message.body)
        return topics.content(note.topic, note.operation, note.source, note.data)
    return bodies.read(message.content_type, message.query, message.body)[0]


def tried(document: DecoderDocument, source: Source, messages: list[Message]) -> Iterator[dict[str, Any]]:
    """What each message would become, as JSON."""
    here = list(Point.objects.filter(site=source.site, retired_at=None))
    called, by_name = {p.id: p.name for p in here}, names_of(here, source.id)
    for message in messages:
        found = Reading("failed", why=message.why) if message.why else read_with(document, message.content)
        events = [_event(made, called, by_name) for made in found.made]
        lost = next((e["said"] for e in events if not e["point"]), None)
        why = found.why or (t("There is no point “{name}” here.", name=lost) if lost is not None else "")
        outcome = "failed" if lost is not None else found.outcome
        yield {"id": message.id, "outcome": outcome, "why": why, "events": events}


def _event(made: Made, called: dict[str, str], by_name: dict[str, str]) -> dict[str, Any]:
    decoded = made.decoded
    point = by_name.get(decoded.token, "")
    return {
        "kind": decoded.kind, "phase": decoded.phase.value, "point": point, "name": called.get(point, ""), "said": decoded.token,
        "fields": decoded.fields, "at": iso(made.at) if made.at is not None else None,
    }  # fmt: skip


def shown(message: Message) -> dict[str, Any]:
    """A message with every value that can be pointed at."""
    found = paths.leaves(message.content)
    return {
        "id": message.id, "at": message.at, "why": message.why,
        "leaves": [{"path": path, "value": json.dumps(value, ensure_ascii=False)[:200]} for path, value in found],
    }  # fmt: skip
