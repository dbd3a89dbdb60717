"""Who a device is, asked before it is added: so that it has a name to begin with, and nobody adds it twice."""

import asyncio
from dataclasses import dataclass
from urllib.parse import urlsplit

from asgiref.sync import async_to_sync

from dromikon.sites.models import Site
from dromikon.sources.models import Device
from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.soap import DeviceError
from dromikon.wire.outgoing import NotAllowed

#: It is waited for so long, in seconds; a device that is slower is added all the same, and says who it is later.
PATIENCE = 5.0


@dataclass(frozen=True, slots=True)
class Identity:
    """What a device said: `refused` when it answers, but not to this user."""

    manufacturer: str = ""
    model: str = ""
    serial: str = ""
    refused: bool = False

    @property
    def name(self) -> str:
        """A name to begin with."""
        return f"{self.manufacturer} {self.model}".strip()


def identify(address: str, user: str, password: str) -> Identity | None:
    """Ask a device who it is; None when it does not answer."""
    try:
        return async_to_sync(_ask)(address, user, password)
    except DeviceError as error:
        return Identity(refused=True) if error.reason == "refused" else None
    except (NotAllowed, TimeoutError):
        return None


async def _ask(address: str, user: str, password: str) -> Identity:
    device = OnvifDevice(address, user, password)
    try:
        async with asyncio.timeout(PATIENCE):
            # Its clock, since a password's digest carries the time.
            await device.measure_clock()
            said = await device.information()
    finally:
        await device.close()
    return Identity(said.manufacturer, said.model, said.serial)


def same_device(site: Site, identity: Identity, address: str, but: Device | None = None) -> Device | None:
    """A device of the customer's sites that is the same: by maker and serial number, at any address; or at this very
    address, where it tells no number."""
    others = Device.objects.filter(site__customer=site.customer_id, retired_at=None).exclude(pk=but.pk if but else None)
    for other in others.select_related("site"):
        known = other.information
        told = identity.serial and (known.get("manufacturer"), known.get("serial")) == (
            identity.manufacturer,
            identity.serial,
        )
        if told or other.address == address:
            return other
    return None


def host_of(address: str) -> str:
    """What a device is called while nobody knows better."""
    return urlsplit(address).hostname or address
