"""How a thermal camera measures and shows heat (ONVIF Thermal Service specification). Temperatures are told in kelvins."""

from collections.abc import Sequence
from dataclasses import dataclass

from lxml import etree

from dromikon.core.devices.radiometry import Radiometry
from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.namespaces import TTH
from dromikon.wire.onvif.soap import NOBODY, DeviceError

KELVIN = 273.15
#: What of a thing's measuring is ours to set, by its element.
ELEMENTS = {"Emissivity": "emissivity", "DistanceToObject": "distance", "ReflectedAmbientTemperature": "reflected"}


@dataclass(frozen=True, slots=True)
class Thermal:
    """What a channel has, and the colours that it knows, by token and name."""

    channel: str
    radiometry: Radiometry
    palettes: tuple[tuple[str, str], ...]


@dataclass(frozen=True, slots=True)
class _Said:
    """The device's own words about a channel."""

    channel: str
    measuring: etree._Element
    showing: etree._Element
    palettes: tuple[etree._Element, ...]

    @property
    def palette(self) -> etree._Element | None:
        return next(self.showing.iter(f"{{{TTH}}}ColorPalette"), None)


async def read_thermal(device: OnvifDevice, channels: Sequence[str]) -> Thermal:
    """How the first of a device's channels that measures heat does so, and shows it. Raises DeviceError."""
    said = await _ask(device, channels)
    reflected = _number(said.measuring, "ReflectedAmbientTemperature") - KELVIN
    return Thermal(
        said.channel,
        Radiometry(
            emissivity=_number(said.measuring, "Emissivity"), distance=_number(said.measuring, "DistanceToObject"),
            reflected=round(reflected, 2), palette=said.palette.get("token", "") if said.palette is not None else "",
        ),
        tuple((p.get("token", ""), _name(p)) for p in said.palettes),
    )  # fmt: skip


async def write_thermal(device: OnvifDevice, channels: Sequence[str], wanted: Radiometry) -> None:
    """Have that channel measure and show heat otherwise; what else its configurations have goes back as it came. Raises DeviceError with
    what the device says to it; nothing is set then that was not set before."""
    said = await _ask(device, channels)
    palette = _palette(said, wanted.palette)
    for element, name in ELEMENTS.items():
        value = getattr(wanted, name) + (KELVIN if name == "reflected" else 0.0)
        found = next(said.measuring.iter(f"{{{TTH}}}{element}"), None)
        if found is None:
            raise DeviceError("fault", f"The device does not let its {element} be set.")
        found.text = f"{value:g}"
    await _set(device, "SetRadiometryConfiguration", said.channel, said.measuring)
    if palette is not None and said.palette is not None:
        parent = said.palette.getparent()
        if parent is not None:
            parent.replace(said.palette, palette)
        await _set(device, "SetConfiguration", said.channel, said.showing)


def _palette(said: _Said, token: str) -> etree._Element | None:
    """The colours to be set; None where they are as they should be."""
    if not token or said.palette is None or said.palette.get("token") == token:
        return None
    found = next((p for p in said.palettes if p.get("token") == token), None)
    if found is None:
        raise DeviceError("fault", "The device does not show heat in these colours.")
    return found


async def _ask(device: OnvifDevice, channels: Sequence[str]) -> _Said:
    """A camera may have an eye for light besides, whose channel comes first."""
    if not device.has(TTH):
        raise DeviceError("fault", "The device has no thermal service: it measures no heat, or does not say how.")
    refused = DeviceError("fault", "None of the device's channels measures heat.")
    for channel in channels:
        try:
            measuring = await device.ask(TTH, "GetRadiometryConfiguration", VideoSourceToken=channel)
        except DeviceError as error:
            if error.reason in NOBODY:
                raise
            refused = error
            continue
        showing = await device.ask(TTH, "GetConfiguration", VideoSourceToken=channel)
        known = await device.ask(TTH, "GetConfigurationOptions", VideoSourceToken=channel)
        return _Said(channel, measuring, showing, tuple(known.iter(f"{{{TTH}}}ColorPalette")))
    raise refused


async def _set(device: OnvifDevice, name: str, channel: str, answer: etree._Element) -> None:
    configuration = next(answer.iter(f"{{{TTH}}}Configuration"), None)
    if configuration is None:
        raise DeviceError("malformed", "The device's answer has no configuration.")
    await device.ask(TTH, name, VideoSourceToken=channel, Configuration=configuration)


def _name(palette: etree._Element) -> str:
    return (palette.findtext(f"{{{TTH}}}Name") or "").strip() or palette.get("token", "")


def _number(answer: etree._Element, name: str) -> float:
    text = answer.findtext(f".//{{{TTH}}}{name}") or ""
    try:
        return float(text)
    except ValueError as error:
        raise DeviceError("malformed", f"The device's {name} is no number.") from error
