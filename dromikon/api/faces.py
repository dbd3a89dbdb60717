"""Faces by a picture: what a recogniser sees in it, and putting somebody on a list by it."""

from typing import Any

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Base64Bytes, Field

from dromikon.api.base import Error, Site, at_site
from dromikon.api.entries import told_entry
from dromikon.api.lists import find_list
from dromikon.authoring.enrolling import EnrolDocument, Found, enrol, faces_in
from dromikon.core.lists.faces import LARGEST_PICTURE

router = Router(tags=["lists"])
ERRORS: dict[int, Any] = {403: Error, 404: Error, 422: Error}


class EnrolIn(EnrolDocument):
    """Whom a face belongs to, with the picture in base64."""

    picture: Base64Bytes = Field(max_length=LARGEST_PICTURE)


class BetterOut(Schema):
    """What could be better: `what` is eyes, sharp, light, turned, covered or live; `grave`: hardly known again by it."""

    what: str
    words: str
    better: str
    grave: bool


class AlikeOut(Schema):
    """An entry that it resembles, by `similar` percent; `same`: enough for that list."""

    list: str
    name: str
    value: str
    shown: str
    similar: float
    same: bool


class FaceOut(Schema):
    """A face, the largest first: its `box` as shares of the picture (left, top, right, bottom) and pixels between the `eyes`."""

    box: tuple[float, float, float, float]
    eyes: float
    covered: bool
    live: bool | None
    better: list[BetterOut]
    alike: list[AlikeOut]


@router.post(
    "/faces",
    response={200: list[FaceOut], **ERRORS},
    summary="What the recogniser sees in a picture",
    url_name="faces_in",
)
def look(request: HttpRequest, site: Site = None) -> Any:
    """The body is the picture, JPEG or PNG."""
    return 200, [_told(f) for f in faces_in(at_site(request, site), request.body)]


def _told(found: Found) -> dict[str, Any]:
    face = found.face
    return {
        "box": face.box, "eyes": face.eyes, "covered": face.covered, "live": face.live,
        "better": [b._asdict() for b in found.better], "alike": [a._asdict() for a in found.alike],
    }  # fmt: skip


@router.post(
    "/lists/{list_id}/faces", response={201: dict[str, Any], **ERRORS}, summary="Put somebody on a list by a picture",
    url_name="enrol",
)  # fmt: skip
def put(request: HttpRequest, content: EnrolIn, list_id: str, site: Site = None) -> Any:
    found = at_site(request, site)
    return 201, told_entry(enrol(found, find_list(found, list_id), content.picture, content))
