"""Where detectors watch in a camera's picture: those that the camera runs itself, and our own, as they are drawn now."""

from collections.abc import Sequence
from typing import Any

from dromikon.core.devices.catalogue import ShapeSaid, detector_token
from dromikon.people.access import Access
from dromikon.scene.own import watched
from dromikon.sources.models import Point
from dromikon.sources.offers import catalogue_of


def outlines_of(access: Access, cameras: Sequence[str]) -> dict[str, list[dict[str, Any]]]:
    """By camera, its detectors that are points of the site: name, shapes (corners from -1 to 1, y upwards), and point."""
    detectors: dict[str, list[Point]] = {}
    for point in Point.objects.filter(site=access.site, channel__in=cameras, retired_at=None).order_by("name"):
        detectors.setdefault(point.channel_id or "", []).append(point)
    known = Point.objects.filter(site=access.site, pk__in=cameras).select_related("device")
    return {camera.id: _of(camera, detectors.get(camera.id, [])) for camera in known}


def _of(camera: Point, detectors: list[Point]) -> list[dict[str, Any]]:
    points = {point.token: point.id for point in detectors}
    said = catalogue_of(camera.device).get("detectors", []) if camera.device else []
    theirs = [
        {"name": d["name"], "shapes": d.get("shapes", []), "point": points[detector_token(d)]}
        for d in said
        if detector_token(d) in points
    ]
    ours = ((point, watched(point)) for point in detectors if point.watch is not None)
    return theirs + [
        {"name": point.name, "shapes": [_shape(one.shape, one.corners)], "point": point.id}
        for point, one in ours
        if one is not None
    ]


def _shape(sort: str, corners: tuple[tuple[float, float], ...]) -> ShapeSaid:
    """Ours are in shares of the picture from its upper left."""
    return {"sort": sort, "item": "", "points": [(2 * x - 1, 1 - 2 * y) for x, y in corners]}
