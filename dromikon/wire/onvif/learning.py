"""All that a device is asked about itself. One more part is one entry of `PARTS`, and its type in the catalogue."""

from collections.abc import Awaitable, Callable, Sequence
from typing import Any, cast

from dromikon.core.devices.catalogue import DeviceCatalogue
from dromikon.wire.onvif import analytics, parts
from dromikon.wire.onvif.client import OnvifDevice, Profile
from dromikon.wire.onvif.namespaces import TAM, TAN, TDC, TMD, TPTZ
from dromikon.wire.onvif.soap import NOBODY, DeviceError
from dromikon.wire.onvif.topic_set import event_properties

Question = Callable[[OnvifDevice, Sequence[Profile]], Awaitable[Any]]


async def _snapshot(device: OnvifDevice, profiles: Sequence[Profile]) -> str | None:
    return await parts.snapshot_address(device, profiles[0]) if profiles else None


#: Each part of the catalogue: the question, the service that it needs (without it the device has none of it), and whether
#: it hangs on the profiles.
PARTS: dict[str, tuple[Question, str, bool]] = {
    "information": (lambda d, _: parts.information(d), "", False),
    "channels": (lambda d, _: parts.channels(d), "", False),
    "snapshot": (_snapshot, "", True),
    "events": (lambda d, _: event_properties(d), "", False),
    "inputs": (lambda d, _: parts.inputs(d), TMD, False),
    "relays": (lambda d, _: parts.relays(d), "", False),
    "relay_times": (lambda d, _: parts.relay_times(d), "", False),
    "detector_types": (analytics.detector_types, TAN, True),
    "detectors": (analytics.detectors, TAN, True),
    "modules": (analytics.modules, TAN, True),
    "presets": (parts.presets, TPTZ, True),
    "sounds": (parts.sounds, "", True),
    "scenes": (parts.scenes, "", True),
    "doors": (lambda d, _: parts.doors(d), TDC, False),
    "applications": (lambda d, _: parts.applications(d), TAM, False),
}


async def learn(device: OnvifDevice) -> DeviceCatalogue:
    """What the device says of itself. Each question may be refused or unknown to it: then that part is not known, and
    `refused` says so. Raises DeviceError only when it does not answer any more."""
    found: dict[str, Any] = {}
    refused: dict[str, str] = {}
    profiles: list[Profile] = []
    try:
        profiles = await device.profiles()
    except DeviceError as error:
        refused = dict.fromkeys((part for part, (_, _, hangs) in PARTS.items() if hangs), _said(error))
    for part, (question, service, _) in PARTS.items():
        if part in refused:
            continue
        if service and not device.has(service):
            found[part] = []
            continue
        try:
            found[part] = await question(device, profiles)
        except DeviceError as error:
            refused[part] = _said(error)
    return cast(DeviceCatalogue, {**found, "refused": refused})


def _said(error: DeviceError) -> str:
    """What it said instead of an answer. Raises what means that nobody answers."""
    if error.reason in NOBODY:
        raise error
    return str(error)
