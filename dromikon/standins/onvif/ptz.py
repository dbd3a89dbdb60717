"""Pan, tilt, zoom: the presets of a camera that can be moved, and where it is."""

from collections.abc import Callable, Mapping, Sequence
from xml.sax.saxutils import quoteattr

from dromikon.standins.onvif.device import Handler, Service, StandInDevice
from dromikon.standins.onvif.events import stamp
from dromikon.standins.onvif.soap import Fault, Request
from dromikon.standins.world.scenes import Preset

SPACE = "http://www.onvif.org/ver10/tptz/PanTiltSpaces/PositionGenericSpace"


class Movement(Service):
    """`now` tells the token of the preset it stands at, `go` moves it there."""

    prefix, path, version = "tptz", "ptz", (2, 60)

    def __init__(
        self, device: StandInDevice, presets: Sequence[Preset], now: Callable[[], str], go: Callable[[str], None]
    ) -> None:
        super().__init__(device)
        self.presets = {p.token: p for p in presets}
        self.now, self.go = now, go

    def operations(self) -> Mapping[str, Handler]:
        return {
            "GetPresets": self._list,
            "GotoPreset": self._goto,
            "GotoHomePosition": self._home,
            "GetStatus": self._status,
        }

    def _list(self, asked: Request) -> str:
        _check(asked)
        inner = "".join(
            f"<tptz:Preset token={quoteattr(p.token)}><tt:Name>{p.name}</tt:Name>{self._position(p)}</tptz:Preset>"
            for p in self.presets.values()
        )
        return f"<tptz:GetPresetsResponse>{inner}</tptz:GetPresetsResponse>"

    def _goto(self, asked: Request) -> str:
        _check(asked)
        token = asked.text("PresetToken") or ""
        if token not in self.presets:
            raise Fault("ter:NoToken", "There is no such preset.")
        self.go(token)
        return "<tptz:GotoPresetResponse/>"

    def _home(self, asked: Request) -> str:
        """Home is the first position."""
        _check(asked)
        self.go(next(iter(self.presets)))
        return "<tptz:GotoHomePositionResponse/>"

    def _status(self, asked: Request) -> str:
        _check(asked)
        position = self._position(self.presets[self.now()]).replace("PTZPosition", "Position")
        return (
            f"<tptz:GetStatusResponse><tptz:PTZStatus>{position}<tt:MoveStatus><tt:PanTilt>IDLE</tt:PanTilt></tt:MoveStatus>"
            f"<tt:UtcTime>{stamp(self.device.clock())}</tt:UtcTime></tptz:PTZStatus></tptz:GetStatusResponse>"
        )

    def _position(self, preset: Preset) -> str:
        """Normalised: a whole turn is from -1 to 1."""
        lens = preset.lens
        pan = ((lens.looks + 180) % 360 - 180) / 180
        return f'<tt:PTZPosition><tt:PanTilt x="{pan:.4f}" y="{-lens.tilt / 90:.4f}" space="{SPACE}"/></tt:PTZPosition>'


def _check(asked: Request) -> None:
    if asked.text("ProfileToken") != "main":
        raise Fault("ter:NoProfile", "There is no such profile.")
