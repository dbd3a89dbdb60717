"""What a turn writes down of devices: whether they answer, what they say they have, and what no longer comes from them."""

from typing import cast

from dromikon.core.devices.catalogue import DeviceCatalogue, detector_token
from dromikon.core.devices.drift import PARTS, Change, changes, kept
from dromikon.core.devices.standing import CLOCK_WRONG
from dromikon.core.events import Phase, Scalar
from dromikon.core.kinds import SILENT
from dromikon.core.rules.evaluate import Evaluator
from dromikon.daybook import feed
from dromikon.daybook.models import ActRow
from dromikon.daybook.services import record_act
from dromikon.engine.adapters.base import Catalogue, Health
from dromikon.engine.book import Book
from dromikon.engine.draft import Draft
from dromikon.sources.models import CatalogueChange, Device, Point
from dromikon.sources.told import told_of


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
    return [*_lost(got, before), *_clock(got)]


def _lost(got: Health, before: str) -> list[Draft]:
    """It is lost, with the word for why, or it is back."""
    if before == got.state:
        return []
    phase = Phase.BEGIN if got.state == Device.State.LOST else Phase.END
    fields: dict[str, Scalar] = {"reason": got.reason} if got.reason else {}
    return _drafts(got, "device.lost", phase, fields, told_on_request=before == Device.State.UNKNOWN)


def _clock(got: Health) -> list[Draft]:
    """Whether its clock is wrong; told at each connection, an event when that has changed."""
    if got.state != Device.State.ONLINE:
        return []
    phase = Phase.BEGIN if abs(got.clock_offset_ms) >= CLOCK_WRONG else Phase.END
    fields: dict[str, Scalar] = {"seconds": round(got.clock_offset_ms / 1000, 1)}
    return _drafts(got, "device.clock_wrong", phase, fields, told_on_request=True)


def _drafts(
    got: Health | Catalogue, kind: str, phase: Phase, fields: dict[str, Scalar], told_on_request: bool
) -> list[Draft]:
    """An event at each point that stands for the device."""
    return [
        Draft(got.site, kind, point, phase, got.at, got.at, None, dict(fields), told_on_request, got.inbox)
        for point in got.points
    ]


def note_catalogue(got: Catalogue, at: int, book: Book) -> list[Draft]:
    """Write down what a device says it has, and how that differs from what it said before. Returns the events that this is
    for the points that stand for it. How long its detectors watch, and what it says of cameras and outputs, are facts that
    rules reckon with."""
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
    waits, told = _note_waits(device, content), _note_told(device, content)
    if waits or told:
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


def _note_told(device: Device, content: DeviceCatalogue) -> bool:
    """Keep what the device says of its cameras and outputs; whether that has changed."""
    changed = []
    for point in Point.objects.filter(device=device, kind__in=("camera", "relay", "siren"), retired_at=None):
        told = told_of(point, content)
        if told != point.told:
            point.told = told
            changed.append(point)
    Point.objects.bulk_update(changed, ["told"])
    return bool(changed)


def _changed(got: Catalogue, found: list[Change]) -> list[Draft]:
    """An event where something is new or gone; a setting that was changed is told on the device's page."""
    new, gone = (_named(found, how) for how in ("new", "gone"))
    if not new and not gone:
        return []
    return _drafts(got, "device.changed", Phase.PULSE, {"new": new, "gone": gone}, told_on_request=False)


def _named(found: list[Change], how: str) -> str:
    return ", ".join(f"{PARTS[c.part]} {c.name}" for c in found if c.how == how)[:500]


def note_silences(act: ActRow, evaluator: Evaluator) -> list[Draft]:
    """The events at points that have fallen silent, and at those from which something comes again."""
    silent, found = act.body["points"], []
    for point in evaluator.facts.points:
        before, fields = evaluator.told_state(SILENT, point.id), silent.get(point.id)
        if bool(before) != (fields is not None):
            phase = Phase.END if fields is None else Phase.BEGIN
            found.append(Draft(act.site, SILENT, point.id, phase, act.at, act.at, None, dict(fields or {}), False, 0))
    return found
