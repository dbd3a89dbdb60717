"""What cameras tell of the garden's instruments: plates that they read, people whom they count, heat that they measure. The
signals are the same as in the picture, so that whoever's plate is read stands there."""

from collections.abc import Callable, Iterable, Iterator

from dromikon.standins.world.detectors import Detector, Region
from dromikon.standins.world.plant.signals import Signal
from dromikon.standins.world.reports import Items, Rectangle, Report
from dromikon.standins.world.scenes import CAMERAS

PLATE = "tns1:RuleEngine/Recognition/LicensePlate"
COUNT = "tns1:RuleEngine/CountAggregation/Counter"
#: Nothing is equally warm everywhere: so much colder a region is at its coldest, in °C.
UNEVEN = 4.0
HEAT = "tns1:VideoAnalytics/Radiometry/BoxTemperatureReading"
SPOT = "tns1:VideoAnalytics/Radiometry/SpotTemperatureReading"
#: Radiometry tells kelvins.
KELVIN = 273.15
BY_POINT = {d.point: c.id for c in CAMERAS.values() for d in c.detectors if isinstance(d, Region) and d.point}


def of_cameras(signal: Signal) -> bool:
    """Whether a signal is told by a camera rather than by the gateway."""
    return signal.point in BY_POINT


def told(detectors: Iterable[Detector], signals: Iterable[Signal]) -> Iterator[Report]:
    """The reports of a camera's regions."""
    regions = {d.point: d for d in detectors if isinstance(d, Region) and d.point}
    for signal in signals:
        region = regions.get(signal.point)
        if region is not None:
            yield SORTS[region.sort](region, signal)


def _plate(region: Region, signal: Signal) -> Report:
    inwards = signal.fields.get("direction") == "in"
    data = (
        ("PlateNumber", str(signal.fields["plate"])),
        ("Likelihood", f"{float(signal.fields['confidence'] or 0) / 100:.3f}"),
        ("Direction", "Right" if inwards else "Left"),
    )
    return Report(signal.at, PLATE, _source(region), data, box=_around(region))


def _around(region: Region) -> Rectangle:
    """Where it was read, as exactly as is known: somewhere in the region."""
    xs, ys = [x for x, _ in region.seen], [y for _, y in region.seen]
    return min(xs), max(ys), max(xs), min(ys)


def _count(region: Region, signal: Signal) -> Report:
    return Report(signal.at, COUNT, _source(region), (("Count", str(signal.fields["value"])),))


def _heat(region: Region, signal: Signal) -> Report:
    kelvin = float(signal.fields["value"] or 0) + KELVIN
    source = (("VideoSourceConfigurationToken", "vsc0"), ("AnalyticsModuleName", "Radiometry"))
    told = (("Max", 0.0), ("Min", UNEVEN), ("Average", UNEVEN / 2))
    data = tuple((f"{which}Temperature", f"{kelvin - less:.2f}") for which, less in told)
    return Report(signal.at, HEAT, source, (("ItemID", region.name), *data))


def _source(region: Region) -> Items:
    return (
        ("VideoSourceConfigurationToken", "vsc0"),
        ("VideoAnalyticsConfigurationToken", "analytics"),
        ("Rule", region.name),
    )


SORTS: dict[str, Callable[[Region, Signal], Report]] = {"plates": _plate, "count": _count, "heat": _heat}
