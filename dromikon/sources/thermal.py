"""Verbs on a thermal camera: how it measures and shows heat is set on the device, which has the last word."""

from collections.abc import Awaitable, Callable
from typing import Any

from asgiref.sync import async_to_sync
from pydantic import ValidationError

from dromikon.clock import now_ms
from dromikon.core.devices.catalogue import topics_of
from dromikon.core.devices.radiometry import Radiometry
from dromikon.core.rules.document import Problem, problems_of
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.secrets import SealBroken
from dromikon.sources.client import asked
from dromikon.sources.models import Device
from dromikon.sources.offers import catalogue_of
from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.soap import DeviceError
from dromikon.wire.onvif.thermal import Thermal, read_thermal, write_thermal


def measures_heat(device: Device) -> bool:
    """Whether a device has told that it measures temperatures."""
    return any("Radiometry" in topic for topic in topics_of(catalogue_of(device)) or ())


def thermal_of(device: Device) -> Thermal:
    """How a device measures and shows heat, asked now. Raises Refused with what the device says."""
    return _asked(device, lambda client: read_thermal(client, _channels(device)))


def set_thermal(access: Access, device: Device, content: Any) -> Thermal:
    """Have a device measure and show heat otherwise; answers as the device has it then. Raises Refused, PermissionDenied."""
    access.need(May.EDIT_SOURCES)
    try:
        wanted = Radiometry.model_validate(content)
    except ValidationError as error:
        raise Refused(problems_of(error)) from error

    async def change(client: OnvifDevice) -> Thermal:
        await write_thermal(client, _channels(device), wanted)
        return await read_thermal(client, _channels(device))

    found = _asked(device, change)
    record(access.site, access.person, "set how heat is measured", f"device:{device.id}", now_ms(), name=device.name)
    return found


def _channels(device: Device) -> list[str]:
    return catalogue_of(device).get("channels", [])


def _asked(device: Device, question: Callable[[OnvifDevice], Awaitable[Thermal]]) -> Thermal:
    try:
        return async_to_sync(asked)(device, question)
    except SealBroken as error:
        raise Refused([Problem(path="", message=str(error))]) from error
    except DeviceError as error:
        raise Refused([Problem(path="", message=f"The device says: {error}")]) from error
