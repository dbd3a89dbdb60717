"""Effect: an output of an ONVIF device is switched. Outputs have holders; the last holder's end releases."""

from functools import partial

from asgiref.sync import sync_to_async

from dromikon.daybook.models import Step
from dromikon.engine.effects.device import Command, DeviceEffect
from dromikon.sources.models import Point
from dromikon.wire.onvif.client import OnvifDevice


class RelayEffect(DeviceEffect):
    async def ready(self, client: OnvifDevice, point: Point, step: Step) -> Command:
        on = await sync_to_async(_wanted)(step)
        return partial(client.set_relay, point.token.removeprefix("relay/"), active=on)


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
