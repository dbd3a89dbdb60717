"""What an adapter is: it makes of one stored message what the engine works with. One more is one file here and one line in
`__init__`."""

import json
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal, Protocol

from dromikon.core.decoders.decode import Made, read_with_all
from dromikon.core.decoding import Decoded
from dromikon.core.devices.catalogue import DeviceCatalogue
from dromikon.core.readings.units import OtherQuantity
from dromikon.engine.directory import Directory
from dromikon.engine.draft import Draft
from dromikon.engine.readings import in_unit
from dromikon.intake.inbox import Stored

#: A device clock further off than this is not believed to be a clock at all.
BELIEVABLE = 86_400_000
#: So much of a message nobody can use is kept to be looked at, in bytes.
MOST_KEPT = 20_000
#: A batch has at most so many parts.
LARGEST_BATCH = 500


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
    site: str
    content: DeviceCatalogue
    at: int
    inbox: int
    points: tuple[str, ...] = ()


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


@dataclass(frozen=True, slots=True)
class Sender:
    """Who sent a message, as configured."""

    site: str
    name: str


class Adapter(Protocol):
    """Reads messages of one sort. `sent_by`: which part of the configuration its senders are in."""

    sent_by: Literal["intake", "device"]

    def read(self, stored: Stored, directory: Directory, sender: Sender) -> Ingested | list[Ingested]:
        """Understand one message; it may tell of several things. Never raises for anything a sender can send."""
        ...


def draft(
    stored: Stored, sender: Sender, point: str, decoded: Decoded, device_at: int | None, offset: int = 0
) -> Draft:
    """The event of a decoded message. `device_at` is the device's own time, `offset` how wrong its clock goes, in ms."""
    received = stored.message.received_at
    occurred = received
    if device_at is not None and abs(device_at - offset - received) < BELIEVABLE:
        # A device cannot tell of the future: what seems later than its receipt is the rest of the clock's error.
        occurred = min(device_at - offset, received)
    return Draft(
        sender.site, decoded.kind, point, decoded.phase, received, occurred, device_at, dict(decoded.fields),
        decoded.told_on_request, stored.id, decoded.ends_after,
    )  # fmt: skip


def placed(
    stored: Stored, sender: Sender, directory: Directory, decoded: Decoded, device_at: int | None, offset: int = 0
) -> Draft | NotClaimed:
    """The event of a decoded message at the point of the sender's site that it names."""
    point = directory.point(sender.site, stored.message.source, decoded.token)
    if point is None:
        return unclaimed(stored, sender, f"The site has no point “{decoded.token}”.")
    return at_point(stored, sender, directory, point, decoded, device_at, offset)


def at_point(
    stored: Stored,
    sender: Sender,
    directory: Directory,
    point: str,
    decoded: Decoded,
    device_at: int | None,
    offset: int,
) -> Draft | NotClaimed:
    """The event of a decoded message at a point, a reading in the unit of that point."""
    sensor = directory.sensors.get(point)
    try:
        decoded = in_unit(decoded, sensor.unit) if sensor else decoded
    except OtherQuantity as error:
        return unclaimed(stored, sender, str(error))
    return draft(stored, sender, point, decoded, device_at, offset)


def unclaimed(stored: Stored, sender: Sender, reason: str, content: Any = None) -> NotClaimed:
    """A message that nobody can use, and why. `content`: what it says, where its bytes say nothing to people."""
    raw = stored.message.body[:MOST_KEPT].decode("utf-8", "replace")
    if content is not None:
        raw = json.dumps(content, ensure_ascii=False)[:MOST_KEPT]
    return NotClaimed(sender.site, sender.name, reason, raw, stored.message.received_at, stored.id)


def each(stored: Stored, sender: Sender, content: Any, one: Callable[[Any], Ingested]) -> list[Ingested]:
    """What a message or a batch of them becomes. Parts of a batch that nobody can use are kept together, as one message."""
    if not isinstance(content, list):
        return [one(content)]
    if not content or len(content) > LARGEST_BATCH:
        return [unclaimed(stored, sender, f"A batch has from 1 to {LARGEST_BATCH} parts.")]
    found = [one(part) for part in content]
    failed = [(place, got) for place, got in enumerate(found, 1) if isinstance(got, NotClaimed)]
    if not failed:
        return found
    reasons = "; ".join(f"part {place}: {got.reason}" for place, got in failed[:5])
    more = f"; and {len(failed) - 5} more" if len(failed) > 5 else ""
    return [*(got for got in found if not isinstance(got, NotClaimed)), unclaimed(stored, sender, reasons + more)]


def taught(
    content: Any,
    stored: Stored,
    directory: Directory,
    sender: Sender,
    offset: int = 0,
    adjust: Callable[[Made], Made] = lambda made: made,
) -> list[Ingested] | None:
    """What the decoders of its sender make of a message; None where none of them fits. What of it has no point, or cannot be
    read, is kept as one message. `offset`: how wrong the sender's clock goes."""
    known = directory.decoders.get(stored.message.source, ())
    read = read_with_all(known, content) if known else []
    if not read:
        return None
    found: list[Ingested] = []
    failed: list[str] = []
    for decoder, reading in read:
        if reading.outcome == "failed":
            failed.append(f"{decoder.name}: {reading.why}")
        for made in map(adjust, reading.made):
            got = placed(stored, sender, directory, made.decoded, made.at, offset)
            if isinstance(got, NotClaimed):
                failed.append(f"{decoder.name}: {got.reason}")
            else:
                found.append(got)
    return [*found, unclaimed(stored, sender, "; ".join(failed[:5]))] if failed else found
