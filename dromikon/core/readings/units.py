"""Units in which sensors tell, and what a value is in another one of the same quantity. One more unit is one line."""

from dataclasses import dataclass

from dromikon.core.words import t


class OtherQuantity(ValueError):
    """A value in one unit says nothing in the other; the message names both."""


@dataclass(frozen=True, slots=True)
class Unit:
    """`of`: the quantity. A value times `factor` plus `offset` is in the quantity's first unit."""

    of: str
    factor: float = 1.0
    offset: float = 0.0


UNITS: dict[str, Unit] = {
    "°C": Unit("temperature"), "°F": Unit("temperature", 5 / 9, -160 / 9), "K": Unit("temperature", 1, -273.15),
    "m/s": Unit("speed"), "km/h": Unit("speed", 1 / 3.6), "mph": Unit("speed", 0.44704), "kn": Unit("speed", 1852 / 3600),
    "%": Unit("share"), "% RH": Unit("share"), "‰": Unit("share", 0.1),
    "hPa": Unit("pressure"), "mbar": Unit("pressure"), "kPa": Unit("pressure", 10), "Pa": Unit("pressure", 0.01),
    "bar": Unit("pressure", 1000), "psi": Unit("pressure", 68.947572932),
    "mm": Unit("length", 0.001), "cm": Unit("length", 0.01), "m": Unit("length"), "in": Unit("length", 0.0254),
    "V": Unit("voltage"), "mV": Unit("voltage", 0.001), "A": Unit("current"), "mA": Unit("current", 0.001),
    "W": Unit("power"), "kW": Unit("power", 1000), "kWh": Unit("energy"), "Wh": Unit("energy", 0.001),
    "lx": Unit("light"), "ppm": Unit("concentration"), "l/min": Unit("flow"), "m³/h": Unit("flow", 1000 / 60),
}  # fmt: skip
#: How else they are written.
ALSO = {
    "c": "°C", "degc": "°C", "celsius": "°C", "f": "°F", "degf": "°F", "fahrenheit": "°F", "kelvin": "K", "%rh": "% RH", "rh": "% RH",
    "percent": "%", "mps": "m/s", "kmh": "km/h", "kph": "km/h", "knots": "kn", "kt": "kn", "lux": "lx",
}  # fmt: skip


def known_as(unit: str) -> str:
    """A unit as it is written here; one that nobody knows as it came."""
    text = unit.strip()
    return text if text in UNITS else ALSO.get(text.casefold().replace(" ", ""), text)


def converted(value: float, said: str, wanted: str) -> float:
    """A value of one unit in another. Raises OtherQuantity."""
    said, wanted = known_as(said), known_as(wanted)
    if said == wanted or not said or not wanted:
        return value
    here, there = UNITS.get(said), UNITS.get(wanted)
    if here is None or there is None or here.of != there.of:
        raise OtherQuantity(t("A value in {said} cannot be told in {wanted}.", said=said, wanted=wanted))
    # Twelve digits, so that 32 °F is 0 °C and no whisker beside it.
    return float(f"{(value * here.factor + here.offset - there.offset) / there.factor:.12g}")
