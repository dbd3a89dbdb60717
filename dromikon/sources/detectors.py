"""Verbs on a camera's own detectors: they are set on the device, which has the last word."""

from collections.abc import Awaitable, Callable, Mapping, Sequence
from typing import cast

from asgiref.sync import async_to_sync
from django.db import transaction

from dromikon.clock import now_ms
from dromikon.core.devices.catalogue import DetectorSaid, DetectorTypeSaid, DeviceCatalogue, ShapeSaid, detector_token
from dromikon.core.devices.settings import NotSettable, checked_shapes, first_shapes, written
from dromikon.core.rules.document import Problem
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.secrets import SealBroken
from dromikon.sources.client import asked
from dromikon.sources.models import Device
from dromikon.sources.offers import catalogue_of
from dromikon.wire.onvif import analytics
from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.soap import DeviceError

Doing = Callable[[OnvifDevice], Awaitable[None]]


def type_of(device: Device, name: str) -> DetectorTypeSaid | None:
    """How the device describes a type of detector."""
    return next((t for t in catalogue_of(device).get("detector_types", []) if t["name"] == name), None)


def find_detector(device: Device, token: str) -> DetectorSaid | None:
    """A detector by the token under which its events come."""
    return next((d for d in catalogue_of(device).get("detectors", []) if detector_token(d) == token), None)


def change_detector(
    access: Access, device: Device, token: str, settings: Mapping[str, str], shapes: Sequence[ShapeSaid]
) -> DetectorSaid:
    """Set a detector of a device otherwise. Returns it as the device has it then. Raises Refused, PermissionDenied."""
    access.need(May.EDIT_SOURCES)
    before = find_detector(device, token)
    if before is None:
        raise _refused("", "The device has no such detector any more.")
    wanted = _with(device, before, settings, shapes)
    _do(device, lambda client: analytics.write_detector(client, wanted))
    return _note(access, device, "set detector", wanted)


def make_detector(
    access: Access, device: Device, type: str, name: str, shapes: Sequence[ShapeSaid] = ()
) -> DetectorSaid:
    """Make a new detector on a device, of its first channel: where it is drawn, or in the middle of the picture. Raises Refused."""
    access.need(May.EDIT_SOURCES)
    described = type_of(device, type)
    known = catalogue_of(device).get("detectors", [])
    if described is None:
        raise _refused("type", "The device does not run such detectors.")
    name = name.strip()[:64]
    if not name or any(d["name"] == name for d in known):
        raise _refused("name", "Give it a name that no other detector of this device has.")
    analytic = next((d for d in known if d.get("analytics")), None)
    wanted: DetectorSaid = {
        "name": name, "type": type, "parameters": _defaults(described), "waits": 0.0,
        "channel": analytic["channel"] if analytic else None, "analytics": analytic["analytics"] if analytic else "",
        "shapes": _drawn(described, shapes),
    }  # fmt: skip

    async def make(client: OnvifDevice) -> None:
        if not wanted["analytics"]:
            profile = next((p for p in await client.profiles() if p.analytics), None)
            if profile is None:
                raise DeviceError("fault", "The device has no channel that detectors can watch.")
            wanted["analytics"], wanted["channel"] = profile.analytics, profile.video
        await analytics.write_detector(client, wanted, new=True)

    _do(device, make)
    return _note(access, device, "made detector", wanted)


def delete_detector(access: Access, device: Device, token: str) -> None:
    """Take a detector off a device. Its point stays until somebody takes it away: rules may name it. Raises Refused."""
    access.need(May.EDIT_SOURCES)
    before = find_detector(device, token)
    if before is None:
        raise _refused("", "The device has no such detector any more.")
    _do(device, lambda client: analytics.delete_detector(client, before))
    _note(access, device, "deleted detector", before)


def _drawn(type: DetectorTypeSaid, shapes: Sequence[ShapeSaid]) -> list[ShapeSaid]:
    first = first_shapes(type)
    if not shapes:
        return first
    if [(s["item"], s["sort"]) for s in shapes] != [(s["item"], s["sort"]) for s in first]:
        raise _refused("shapes", "Its shapes are other ones.")
    try:
        return checked_shapes(shapes)
    except NotSettable as error:
        raise _refused(error.path, str(error)) from error


def _defaults(type: DetectorTypeSaid) -> dict[str, str]:
    """Settings that a new detector begins with, where a device would refuse an empty one."""
    begin = {"TimeThreshold": "PT10S", "Direction": "Any", "ConfidenceLevel": "0", "TimeInterval": "PT10S"}
    return {p["name"]: begin.get(p["name"], "") for p in type["parameters"] if p["name"] in begin}


def _with(
    device: Device, before: DetectorSaid, settings: Mapping[str, str], shapes: Sequence[ShapeSaid]
) -> DetectorSaid:
    described = type_of(device, before["type"])
    known = {p["name"] for p in described["parameters"]} if described else set()
    known |= set(before["parameters"])
    if strange := set(settings) - known:
        raise _refused(f"settings.{min(strange)}", "The device has no such setting.")
    if {s["item"] for s in shapes} != {s["item"] for s in before.get("shapes", [])}:
        raise _refused("shapes", "Its shapes are other ones.")
    try:
        values = written(settings, described["parameters"] if described else ())
        return {**before, "parameters": {**before["parameters"], **values}, "shapes": checked_shapes(shapes)}
    except NotSettable as error:
        raise _refused(error.path, str(error)) from error


def _do(device: Device, doing: Doing) -> None:
    try:
        async_to_sync(asked)(device, doing)
    except DeviceError as error:
        raise _refused("", f"The device did not take it: {error}") from error
    except SealBroken as error:
        raise _refused("", "Its password cannot be opened; set it again under Change.") from error


def _note(access: Access, device: Device, verb: str, detector: DetectorSaid) -> DetectorSaid:
    """Read the detectors back, so that what is shown is what the device has, and have its session learn the rest."""

    async def read(client: OnvifDevice) -> list[DetectorSaid]:
        return await analytics.detectors(client, await client.profiles())

    try:
        now = async_to_sync(asked)(device, read)
    except DeviceError as error:
        raise _refused("", f"The device took it, but does not say how it is now: {error}") from error
    with transaction.atomic():
        fresh = Device.objects.get(pk=device.pk)
        fresh.catalogue = cast(DeviceCatalogue, {**fresh.catalogue, "detectors": now})
        fresh.asked_at = now_ms()
        fresh.save(update_fields=["catalogue", "asked_at"])
        record(
            access.site,
            access.person,
            verb,
            f"device:{device.id}",
            now_ms(),
            name=device.name,
            detector=detector["name"],
        )
    device.catalogue = fresh.catalogue
    return find_detector(fresh, detector_token(detector)) or detector


def _refused(path: str, message: str) -> Refused:
    return Refused([Problem(path=path, message=message)])
