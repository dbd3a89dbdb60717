"""What doors are told (ONVIF Door Control). Once only: whoever sends it decides what an answer that does not come means."""

from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.namespaces import TDC

#: The operation for each thing that a door can be told.
OPERATIONS = {
    "release": "AccessDoor",
    "lock": "LockDoor",
    "unlock": "UnlockDoor",
    "block": "BlockDoor",
    "hold_open": "LockOpenDoor",
    "end_hold_open": "LockOpenReleaseDoor",
}


async def command_door(device: OnvifDevice, token: str, verb: str) -> None:
    """Tell a door something: release, lock, unlock, block, hold_open, end_hold_open. Raises DeviceError, KeyError."""
    await device.ask(TDC, OPERATIONS[verb], timeout=4, Token=token)
