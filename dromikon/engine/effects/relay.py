"""Effect: an output of an ONVIF device is switched. Outputs have holders; the last holder's end releases."""

from asgiref.sync import sync_to_async

from dromikon.core.rules.outcome import StepOrder
from dromikon.daybook.models import Step
from dromikon.engine.effects.base import OutsideEffect, Sent
from dromikon.sources.models import Device, Point
from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.soap import DeviceError

_MAY_HAVE_SWITCHED = (Step.Status.DONE, Step.Status.UNCONFIRMED, Step.Status.SENDING, Step.Status.DUE)


class RelayEffect(OutsideEffect):
    def lane(self, order: StepOrder) -> str:
        device = Point.objects.filter(id=order.target).values_list("device_id", flat=True).first()
        return f"device:{device or order.target}"

    def gap(self, lane: str) -> float:
        known = Device.objects.filter(id=lane.removeprefix("device:")).values_list("minimum_gap", flat=True).first()
        return known or 0.0

    async def deliver(self, step: Step) -> Sent:
        if step.release:
            needless = await sync_to_async(release_is_needless)(step)
            if needless:
                return Sent("done", needless)
        point = await Point.objects.select_related("device").filter(id=step.target).afirst()
        if point is None or point.device is None:
            return Sent("failed", "The relay is not configured any more.")
        on = await sync_to_async(_wanted)(step)
        device = OnvifDevice(point.device.address, point.device.user, point.device.password)
        try:
            await device.measure_clock()
        except DeviceError as error:
            await device.close()
            return Sent("retry", str(error))
        try:
            await device.set_relay(point.token.removeprefix("relay/"), active=on)
        except DeviceError as error:
            return Sent("failed" if error.reason in ("refused", "fault") else "unconfirmed", str(error))
        finally:
            await device.close()
        return Sent("done", "The device confirmed.")


def _wanted(step: Step) -> bool:
    """Whether the output is to be on. What a toggle comes to is written down before it is sent."""
    if step.release:
        return False
    if step.payload.get("state") == "toggle":
        step.payload = {**step.payload, "state": "off" if _is_on(step.target) else "on"}
        step.save(update_fields=["payload"])
    return step.payload.get("state") != "off"


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
