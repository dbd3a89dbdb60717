"""How a thermal stand-in measures and shows heat: the thermal service."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from xml.sax.saxutils import quoteattr

from dromikon.standins.onvif.device import Handler, Service, StandInDevice
from dromikon.standins.onvif.soap import Fault, Request
from dromikon.standins.world.heat import PALETTES, Measuring

KELVIN = 273.15


class Heat(Service):
    """`now` tells how it measures, `become` has it measure otherwise."""

    prefix, path = "tth", "thermal"

    def __init__(
        self, device: StandInDevice, now: Callable[[], Measuring], become: Callable[[Measuring], None]
    ) -> None:
        super().__init__(device)
        self.now, self.become = now, become

    def operations(self) -> Mapping[str, Handler]:
        return {
            "GetConfiguration": self._shown, "SetConfiguration": self._show, "GetConfigurationOptions": self._options,
            "GetRadiometryConfiguration": self._measured, "SetRadiometryConfiguration": self._measure,
        }  # fmt: skip

    def _shown(self, asked: Request) -> str:
        palette = _palette(self.now().palette)
        return (
            f"<tth:GetConfigurationResponse><tth:Configuration>{palette}<tth:Polarity>WhiteHot</tth:Polarity>"
            "</tth:Configuration></tth:GetConfigurationResponse>"
        )

    def _options(self, asked: Request) -> str:
        palettes = "".join(_palette(token) for token in PALETTES)
        return (
            f"<tth:GetConfigurationOptionsResponse><tth:ConfigurationOptions>{palettes}</tth:ConfigurationOptions>"
            "</tth:GetConfigurationOptionsResponse>"
        )

    def _show(self, asked: Request) -> str:
        found = next((e for e in asked.body.iter() if str(e.tag).endswith("}ColorPalette")), None)
        token = found.get("token", "") if found is not None else ""
        if token not in PALETTES:
            raise Fault("ter:InvalidConfiguration", "There are no such colours.")
        self.become(replace(self.now(), palette=token))
        return "<tth:SetConfigurationResponse/>"

    def _measured(self, asked: Request) -> str:
        if asked.text("VideoSourceToken") != "vs0":
            raise Fault("ter:NoVideoSource", "There is no such video source.")
        now = self.now()
        return (
            "<tth:GetRadiometryConfigurationResponse><tth:Configuration><tth:RadiometryGlobalParameters>"
            f"<tth:ReflectedAmbientTemperature>{now.reflected + KELVIN:.2f}</tth:ReflectedAmbientTemperature>"
            f"<tth:Emissivity>{now.emissivity:g}</tth:Emissivity><tth:DistanceToObject>{now.distance:g}</tth:DistanceToObject>"
            "<tth:RelativeHumidity>0.4</tth:RelativeHumidity>"
            "</tth:RadiometryGlobalParameters></tth:Configuration></tth:GetRadiometryConfigurationResponse>"
        )

    def _measure(self, asked: Request) -> str:
        if asked.text("RelativeHumidity") is None:
            raise Fault("ter:InvalidConfiguration", "What is not meant to change goes back as it came.")
        told = [asked.text(n) for n in ("Emissivity", "DistanceToObject", "ReflectedAmbientTemperature")]
        try:
            emissivity, distance, kelvin = (float(value or "") for value in told)
        except ValueError as error:
            raise Fault("ter:InvalidConfiguration", "A number is missing.") from error
        if not 0.01 <= emissivity <= 1:
            raise Fault("ter:InvalidConfiguration", "The emissivity lies between 0.01 and 1.")
        self.become(replace(self.now(), emissivity=emissivity, distance=distance, reflected=round(kelvin - KELVIN, 2)))
        return "<tth:SetRadiometryConfigurationResponse/>"


def _palette(token: str) -> str:
    return f'<tth:ColorPalette token={quoteattr(token)} Type="Custom"><tth:Name>{PALETTES[token][0]}</tth:Name></tth:ColorPalette>'
