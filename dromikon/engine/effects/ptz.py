"""Effect: a camera goes to a position (ONVIF PTZ service)."""

from functools import partial
from typing import cast

from dromikon.core.devices.catalogue import DeviceCatalogue
from dromikon.core.rules.actions.ptz import PtzOrder
from dromikon.daybook.models import Step
from dromikon.engine.effects.device import Command, DeviceEffect, Impossible, with_service
from dromikon.sources.models import Point
from dromikon.wire.onvif import ptz
from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.namespaces import TPTZ


class PtzEffect(DeviceEffect):
    async def ready(self, client: OnvifDevice, point: Point, step: Step) -> Command:
        wanted = cast(PtzOrder, step.payload)["preset"]
        assert point.device is not None
        token = preset_token(cast(DeviceCatalogue, point.device.catalogue), point.token, wanted) if wanted else ""
        await with_service(client, TPTZ)
        profile = await ptz.moving_profile(client, point.token)
        if not wanted:
            return partial(ptz.go_home, client, profile)
        return partial(ptz.go, client, profile, token)


def preset_token(catalogue: DeviceCatalogue, channel: str, wanted: str) -> str:
    """The token of a channel's position by its name, or by the token itself. Raises Impossible."""
    known = [p for p in catalogue.get("presets", []) if p["channel"] == channel]
    by_name = next((p["token"] for p in known if p["name"].casefold() == wanted.casefold()), None)
    found = by_name or next((p["token"] for p in known if p["token"] == wanted), None)
    if found is None:
        names = ", ".join(p["name"] for p in known) or "none"
        raise Impossible(f"The camera knows no position “{wanted}”; it knows {names}.")
    return found
