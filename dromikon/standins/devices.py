"""Which sort of stand-in each device of the garden is."""

from collections.abc import Callable

from dromikon.standins.onvif.camera import StandInCamera
from dromikon.standins.onvif.controller import StandInController
from dromikon.standins.onvif.device import StandInDevice
from dromikon.standins.onvif.soap import Account
from dromikon.standins.onvif.station import STATIONS, StandInStation
from dromikon.standins.picture.frame import Studio
from dromikon.standins.world.scenes import CAMERAS

#: The nursery camera's clock goes wrong by this many seconds.
CLOCK_OFFSETS = {"yard": 3.4}
DOORS = "doors"
#: Every device, by the name of its stand-in.
NAMES = (*CAMERAS, DOORS)


def device_of(
    name: str, studio: Studio, address: str, account: Account, stream_port: int = 0,
    heard: Callable[[str, bytes], None] | None = None,
) -> StandInDevice:  # fmt: skip
    """The stand-in of a device at an address. `heard`: told what was sent to which camera's speaker."""
    if name == DOORS:
        return StandInController(studio.world, address, account)
    sort = StandInStation if name in STATIONS else StandInCamera
    return sort(name, studio, address, account, CLOCK_OFFSETS.get(name, 0.0), stream_port=stream_port, heard=heard)


def title_of(name: str) -> str:
    """What a device calls itself when it is looked for."""
    return "Door controller" if name == DOORS else CAMERAS[name].title.capitalize()
