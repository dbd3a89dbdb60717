"""Effect: a door is told something (ONVIF door control)."""

from functools import partial
from typing import cast

from dromikon.core.rules.actions.door import DoorOrder
from dromikon.daybook.models import Step
from dromikon.engine.effects.device import Command, DeviceEffect, with_service
from dromikon.sources.models import Point
from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.doors import command_door
from dromikon.wire.onvif.namespaces import TDC


class DoorEffect(DeviceEffect):
    async def ready(self, client: OnvifDevice, point: Point, step: Step) -> Command:
        await with_service(client, TDC)
        return partial(command_door, client, point.token.removeprefix("door/"), cast(DoorOrder, step.payload)["verb"])
