"""What a turn writes down of devices: whether they answer, and what they say they have."""

from typing import cast

from dromikon.core.devices.catalogue import DeviceCatalogue, detector_token
from dromikon.core.devices.drift import PARTS, Change, changes, kept
from dromikon.core.events import Phase, Scalar
from dromikon.daybook import feed
from dromikon.daybook.services import record_act
from dromikon.engine.adapters.base import Catalogue, Draft, Health
from dromikon.engine.book import Book
from dromikon.sources.models import CatalogueChange, Device, Point


def note_health(got: Health, book: Book) -> list[Draft]:
    """Write down that a device came or went. Returns the events that this is for the points that stand for it."""
    device = Device.objects.filter(id=got.device).first()
    if device is None:
        return []
    before = device.state
    if before != got.state:
        device.state_since = got.at
    device.state, device.reason, device.message = got.state, got.reason, got.message
    device.clock_offset_ms = got.clock_offset_ms
    device.save(update_fields=["state", "reason", "message", "state_since", "clock_offset_ms"])
    book.tell(feed.device(got.site, got.device, got.state, got.at))
    if before == got.state:
        return []
    phase = Phase.BEGIN if got.state == Device.State.LOST else Phase.END
    first = before == Device.State.UNKNOWN
    return [
        Draft(got.site, "device.lost", point, phase, got.at, got.at, None, {}, first, got.inbox) for point in got.points
    ]


def note_catalogue(got: Catalogue, at: int, book: Book) -> list[Draft]:
    """Write down what a device says it has, and how that differs from what it said before. Returns the events that this is
    for the points that stand for it. How long its detectors watch is a fact that rules reckon with."""
    device = Device.objects.filter(id=got.device).first()
    if device is None:
        return []
    before = cast(DeviceCatalogue, {**device.catalogue, "information": device.information})
    content = kept(before, got.content)
    found = changes(before, content)
    device.information = content.pop("information", {"manufacturer": "", "model": "", "firmware": "", "serial": ""})
    device.catalogue, device.catalogue_at = content, got.at
    device.save(update_fields=["information", "catalogue", "catalogue_at"])
    for change in found:
        # What changes to and fro is told once, as it is now.
        device.changes.filter(part=change.part, name=change.name[:200], noted_at=None).delete()
        book.rows.append(
            CatalogueChange(
                site_id=device.site_id, device=device, at=got.at, part=change.part, how=change.how,
                name=change.name[:200], said=change.said,
            )
        )  # fmt: skip
    if _note_waits(device, content):
        record_act(device.site_id, "facts", at)
    book.tell(feed.device(device.site_id, device.id, device.state, at))
    return _changed(got, found)


def _note_waits(device: Device, content: DeviceCatalogue) -> bool:
    """Keep how long each detector watches; whether that has changed."""
    waits = {detector_token(d): float(d["waits"]) for d in content.get("detectors", [])}
    changed = False
    for point in Point.objects.filter(device=device, kind="detector", retired_at=None):
        told = waits.get(point.token)
        if told is not None and told != point.waits:
            Point.objects.filter(pk=point.pk).update(waits=told)
            changed = True
    return changed


def _changed(got: Catalogue, found: list[Change]) -> list[Draft]:
    """An event where something is new or gone; a setting that was changed is told on the device's page."""
    new, gone = (_named(found, how) for how in ("new", "gone"))
    if not new and not gone:
        return []
    fields: dict[str, Scalar] = {"new": new, "gone": gone}
    return [
        Draft(
            got.site, "device.changed", point, Phase.PULSE, got.at, got.at, None, dict(fields), told_on_request=False,
            inbox=got.inbox,
        )
        for point in got.points
    ]  # fmt: skip


def _named(found: list[Change], how: str) -> str:
    return ", ".join(f"{PARTS[c.part]} {c.name}" for c in found if c.how == how)[:500]
