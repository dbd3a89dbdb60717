"""From a stored message to an event, a change of a device's health, a new catalogue, or unclaimed."""

import json
from dataclasses import dataclass, field
from typing import Any

from dromikon.core import reading
from dromikon.core.decoding import Decoded, NotDecoded
from dromikon.core.decoding import http as plain_http
from dromikon.core.decoding import onvif as onvif_topics
from dromikon.core.events import Phase, Scalar
from dromikon.intake.inbox import Stored
from dromikon.sources.models import Device, Intake, Point
from dromikon.wire.onvif.notification import parse_notification
from dromikon.wire.onvif.soap import DeviceError

#: A device clock further off than this is not believed to be a clock at all.
BELIEVABLE = 86_400_000


@dataclass(frozen=True, slots=True)
class Draft:
    """An event before it has its place in the journal."""

    site: str
    kind: str
    point: str
    phase: Phase
    received_at: int
    occurred_at: int
    device_at: int | None
    fields: dict[str, Scalar]
    told_on_request: bool
    inbox: int


@dataclass(frozen=True, slots=True)
class Health:
    """A device came or went."""

    device: str
    site: str
    state: str
    reason: str
    message: str
    clock_offset_ms: int
    at: int
    inbox: int
    points: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Catalogue:
    """What a device says of itself."""

    device: str
    content: dict[str, Any]


@dataclass(frozen=True, slots=True)
class NotClaimed:
    """A message nobody can use yet, and why."""

    site: str
    source: str
    reason: str
    raw: str
    at: int
    inbox: int


Ingested = Draft | Health | Catalogue | NotClaimed | None


@dataclass
class Directory:
    """What ingestion must know of the configuration; read again whenever facts change."""

    devices: dict[str, tuple[str, str]] = field(default_factory=dict)
    intakes: dict[str, tuple[str, str]] = field(default_factory=dict)
    by_token: dict[tuple[str, str], str] = field(default_factory=dict)
    cameras: dict[str, tuple[str, ...]] = field(default_factory=dict)
    by_site: dict[str, dict[str, str]] = field(default_factory=dict)

    @classmethod
    def read(cls) -> "Directory":
        found = cls()
        found.devices = {d.id: (d.site_id, d.name) for d in Device.objects.all()}
        found.intakes = {i.id: (i.site_id, i.name) for i in Intake.objects.all()}
        cameras: dict[str, list[str]] = {}
        for point in Point.objects.all():
            if point.device_id:
                found.by_token[point.device_id, point.token] = point.id
                if point.kind == "camera":
                    cameras.setdefault(point.device_id, []).append(point.id)
            site = found.by_site.setdefault(point.site_id, {})
            site[point.id] = point.id
            if point.device_id is None and point.token:
                site[point.token] = point.id
        found.cameras = {device: tuple(points) for device, points in cameras.items()}
        return found


def ingest(stored: Stored, directory: Directory) -> Ingested:
    """Understand one message. Never raises for anything a sender can send; None for a source that is gone."""
    message = stored.message
    if message.adapter == "http":
        known = directory.intakes.get(message.source)
        return _from_http(stored, directory, *known) if known else None
    known = directory.devices.get(message.source)
    if known is None:
        return None
    if message.adapter == "onvif":
        return _from_onvif(stored, directory, *known)
    if message.adapter == "catalogue":
        return Catalogue(message.source, json.loads(message.body))
    if message.adapter == "session":
        points = directory.cameras.get(message.source, ())
        body = json.loads(message.body)
        return Health(message.source, known[0], at=message.received_at, inbox=stored.id, points=points, **body)
    return _unclaimed(stored, *known, f"Nothing here reads messages of the sort “{message.adapter}”.")


def _from_onvif(stored: Stored, directory: Directory, site: str, name: str) -> Ingested:
    message = stored.message
    try:
        note = parse_notification(message.body)
        decoded = onvif_topics.decode(note.topic, note.operation, note.source, note.data)
    except (DeviceError, NotDecoded) as error:
        return _unclaimed(stored, site, name, str(error))
    point = directory.by_token.get((message.source, decoded.token))
    if point is None:
        return _unclaimed(stored, site, name, f"The device has no point “{decoded.token}”.")
    offset = int(json.loads(message.meta).get("clock_offset_ms", 0))
    return _draft(stored, site, point, decoded, note.device_at, offset)


def _from_http(stored: Stored, directory: Directory, site: str, name: str) -> Ingested:
    try:
        content = reading.content(stored.message.body)
    except reading.NotReadable as error:
        return _unclaimed(stored, site, name, f"The message cannot be read: {error}.")
    except ValueError:
        return _unclaimed(stored, site, name, "The message is not JSON.")
    try:
        decoded, said = plain_http.decode(content)
    except NotDecoded as error:
        return _unclaimed(stored, site, name, str(error))
    point = directory.by_site.get(site, {}).get(decoded.token)
    if point is None:
        return _unclaimed(stored, site, name, f"The site has no point “{decoded.token}”.")
    return _draft(stored, site, point, decoded, said, 0)


def _draft(stored: Stored, site: str, point: str, decoded: Decoded, device_at: int | None, offset: int) -> Draft:
    received = stored.message.received_at
    occurred = received
    if device_at is not None and abs(device_at - offset - received) < BELIEVABLE:
        # A device cannot tell of the future: what seems later than its receipt is the rest of the clock's error.
        occurred = min(device_at - offset, received)
    return Draft(
        site, decoded.kind, point, decoded.phase, received, occurred, device_at, dict(decoded.fields),
        decoded.told_on_request, stored.id,
    )  # fmt: skip


def _unclaimed(stored: Stored, site: str, name: str, reason: str) -> NotClaimed:
    raw = stored.message.body[:20_000].decode("utf-8", "replace")
    return NotClaimed(site, name, reason, raw, stored.message.received_at, stored.id)
