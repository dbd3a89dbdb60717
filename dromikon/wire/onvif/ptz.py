"""Moving cameras (ONVIF PTZ service)."""

from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.namespaces import TPTZ
from dromikon.wire.onvif.soap import DeviceError


async def goto_preset(device: OnvifDevice, channel: str, preset: str) -> None:
    """Have a channel go to a preset. It may be sent again: a camera that stands there stays. Raises DeviceError."""
    await go(device, await moving_profile(device, channel), preset)


async def moving_profile(device: OnvifDevice, channel: str) -> str:
    """The token of the profile by which a channel is moved. Raises DeviceError."""
    profile = next((p for p in await device.profiles() if p.moves and p.source == channel), None)
    if profile is None:
        raise DeviceError("fault", "This channel of the device cannot be moved.")
    return profile.token


async def go(device: OnvifDevice, profile: str, preset: str) -> None:
    """Go to a preset by its token. Raises DeviceError."""
    await device.ask(TPTZ, "GotoPreset", timeout=4, ProfileToken=profile, PresetToken=preset)


async def go_home(device: OnvifDevice, profile: str) -> None:
    """Go to the home position. Raises DeviceError."""
    await device.ask(TPTZ, "GotoHomePosition", timeout=4, ProfileToken=profile)
