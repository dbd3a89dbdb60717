"""Verbs on the site plan: the drawing, where points stand on it, and which cameras look at them."""

import hashlib
from collections.abc import Iterable, Sequence

from django.db import transaction

from dromikon.clock import now_ms
from dromikon.core.rules.document import Problem
from dromikon.core.siting import USUAL_REACH, USUAL_VIEW, Eye, suggested_sightlines
from dromikon.daybook.services import record_act
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.sources.drawings import NoDrawing, read_drawing
from dromikon.sources.models import Point, Sightline, SitePlan

#: The smallest and the largest plan, in metres from left to right.
NARROWEST, WIDEST = 2.0, 20_000.0


def save_plan(access: Access, data: bytes, name: str, wide: float) -> SitePlan:
    """Take a drawing as the plan of a site, or another one instead. `wide`: metres from left to right. Points keep their
    places. Raises Refused, PermissionDenied."""
    access.need(May.EDIT_SOURCES)
    try:
        drawing = read_drawing(data)
    except NoDrawing as error:
        raise _refused("file", str(error)) from error
    _check_width(wide)
    at = now_ms()
    content = {
        "name": name.strip()[:120], "media": drawing.media, "content": data, "digest": hashlib.sha256(data).hexdigest(),
        "wide": wide, "tall": wide * drawing.tall, "at": at,
    }  # fmt: skip
    with transaction.atomic():
        plan, _ = SitePlan.objects.update_or_create(site=access.site, defaults=content)
        record(access.site, access.person, "loaded plan", f"site:{access.site.id}", at, name=plan.name)
    return plan


def scale_plan(access: Access, wide: float) -> None:
    """Say how wide the plan is. What stands on it stays where it stands in the drawing. Raises Refused, PermissionDenied."""
    access.need(May.EDIT_SOURCES)
    _check_width(wide)
    plan = SitePlan.objects.filter(site=access.site).first()
    if plan is None:
        raise _refused("wide", "The site has no plan yet.")
    by, at = wide / plan.wide, now_ms()
    with transaction.atomic():
        for point in access.site.points.exclude(x=None):
            point.x, point.y = (point.x or 0) * by, (point.y or 0) * by
            point.save(update_fields=["x", "y"])
        plan.wide, plan.tall = wide, plan.tall * by
        plan.save(update_fields=["wide", "tall"])
        record(access.site, access.person, "scaled plan", f"site:{access.site.id}", at, name=plan.name, wide=wide)


def _check_width(wide: float) -> None:
    if not NARROWEST <= wide <= WIDEST:
        raise _refused("wide", f"A width from {NARROWEST:g} to {WIDEST:g} m.")


def place_point(
    access: Access, point: Point, place: tuple[float, float] | None, looks: float | None = None,
    view: float | None = None, reach: float | None = None,
) -> None:  # fmt: skip
    """Put a point somewhere on the plan, or take it off. A camera also has a direction, a view and a reach; what is not
    given stays. Raises Refused, PermissionDenied."""
    access.need(May.EDIT_SOURCES)
    if place is not None:
        plan = SitePlan.objects.filter(site=access.site).first()
        if plan is None:
            raise _refused("place", "The site has no plan yet.")
        if not (0 <= place[0] <= plan.wide and 0 <= place[1] <= plan.tall):
            raise _refused("place", "This lies outside of the plan.")
    if point.kind == "camera":
        point.looks = (looks if looks is not None else point.looks or 0.0) % 360
        point.view = _within(view, 1, 360, "view", point.view or USUAL_VIEW)
        point.reach = _within(reach, 1, 2_000, "reach", point.reach or USUAL_REACH)
    point.x, point.y = place if place is not None else (None, None)
    with transaction.atomic():
        point.save(update_fields=["x", "y", "looks", "view", "reach"])
        record(access.site, access.person, "placed point", f"point:{point.id}", now_ms(), name=point.name)


def _within(value: float | None, least: float, most: float, path: str, otherwise: float) -> float:
    if value is None:
        return otherwise
    if not least <= value <= most:
        raise _refused(path, f"From {least:g} to {most:g}.")
    return value


def set_sightlines(access: Access, point: Point, lines: Sequence[tuple[str, str]]) -> None:
    """Which cameras look at a point, in this order, each as (camera, preset); an empty preset where it stands as it stands.
    Raises Refused, PermissionDenied."""
    access.need(May.EDIT_SOURCES)
    cameras = {p.id for p in access.site.points.filter(kind="camera", retired_at=None)}
    wanted = [camera for camera, _ in lines]
    if point.kind == "camera" or len(set(wanted)) != len(wanted) or not set(wanted) <= cameras:
        raise _refused("lines", "Name each camera of this site once; a camera looks at itself anyhow.")
    at = now_ms()
    with transaction.atomic():
        point.sightlines.all().delete()
        Sightline.objects.bulk_create(
            Sightline(point=point, camera_id=camera, order=i, preset=preset[:80])
            for i, (camera, preset) in enumerate(lines)
        )
        record(access.site, access.person, "set sightlines", f"point:{point.id}", at, name=point.name)
        record_act(access.site.id, "facts", at)


def eye_of(camera: Point) -> Eye | None:
    """What a camera sees of the plan, when it stands on it."""
    if camera.x is None or camera.y is None:
        return None
    return Eye(camera.x, camera.y, camera.looks or 0.0, camera.view or USUAL_VIEW, camera.reach or USUAL_REACH)


def suggestions(points: Iterable[Point]) -> dict[str, list[str]]:
    """For each point on the plan that is no camera, the cameras that see it and are not named for it yet. A detector has its
    channel already."""
    known = list(points)
    eyes = {p.id: eye for p in known if p.kind == "camera" and (eye := eye_of(p)) is not None}
    found = {}
    for point in known:
        if point.kind not in ("camera", "detector") and point.x is not None and point.y is not None:
            named = [line.camera_id for line in point.sightlines.all()]
            found[point.id] = suggested_sightlines(eyes, (point.x, point.y), named)
    return {id: cameras for id, cameras in found.items() if cameras}


def _refused(path: str, message: str) -> Refused:
    return Refused([Problem(path=path, message=message)])
