"""Effect: an output of an ONVIF device is switched. Outputs have holders; the last holder's end releases."""

import asyncio
from dataclasses import dataclass
from weakref import WeakKeyDictionary

from asgiref.sync import sync_to_async

from dromikon.clock import now_ms
from dromikon.core.instants import Instant
from dromikon.core.rules.outcome import StepOrder
from dromikon.daybook.models import Step
from dromikon.engine.effects.base import OutsideEffect, Sent
from dromikon.sources.client import client_of
from dromikon.sources.models import Device, Point
from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.soap import DeviceError

_MAY_HAVE_SWITCHED = (Step.Status.DONE, Step.Status.UNCONFIRMED, Step.Status.SENDING, Step.Status.DUE)


#: What a refusal means for a command that may have been carried out; anything else leaves that open.
_OUTCOMES = {"refused": "failed", "fault": "failed", "not_allowed": "failed"}
#: Clients are kept for at most so many devices.
MOST_CLIENTS = 500
#: How long a device's measured clock is believed, in ms.
CLOCK_HOLDS = 60_000


@dataclass(slots=True)
class _Known:
    """A device that is being commanded: its client, and when its clock was measured."""

    client: OnvifDevice
    measured: Instant = 0


class RelayEffect(OutsideEffect):
    def __init__(self) -> None:
        self._known: WeakKeyDictionary[asyncio.AbstractEventLoop, dict[tuple[str, ...], _Known]] = WeakKeyDictionary()

    def lane(self, order: StepOrder, now: Instant) -> str:
        device = Point.objects.filter(id=order.target).values_list("device_id", flat=True).first()
        return f"device:{device or order.target}"

    async def gap(self, lane: str) -> float:
        device = Device.objects.filter(id=lane.removeprefix("device:"))
        return await device.values_list("minimum_gap", flat=True).afirst() or 0.0

    async def deliver(self, step: Step) -> Sent:
        if step.release:
            needless = await sync_to_async(release_is_needless)(step)
            if needless:
                return Sent("done", needless)
        point = await Point.objects.select_related("device").filter(id=step.target).afirst()
        if point is None or point.device is None:
            return Sent("failed", "The relay is not configured any more.")
        on = await sync_to_async(_wanted)(step)
        known = self._of(point.device)
        try:
            if now_ms() - known.measured > CLOCK_HOLDS:
                await known.client.measure_clock()
                known.measured = now_ms()
        except DeviceError as error:
            return Sent("retry", str(error))
        try:
            await known.client.set_relay(point.token.removeprefix("relay/"), active=on)
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


def _wanted(step: Step) -> bool:
    """Whether the output is to be on. What a toggle comes to is written down before it is sent."""
    if step.release:
        return False
    if step.payload.get("state") == "toggle":
        step.payload = {**step.payload, "state": "off" if _is_on(step.target) else "on"}
        step.save(update_fields=["payload"])
    return bool(step.payload.get("state") != "off")


def _is_on(target: str) -> bool:
    """How an output was last switched, as far as we know; off when we never did."""
    switched = Step.objects.filter(
        target=target, action="relay", status__in=(Step.Status.DONE, Step.Status.UNCONFIRMED)
    )
    last = switched.order_by("-done_at", "-id").first()
    return last is not None and not last.release and last.payload.get("state") == "on"


def release_is_needless(step: Step) -> str:
    """Why an output need not be released: it was never switched on, or another run still holds it. Else empty."""
    on = Step.objects.filter(run=step.run, step=step.step, part=step.part, target=step.target, release=False).first()
    if on is not None and on.status not in _MAY_HAVE_SWITCHED:
        return "It was never switched on."
    others = Step.objects.filter(
        target=step.target,
        action=step.action,
        release=False,
        status__in=_MAY_HAVE_SWITCHED,
    )
    released = {
        (s.run, s.step, s.part)
        for s in Step.objects.filter(target=step.target, action=step.action, release=True, status=Step.Status.DONE)
    }
    for other in others.exclude(run=step.run, step=step.step, part=step.part):
        # What was left on by a step without a hold has no holder.
        if (other.run, other.step, other.part) not in released and other.payload.get("held", True):
            return f"Run {other.run} still holds it."
    return ""
