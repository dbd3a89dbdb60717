"""Detectors that cameras run themselves, over the API. They are named by the token under which their events come."""

from typing import Any

from django.http import HttpRequest
from ninja import Router, Schema

from dromikon.api.base import Error, Site, at_site
from dromikon.api.devices import find_device
from dromikon.core.devices.catalogue import ShapeSaid, detector_token
from dromikon.people.roles import May
from dromikon.sources.detectors import change_detector, delete_detector, make_detector
from dromikon.sources.thermal import measure_at, set_thermal, thermal_of
from dromikon.wire.onvif.thermal import Thermal

router = Router(tags=["detectors"])


class ShapeIn(Schema):
    """A line or an area, named as the device names it: corners (x, y) from -1 to 1, y upwards."""

    item: str
    sort: str
    points: list[tuple[float, float]]


class DetectorIn(Schema):
    """`settings`: by name, as a person writes them (seconds, percent)."""

    token: str
    settings: dict[str, str] = {}
    shapes: list[ShapeIn] = []


class NewDetectorIn(Schema):
    """`type`: one of those that the device says it runs; without shapes it watches the middle of the picture."""

    type: str
    name: str
    shapes: list[ShapeIn] = []


class DetectorOut(Schema):
    """A detector as the device has it now."""

    token: str
    name: str
    type: str
    settings: dict[str, str]
    shapes: list[ShapeIn]


class TokenIn(Schema):
    token: str


ANSWERS: dict[int, Any] = {200: DetectorOut, 403: Error, 404: Error, 422: Error}


class HeatOut(Schema):
    """How a thermal camera measures and shows heat (`core.devices.radiometry`), and the colours that it knows: token and name."""

    document: dict[str, Any]
    palettes: list[tuple[str, str]]


class HeatIn(Schema):
    document: dict[str, Any]


class PlaceIn(Schema):
    """A place in the picture: from -1 to 1, y upwards."""

    x: float
    y: float


class MeasuredOut(Schema):
    """How warm the camera reads it, in °C."""

    celsius: float


MEASURED: dict[int, Any] = {200: MeasuredOut, 403: Error, 404: Error, 422: Error}
HEAT: dict[int, Any] = {200: HeatOut, 403: Error, 404: Error, 422: Error}


@router.get("/devices/{device_id}/heat", response=HEAT, summary="How a thermal camera measures heat, asked now")
def heat(request: HttpRequest, device_id: str, site: Site = None) -> Any:
    found = at_site(request, site)
    found.need(May.EDIT_SOURCES)
    return 200, _heat(thermal_of(find_device(found, device_id)))


@router.put("/devices/{device_id}/heat", response=HEAT, summary="Have a thermal camera measure heat otherwise")
def set_heat(request: HttpRequest, device_id: str, content: HeatIn, site: Site = None) -> Any:
    found = at_site(request, site)
    return 200, _heat(set_thermal(found, find_device(found, device_id), content.document))


@router.post(
    "/devices/{device_id}/measure", response=MEASURED, summary="Measure one place of a thermal camera's picture"
)
def measure(request: HttpRequest, device_id: str, content: PlaceIn, site: Site = None) -> Any:
    found = at_site(request, site)
    return 200, {"celsius": measure_at(found, find_device(found, device_id), content.x, content.y)}


def _heat(found: Thermal) -> dict[str, Any]:
    return {"document": found.radiometry.model_dump(mode="json"), "palettes": list(found.palettes)}


@router.put("/devices/{device_id}/detectors", response=ANSWERS, summary="Set a detector of a device")
def change(request: HttpRequest, device_id: str, content: DetectorIn, site: Site = None) -> Any:
    found = at_site(request, site)
    device = find_device(found, device_id)
    return _said(change_detector(found, device, content.token, content.settings, _drawn(content.shapes)))


@router.post("/devices/{device_id}/detectors", response=ANSWERS, summary="Make a detector on a device")
def make(request: HttpRequest, device_id: str, content: NewDetectorIn, site: Site = None) -> Any:
    found = at_site(request, site)
    device = find_device(found, device_id)
    return _said(make_detector(found, device, content.type, content.name, _drawn(content.shapes)))


@router.delete(
    "/devices/{device_id}/detectors", response={204: None, 403: Error, 404: Error, 422: Error},
    summary="Take a detector off a device",
)  # fmt: skip
def delete(request: HttpRequest, device_id: str, token: str, site: Site = None) -> Any:
    found = at_site(request, site)
    delete_detector(found, find_device(found, device_id), token)
    return 204, None


def _drawn(shapes: list[ShapeIn]) -> list[ShapeSaid]:
    return [{"item": s.item, "sort": s.sort, "points": s.points} for s in shapes]


def _said(detector: Any) -> dict[str, Any]:
    return {
        "token": detector_token(detector), "name": detector["name"], "type": detector["type"],
        "settings": {name: str(value) for name, value in detector["parameters"].items()},
        "shapes": detector.get("shapes", []),
    }  # fmt: skip
