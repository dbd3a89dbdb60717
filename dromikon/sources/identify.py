"""Who a device is, asked before it is added: so that it has a name to begin with, and nobody adds it twice."""

import asyncio
import contextlib
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any, Literal, cast
from urllib.parse import urlsplit

from asgiref.sync import async_to_sync

from dromikon.sites.models import Site
from dromikon.sources.models import Device
from dromikon.wire.onvif import parts
from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.learning import learn
from dromikon.wire.onvif.soap import DeviceError
from dromikon.wire.outgoing import NotAllowed

#: It is waited for so long, in seconds; a device that is slower is added all the same, and says who it is later.
PATIENCE = 5.0
#: Many are asked so many at a time, and waited for together for so long, in seconds.
AT_ONCE, PATIENCE_WITH_MANY = 24, 20.0

#: What is counted of a device that is looked at closer.
COUNTED = ("channels", "inputs", "relays", "doors", "presets", "detectors", "events")

Answer = Literal["found", "refused", "silent", "not_allowed", "certificate"]
#: Answers that tell what is to be done; any other trouble is silence.
TOLD: dict[str, Answer] = {"refused": "refused", "not_allowed": "not_allowed", "certificate": "certificate"}


@dataclass(frozen=True, slots=True)
class Identity:
    """What a device said of itself, or how it did not: it refused this user, did not answer, may not be called, or shows a
    certificate that nobody vouches for."""

    answer: Answer
    manufacturer: str = ""
    model: str = ""
    firmware: str = ""
    serial: str = ""
    said: str = ""
    #: How much it has of what, as far as it told: channels, inputs, relays, and so on.
    has: Mapping[str, int] = field(default_factory=dict)

    @property
    def name(self) -> str:
        """A name to begin with."""
        return f"{self.manufacturer} {self.model}".strip()

    @property
    def told(self) -> dict[str, str]:
        """What it told of itself, as a device's information has it."""
        said = {
            "manufacturer": self.manufacturer, "model": self.model, "firmware": self.firmware, "serial": self.serial,
        }  # fmt: skip
        return {name: value for name, value in said.items() if value}


def identify(address: str, user: str, password: str, certificate: str = "") -> Identity:
    """Ask a device who it is. `certificate`: the one (PEM) that it may show."""
    return async_to_sync(ask)(address, user, password, certificate=certificate)


def identify_many(asked: Iterable[tuple[str, str, str]]) -> dict[str, Identity]:
    """Ask many devices, as (address, user, password), who they are. Those that have not answered when all have been waited for
    are left out."""
    found: dict[str, Identity] = {}

    async def one(gate: asyncio.Semaphore, address: str, user: str, password: str) -> None:
        async with gate:
            found[address] = await ask(address, user, password)

    async def together() -> None:
        gate = asyncio.Semaphore(AT_ONCE)
        with contextlib.suppress(TimeoutError):
            async with asyncio.timeout(PATIENCE_WITH_MANY):
                await asyncio.gather(*(one(gate, *device) for device in asked))

    async_to_sync(together)()
    return found


async def ask(address: str, user: str, password: str, closer: bool = False, certificate: str = "") -> Identity:
    """Ask a device who it is, and when it is looked at `closer`, how much it has. It raises nothing: how it went is part of the
    answer."""
    device = OnvifDevice(address, user, password, certificate=certificate)
    try:
        async with asyncio.timeout(PATIENCE):
            # Its clock, since a password's digest carries the time.
            await device.measure_clock()
            said = await parts.information(device)
        has = await _counts(device) if closer else {}
    except DeviceError as error:
        return Identity(TOLD.get(error.reason, "silent"), said=str(error))
    except NotAllowed as error:
        return Identity("not_allowed", said=str(error))
    except TimeoutError:
        return Identity("silent", said=f"It did not answer within {PATIENCE:.0f} s.")
    finally:
        await device.close()
    return Identity("found", **said, has=has)


async def _counts(device: OnvifDevice) -> dict[str, int]:
    """What it does not tell, or not in time, is left out."""
    with contextlib.suppress(DeviceError, TimeoutError):
        async with asyncio.timeout(PATIENCE):
            await device.discover_services()
            told = cast(Mapping[str, Any], await learn(device))
            return {part: len(told[part]) for part in COUNTED if part in told}
    return {}


def known_devices(site: Site) -> list[Device]:
    """The devices of the customer's sites that are in use, with what tells one from another."""
    fields = ("name", "address", "endpoint", "information", "site__name")
    known = Device.objects.filter(site__customer=site.customer_id, retired_at=None)
    return list(known.select_related("site").only(*fields))


def same_device(known: Iterable[Device], identity: Identity, address: str, endpoint: str = "") -> Device | None:
    """Which of the known devices is the same: by its endpoint reference, or by maker and serial number, at any address; or at
    this very address."""
    for other in known:
        told = (other.information.get("manufacturer"), other.information.get("serial"))
        alike = bool(identity.serial) and told == (identity.manufacturer, identity.serial)
        if alike or other.address == address or (endpoint and other.endpoint == endpoint):
            return other
    return None


def host_of(address: str) -> str:
    """What a device is called while nobody knows better."""
    return urlsplit(address).hostname or address
