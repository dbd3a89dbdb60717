"""How cameras hang, what their pictures suffice for, and how their objects are followed."""

from typing import Any

from django.http import HttpRequest
from ninja import Router, Schema

from dromikon.api.base import Site, at_site
from dromikon.api.scene import ERRORS, camera_of
from dromikon.scene.camera import read_mounting, save_mounting, save_seeing
from dromikon.scene.siting import FIRST_PLACE, suffices

router = Router(tags=["scene"])


class DocumentIn(Schema):
    document: dict[str, Any]


class SitingIn(Schema):
    """A mounting (`core.optics.Mounting`), and a place of the picture, in shares from its left and its top, at which somebody
    stands."""

    document: dict[str, Any]
    x: float = FIRST_PLACE[0]
    y: float = FIRST_PLACE[1]


@router.post(
    "/cameras/{camera}/siting", response={200: dict[str, Any], **ERRORS}, summary="What a picture suffices for"
)
def siting(request: HttpRequest, camera: str, content: SitingIn, site: Site = None) -> Any:
    found = camera_of(at_site(request, site), camera)
    return 200, suffices(found, read_mounting(content.document), (content.x, content.y))


@router.put("/cameras/{camera}/mounting", response={200: dict[str, Any], **ERRORS}, summary="Say how a camera hangs")
def mounting(request: HttpRequest, camera: str, content: DocumentIn, site: Site = None) -> Any:
    access = at_site(request, site)
    return 200, save_mounting(access, camera_of(access, camera), content.document).model_dump(mode="json")


@router.put(
    "/cameras/{camera}/seeing", response={200: dict[str, Any], **ERRORS}, summary="Say how objects are followed"
)
def seeing(request: HttpRequest, camera: str, content: DocumentIn, site: Site = None) -> Any:
    access = at_site(request, site)
    return 200, save_seeing(access, camera_of(access, camera), content.document).model_dump(mode="json")
