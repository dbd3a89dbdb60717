"""Detectors of our own, as they are set up: points below a camera, with what they watch."""

from typing import Annotated, Any

from django.db import transaction
from django.db.models import QuerySet
from pydantic import Field, TypeAdapter, ValidationError

from dromikon.clock import now_ms
from dromikon.core.rules.document import Problem, problems_of
from dromikon.core.rules.parts import Part
from dromikon.core.scene.watching import AnyDetector, Detector
from dromikon.daybook.services import record_act
from dromikon.ids import id_or_new
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.scene.camera import mounting_of
from dromikon.sources.models import DrawnOn, Point, Sightline

#: A camera has at most so many.
MOST = 60
DETECTOR: TypeAdapter[Detector] = TypeAdapter(AnyDetector)


class OwnDocument(Part):
    """A detector by its name. `watch`: what it watches (`core.scene.watching`)."""

    name: Annotated[str, Field(min_length=1, max_length=120)]
    watch: AnyDetector


def cameras(access: Access) -> QuerySet[Point]:
    """The cameras of which pictures may be watched."""
    return Point.objects.filter(site=access.site, kind="camera", retired_at=None).select_related("device", "area")


def own_of(camera: Point) -> QuerySet[Point]:
    """The detectors of our own at a camera, by name."""
    return Point.objects.filter(channel=camera, retired_at=None).exclude(watch=None).order_by("name")


def watched(point: Point) -> Detector | None:
    """What a detector watches; None for one that a later release would have, or that is no longer valid."""
    try:
        return DETECTOR.validate_python(point.watch)
    except ValidationError:
        return None


def read_own(content: Any) -> OwnDocument:
    """A detector from outside. Raises Refused with the path of each offending field."""
    try:
        return OwnDocument.model_validate(content)
    except ValidationError as error:
        raise Refused(problems_of(error)) from error


def save_own(access: Access, camera: Point, id: str | None, document: OwnDocument, new_id: str | None = None) -> Point:
    """Add a detector, or change one. Raises Refused, PermissionDenied, Point.DoesNotExist."""
    access.need(May.EDIT_SOURCES)
    if document.watch.by_metres and mounting_of(camera) is None:
        raise _refused(
            "watch.shortest", "Say first how the camera hangs: without that nobody's size in metres is known."
        )
    with transaction.atomic():
        known = own_of(camera)
        if known.filter(name__iexact=document.name.strip()).exclude(pk=id or "").exists():
            raise _refused("name", "Another detector of this camera has that name.")
        if id is None and known.count() >= MOST:
            raise _refused("name", f"A camera has at most {MOST} detectors.")
        point = known.get(pk=id) if id else _new(access, camera, new_id)
        point.area = point.area if id else camera.area
        point.name, point.watch = document.name.strip(), document.watch.model_dump(mode="json")
        point.waits = float(getattr(document.watch, "seconds", 0.0))
        point.save()
        # How its camera stands is looked at afresh.
        DrawnOn.objects.filter(point=point).delete()
        if id is None:
            Sightline.objects.create(point=point, camera=camera, order=0)
        _note(access, "changed detector" if id else "made detector", point)
    return point


def _new(access: Access, camera: Point, id: str | None) -> Point:
    return Point(id=id_or_new(id), site=access.site, kind="detector", channel=camera)


def retire_own(access: Access, camera: Point, id: str) -> None:
    """Take a detector away; rules that name it say so. Raises PermissionDenied, Point.DoesNotExist."""
    access.need(May.EDIT_SOURCES)
    with transaction.atomic():
        point = own_of(camera).get(pk=id)
        point.retired_at = now_ms()
        point.save(update_fields=["retired_at"])
        _note(access, "retired detector", point)


def _note(access: Access, verb: str, point: Point) -> None:
    at = now_ms()
    record(access.site, access.person, verb, f"point:{point.id}", at, name=point.name)
    record_act(access.site.id, "facts", at)


def _refused(path: str, message: str) -> Refused:
    return Refused([Problem(path=path, message=message)])


def shown(point: Point) -> dict[str, Any]:
    """A detector as pages and API have it."""
    return {"id": point.id, "name": point.name, "watch": point.watch}
