"""A device's ONVIF client, made of what is kept of it."""

from collections.abc import Awaitable, Callable
from typing import TypeVar

from dromikon.sources.models import Device
from dromikon.wire.onvif.client import OnvifDevice

T = TypeVar("T")


def client_of(device: Device) -> OnvifDevice:
    """A client that is to be closed by whoever asked for it. Raises SealBroken."""
    return OnvifDevice(device.address, device.user, device.password, certificate=device.certificate)


async def asked(device: Device, question: Callable[[OnvifDevice], Awaitable[T]]) -> T:
    """One conversation: clock and services first, then the question. Raises DeviceError, SealBroken."""
    client = client_of(device)
    try:
        # A password's digest carries the time.
        await client.measure_clock()
        await client.discover_services()
        return await question(client)
    finally:
        await client.close()
