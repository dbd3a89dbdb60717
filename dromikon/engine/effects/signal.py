"""Effect: light or sound of a siren, which hang on relay outputs of its device."""

from functools import partial
from typing import cast

from dromikon.core.rules.actions.signal import SignalOrder
from dromikon.daybook.models import Step
from dromikon.engine.effects.device import Command, DeviceEffect
from dromikon.sources.models import Point
from dromikon.wire.onvif.client import OnvifDevice


class SignalEffect(DeviceEffect):
    async def ready(self, client: OnvifDevice, point: Point, step: Step) -> Command:
        order = cast(SignalOrder, step.payload)
        return partial(client.set_relay, order["output"], active=order["state"] == "on")
