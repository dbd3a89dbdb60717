"""What a thermal camera measures where somebody has drawn: areas, lines and spots, out of the heat that it sees."""

from collections.abc import Callable, Iterable, Iterator

import numpy as np

from dromikon.standins.picture.thermal import covered
from dromikon.standins.world.detectors import Detector, Region
from dromikon.standins.world.instruments import HEAT, KELVIN, SPOT
from dromikon.standins.world.reports import Items, Report

#: It tells what it measures so often, in ms.
EVERY = 2_000
SOURCE: Items = (("VideoSourceConfigurationToken", "vsc0"), ("AnalyticsModuleName", "Radiometry"))


def drawn_afterwards(detectors: Iterable[Detector]) -> list[Region]:
    """The measured places that no instrument of the garden stands for."""
    return [d for d in detectors if isinstance(d, Region) and d.sort.startswith("heat") and not d.point]


def readings(
    regions: Iterable[Region], heat: Callable[[int], np.ndarray], reads: Callable[[float], float], start: int, end: int
) -> Iterator[Report]:
    """What is told of them from `start` until before `end`. `heat`: how warm each pixel is at an instant, in °C; `reads`: the temperature
    that the camera makes of it."""
    regions = list(regions)
    first = -(-start // EVERY) * EVERY
    for at in range(first, end, EVERY) if regions else ():
        field = heat(at)
        for region in regions:
            yield _reading(region, field[covered(region, field.shape[::-1])], reads, at)


def _reading(region: Region, warmth: np.ndarray, reads: Callable[[float], float], at: int) -> Report:
    if region.sort == "heat at a spot":
        return Report(at, SPOT, SOURCE, (("ItemID", region.name), ("SpotTemperature", _kelvin(warmth.mean(), reads))))
    told = (("Max", warmth.max()), ("Min", warmth.min()), ("Average", warmth.mean()))
    data = tuple((f"{which}Temperature", _kelvin(celsius, reads)) for which, celsius in told)
    return Report(at, HEAT, SOURCE, (("ItemID", region.name), *data))


def _kelvin(celsius: float, reads: Callable[[float], float]) -> str:
    return f"{reads(float(celsius)) + KELVIN:.2f}"
