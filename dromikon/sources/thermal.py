"""Verbs on a thermal camera: how it measures and shows heat is set on the device, which has the last word."""

from collections.abc import Awaitable, Callable
from typing import Any, TypeVar

from asgiref.sync import async_to_sync
from pydantic import ValidationError

from dromikon.clock import now_ms
from dromikon.core.devices.catalogue import DetectorTypeSaid, topics_of
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
from dromikon.wire.onvif.measuring import measure, spots
from dromikon.wire.onvif.soap import DeviceError
from dromikon.wire.onvif.thermal import Thermal, read_thermal, write_thermal

T = TypeVar("T")


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


def measures_spots(device: Device) -> DetectorTypeSaid | None:
    """The type of detector by which a device measures a single place, if it does."""
    return spots(catalogue_of(device).get("detector_types", []))


def measure_at(access: Access, device: Device, x: float, y: float) -> float:
    """How warm a camera reads a place of its picture (-1 to 1, y upwards) just now, in °C. It takes seconds. Raises Refused,
    PermissionDenied."""
    access.need(May.EDIT_SOURCES)
    described = measures_spots(device)
    if described is None:
        raise Refused([Problem(path="", message="The camera measures no single places.")])
    if not (-1 <= x <= 1 and -1 <= y <= 1):
        raise Refused([Problem(path="x", message="The place lies outside of the picture.")])
    found = _asked(device, lambda client: measure(client, described, (x, y)))
    record(access.site, access.person, "measured a place", f"device:{device.id}", now_ms(), name=device.name)
    return round(found, 1)


def _channels(device: Device) -> list[str]:
    return catalogue_of(device).get("channels", [])


def _asked(device: Device, question: Callable[[OnvifDevice], Awaitable[T]]) -> T:
    try:
        return async_to_sync(asked)(device, question)
    except SealBroken as error:
        raise Refused([Problem(path="", message=str(error))]) from error
    except DeviceError as error:
        raise Refused([Problem(path="", message=f"The device says: {error}")]) from error
