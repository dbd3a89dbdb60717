"""Moving cameras (ONVIF PTZ service)."""

from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.namespaces import TPTZ
from dromikon.wire.onvif.soap import DeviceError


async def goto_preset(device: OnvifDevice, channel: str, preset: str) -> None:
    """Have a channel go to a preset. It may be sent again: a camera that stands there stays. Raises DeviceError."""
    profile = next((p for p in await device.profiles() if p.moves and p.source == channel), None)
    if profile is None:
        raise DeviceError("fault", "This channel of the device cannot be moved.")
    await device.ask(TPTZ, "GotoPreset", timeout=4, ProfileToken=profile.token, PresetToken=preset)
