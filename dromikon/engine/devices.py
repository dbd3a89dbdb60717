"""What a turn writes down of devices: whether they answer, and what they say they have."""

from dromikon.core.events import Phase
from dromikon.daybook import feed
from dromikon.daybook.services import record_act
from dromikon.engine.adapters.base import Catalogue, Draft, Health
from dromikon.engine.book import Book
from dromikon.sources.models import Device, Point


def note_health(got: Health, book: Book) -> list[Draft]:
    """Write down that a device came or went. Returns the events that this is for its cameras."""
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


def note_catalogue(got: Catalogue, at: int, book: Book) -> None:
    """Write down what a device says it has. How long its detectors watch is a fact that rules reckon with."""
    device = Device.objects.filter(id=got.device).first()
    if device is None:
        return
    device.information = got.content.pop("information", {})
    device.catalogue = got.content
    device.save(update_fields=["information", "catalogue"])
    waits = {d["name"]: float(d["waits"]) for d in got.content.get("detectors", [])}
    changed = False
    for point in Point.objects.filter(device=device, kind="detector"):
        told = waits.get(point.token.split("/", 1)[-1])
        if told is not None and told != point.waits:
            Point.objects.filter(pk=point.pk).update(waits=told)
            changed = True
    if changed:
        record_act(device.site_id, "facts", at)
    book.tell(feed.device(device.site_id, device.id, device.state, at))
