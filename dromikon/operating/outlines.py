"""Where detectors watch in a camera's picture: those that the camera runs itself, and our own, as they are drawn now."""

from typing import Any

from dromikon.core.devices.catalogue import ShapeSaid, detector_token
from dromikon.people.access import Access
from dromikon.scene.own import own_of, watched
from dromikon.sources.models import Point
from dromikon.sources.offers import catalogue_of


def outlines_of(access: Access, camera: str) -> list[dict[str, Any]]:
    """The detectors of a camera that are points of the site: name, shapes (corners from -1 to 1, y upwards), and point."""
    known = Point.objects.select_related("device").filter(id=camera, site=access.site).first()
    if known is None:
        return []
    points = dict(Point.objects.filter(channel_id=camera, retired_at=None).values_list("token", "id"))
    said = catalogue_of(known.device).get("detectors", []) if known.device else []
    theirs = [
        {"name": d["name"], "shapes": d.get("shapes", []), "point": points[detector_token(d)]}
        for d in said
        if detector_token(d) in points
    ]
    return theirs + [
        {"name": point.name, "shapes": [_shape(detector.shape, detector.corners)], "point": point.id}
        for point in own_of(known)
        if (detector := watched(point)) is not None
    ]


def _shape(sort: str, corners: tuple[tuple[float, float], ...]) -> ShapeSaid:
    """Ours are in shares of the picture from its upper left."""
    return {"sort": sort, "item": "", "points": [(2 * x - 1, 1 - 2 * y) for x, y in corners]}
