"""What holds for a camera as a whole: how its objects are followed, and how it hangs."""

from typing import Any, TypeVar

from django.db import transaction
from pydantic import BaseModel, ValidationError

from dromikon.clock import now_ms
from dromikon.core.optics import PURPOSES, Mounting, Optics
from dromikon.core.rules.document import problems_of
from dromikon.core.scene.seeing import Seeing
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.sources.models import Point

Content = TypeVar("Content", bound=BaseModel)


def seeing_of(camera: Point) -> Seeing:
    """How its objects are followed; as usual until somebody says otherwise."""
    return _read(Seeing, camera.seeing) or Seeing()


def mounting_of(camera: Point) -> Mounting | None:
    """How it hangs; None while nobody has said."""
    return _read(Mounting, camera.mounting)


def optics_of(camera: Point) -> Optics | None:
    """Its geometry; None while nobody has said how it hangs."""
    mounting = mounting_of(camera)
    return Optics(mounting) if mounting else None


def _read(kind: type[Content], content: Any) -> Content | None:
    """What a later release wrote otherwise is as if it were not there."""
    try:
        return kind.model_validate(content) if content is not None else None
    except ValidationError:
        return None


def _from_outside(kind: type[Content], content: Any) -> Content:
    try:
        return kind.model_validate(content)
    except ValidationError as error:
        raise Refused(problems_of(error)) from error


def read_mounting(content: Any) -> Mounting:
    """A mounting from outside. Raises Refused with the path of each offending field."""
    return _from_outside(Mounting, content)


def save_seeing(access: Access, camera: Point, content: Any) -> Seeing:
    """Say how a camera's objects are followed. Raises Refused with the path of each offending field, PermissionDenied."""
    access.need(May.EDIT_SOURCES)
    seeing = _from_outside(Seeing, content)
    camera.seeing = seeing.model_dump(mode="json")
    _save(access, camera, "set how a camera follows", "seeing")
    return seeing


def save_mounting(access: Access, camera: Point, content: Any) -> Mounting:
    """Say how a camera hangs; what it sees on the plan follows from it. Raises Refused, PermissionDenied."""
    access.need(May.EDIT_SOURCES)
    mounting = read_mounting(content)
    optics = Optics(mounting)
    camera.mounting = mounting.model_dump(mode="json")
    camera.view = round(min(360.0, optics.view), 1)
    camera.reach = round(max(1.0, min(optics.far, optics.reach(PURPOSES["detect"][1]))), 1)
    _save(access, camera, "measured camera", "mounting", "view", "reach")
    return mounting


def _save(access: Access, camera: Point, verb: str, *fields: str) -> None:
    with transaction.atomic():
        camera.save(update_fields=fields)
        record(access.site, access.person, verb, f"point:{camera.id}", now_ms(), name=camera.name)
