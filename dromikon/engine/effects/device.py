"""What effects that command an ONVIF device have in common: its lane and gap, and its client."""

import asyncio
from collections.abc import Awaitable, Callable
from dataclasses import dataclass
from weakref import WeakKeyDictionary

from asgiref.sync import sync_to_async

from dromikon.clock import now_ms
from dromikon.core.instants import Instant
from dromikon.core.rules.outcome import StepOrder
from dromikon.daybook.holders import release_is_needless
from dromikon.daybook.models import Step
from dromikon.engine.effects.base import OutsideEffect, Sent
from dromikon.secrets import SealBroken
from dromikon.sources.client import client_of
from dromikon.sources.models import Device, Point
from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.soap import DeviceError

#: What a refusal means for a command that may have been carried out; anything else leaves that open.
_OUTCOMES = {"refused": "failed", "fault": "failed", "not_allowed": "failed", "not_begun": "retry"}
#: Clients are kept for at most so many devices.
MOST_CLIENTS = 500
#: How long a device's measured clock is believed, in ms.
CLOCK_HOLDS = 60_000

#: The command itself, made ready: nothing has reached the device before it is called.
Command = Callable[[], Awaitable[None]]


@dataclass(slots=True)
class _Known:
    """A device that is being commanded: its client, and when its clock was measured."""

    client: OnvifDevice
    measured: Instant = 0


class DeviceEffect(OutsideEffect):
    """One lane a device. Subclasses make a command ready."""

    #: Clients are shared by all effects: one connection a device and event loop.
    _known: "WeakKeyDictionary[asyncio.AbstractEventLoop, dict[tuple[str, ...], _Known]]" = WeakKeyDictionary()

    def lane(self, order: StepOrder, now: Instant) -> str:
        device = Point.objects.filter(id=order.target).values_list("device_id", flat=True).first()
        return f"device:{device or order.target}"

    async def gap(self, lane: str) -> float:
        device = Device.objects.filter(id=lane.removeprefix("device:"))
        return await device.values_list("minimum_gap", flat=True).afirst() or 0.0

    async def ready(self, client: OnvifDevice, point: Point, step: Step) -> Command:
        """What is to be sent. May ask the device, command nothing. Raises DeviceError, Impossible."""
        raise NotImplementedError

    async def deliver(self, step: Step) -> Sent:
        if step.release:
            needless = await sync_to_async(release_is_needless)(step)
            if needless:
                return Sent("done", needless)
        point = await Point.objects.select_related("device").filter(id=step.target).afirst()
        if point is None or point.device is None:
            return Sent("failed", "Its point is not configured any more, or belongs to no device.")
        try:
            known = self._of(point.device)
            if now_ms() - known.measured > CLOCK_HOLDS:
                await known.client.measure_clock()
                known.measured = now_ms()
            command = await self.ready(known.client, point, step)
        except Impossible as error:
            return Sent("failed", str(error))
        except (DeviceError, SealBroken) as error:
            # Nothing was sent yet, so it may be tried again; a refusal would only come again.
            return Sent(_OUTCOMES.get(getattr(error, "reason", ""), "retry"), str(error))
        try:
            await command()
        except DeviceError as error:
            # A wrong clock is one reason to be refused: it is measured anew before the next command.
            known.measured = 0
            return Sent(_OUTCOMES.get(error.reason, "unconfirmed"), str(error))
        return Sent("done", "The device confirmed.")

    def _of(self, device: Device) -> _Known:
        """The client of a device, whose connection is kept; a changed address or password makes a new one."""
        clients = self._known.setdefault(asyncio.get_running_loop(), {})
        key = device.address, device.user, device.password, device.certificate
        if key not in clients:
            if len(clients) >= MOST_CLIENTS:
                clients.clear()
            clients[key] = _Known(client_of(device))
        return clients[key]


class Impossible(Exception):
    """It will never work as it is set up; the message says why."""


async def with_service(client: OnvifDevice, space: str) -> None:
    """Have the device's services known, where one besides device management is wanted. Raises DeviceError."""
    if not client.has(space):
        await client.discover_services()
