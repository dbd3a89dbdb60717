"""What a device says of one of its points, as rules reckon with it."""

from typing import Any

from dromikon.core.devices.catalogue import DeviceCatalogue
from dromikon.core.facts import Siren, Told
from dromikon.sources.models import Point


def told_of(point: Point, catalogue: DeviceCatalogue) -> dict[str, Any]:
    """A point's `told` by what its device has said of itself, as it is stored."""
    found = Told()
    if point.kind == "camera":
        said = catalogue.get("presets", [])
        positions = tuple(p["name"] for p in said if p["channel"] == point.token)
        found = Told(presets=positions, heard=point.token in catalogue.get("sounds", []))
    elif point.kind in ("relay", "siren"):
        outputs = _outputs(point)
        times = catalogue.get("relay_times", {})
        found = Told(times={token: seconds for token, seconds in times.items() if token in outputs})
    return found.model_dump(mode="json", exclude_defaults=True)


def _outputs(point: Point) -> set[str]:
    if point.kind == "relay":
        return {point.token.removeprefix("relay/")}
    siren = Siren.model_validate(point.siren or {})
    return {siren.light, siren.sound}
