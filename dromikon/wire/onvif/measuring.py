"""One temperature at one place of a thermal camera's picture. The standard has no question for it: a spot is set, its first reading
waited for, and the spot taken off again (ONVIF Analytics: rules, SpotTemperatureReading)."""

import asyncio
import contextlib
from collections.abc import Sequence
from datetime import timedelta

from dromikon.core.decoding import NotDecoded
from dromikon.core.decoding.onvif import decode
from dromikon.core.devices.catalogue import MEASURES, DetectorSaid, DetectorTypeSaid, detector_token
from dromikon.wire.onvif.analytics import delete_detector, write_detector
from dromikon.wire.onvif.client import OnvifDevice, Profile
from dromikon.wire.onvif.notification import parse_notification
from dromikon.wire.onvif.soap import NOBODY, DeviceError
from dromikon.wire.onvif.subscription import Subscription, open_pull_point, pull, unsubscribe

READING = "tns1:VideoAnalytics/Radiometry/SpotTemperatureReading"
#: So long a reading is waited for.
LONGEST = timedelta(seconds=12)


def spots(types: Sequence[DetectorTypeSaid]) -> DetectorTypeSaid | None:
    """The type of detector that measures a single place, if the device has one."""
    return next((d for d in types if READING in d["topics"] and _place(d) is not None), None)


async def measure(device: OnvifDevice, described: DetectorTypeSaid, place: tuple[float, float]) -> float:
    """How warm the camera reads a place (x, y from -1 to 1, y upwards), in °C. Raises DeviceError with what the device says, or that it
    told nothing in time."""
    profile = next((p for p in await device.profiles() if p.analytics), None)
    if profile is None:
        raise DeviceError("fault", "The device has no channel that could be measured.")
    spot = _spot(described, profile, place)
    await _taken_off(device, spot)
    point = await open_pull_point(device, LONGEST * 2)
    try:
        await write_detector(device, spot, new=True)
        return await _first(device, point, detector_token(spot))
    finally:
        # Whatever happened, nothing of ours stays at the device.
        await _taken_off(device, spot)
        with contextlib.suppress(DeviceError):
            await unsubscribe(device, point)


def _spot(described: DetectorTypeSaid, profile: Profile, place: tuple[float, float]) -> DetectorSaid:
    return {
        "name": MEASURES, "type": described["name"], "parameters": {}, "waits": 0.0, "channel": profile.video,
        "analytics": profile.analytics, "shapes": [{"sort": "spot", "item": _place(described) or "", "points": [place]}],
    }  # fmt: skip


def _place(described: DetectorTypeSaid) -> str | None:
    """The parameter that is a single place."""
    return next((p["name"] for p in described["parameters"] if p["type"] == "Vector"), None)


async def _taken_off(device: OnvifDevice, spot: DetectorSaid) -> None:
    try:
        await delete_detector(device, spot)
    except DeviceError as error:
        if error.reason in NOBODY:
            raise


async def _first(device: OnvifDevice, point: Subscription, token: str) -> float:
    ends = asyncio.get_running_loop().time() + LONGEST.total_seconds()
    while (left := ends - asyncio.get_running_loop().time()) > 0:
        for message in await pull(device, point, timedelta(seconds=min(left, 5))):
            told = parse_notification(message)
            if told.topic != READING:
                continue
            with contextlib.suppress(NotDecoded):
                decoded = decode(told.topic, told.operation, told.source, told.data)
                if decoded.token == token:
                    return float(str(decoded.fields["value"]))
    raise DeviceError("fault", "The device took the spot, but told no temperature of it.")
