"""Detectors of our own at a camera, and what was seen there: set up, tried over the past, looked through."""

from typing import Any

from django.http import Http404, HttpRequest
from ninja import Field, Router, Schema

from dromikon.api.base import Error, Site, at_site
from dromikon.core.rules.document import Problem
from dromikon.core.scene.search import Mark, settings_of
from dromikon.core.scene.watching import Detector
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.scene.own import cameras, own_of, read_own, retire_own, save_own, shown
from dromikon.scene.searching import LONGEST, MOST_SEEN, paths, search, things
from dromikon.sources.models import Point

router = Router(tags=["scene"])
#: So many hits are marked at a time.
MOST_MARKS = 50
ERRORS: dict[int, Any] = {403: Error, 404: Error, 422: Error}


class OwnIn(Schema):
    """`document`: `{"name", "watch": {"detects": "inside", "corners": [[x, y], …], …}}`; corners are shares of the picture."""

    document: dict[str, Any]


class OwnOut(Schema):
    id: str
    name: str
    watch: dict[str, Any]


class MarkIn(Schema):
    """A hit by its moment (ms UTC), and whether it should be told."""

    at: int
    should: bool


class SearchIn(Schema):
    """A detector as in `OwnIn`, and the stretch that it is run over (ms UTC, at most 31 days). `vary`: a setting of which other
    values are tried, too; `marks`: what is said of hits, for settings that part them better."""

    document: dict[str, Any]
    start: int
    end: int
    vary: str | None = None
    marks: list[MarkIn] = Field([], max_length=MOST_MARKS)


@router.get("/cameras/{camera}/detectors", response={200: list[OwnOut], **ERRORS}, summary="Detectors of our own")
def known(request: HttpRequest, camera: str, site: Site = None) -> Any:
    found = at_site(request, site)
    return 200, [shown(p) for p in own_of(camera_of(found, camera))]


@router.post("/cameras/{camera}/detectors", response={201: OwnOut, **ERRORS}, summary="Add a detector of our own")
def add(request: HttpRequest, camera: str, content: OwnIn, site: Site = None) -> Any:
    found = at_site(request, site)
    return 201, shown(save_own(found, camera_of(found, camera), None, read_own(content.document)))


@router.put(
    "/cameras/{camera}/detectors/{id}", response={200: OwnOut, **ERRORS}, summary="Change a detector of our own"
)
def change(request: HttpRequest, camera: str, id: str, content: OwnIn, site: Site = None) -> Any:
    found = at_site(request, site)
    place = camera_of(found, camera)
    return 200, shown(save_own(found, place, _known(place, id), read_own(content.document)))


@router.delete(
    "/cameras/{camera}/detectors/{id}", response={204: None, **ERRORS}, summary="Take a detector of our own away"
)
def retire(request: HttpRequest, camera: str, id: str, site: Site = None) -> Any:
    found = at_site(request, site)
    place = camera_of(found, camera)
    retire_own(found, place, _known(place, id))
    return 204, None


@router.post(
    "/cameras/{camera}/scene/search", response={200: dict[str, Any], **ERRORS}, summary="A detector over the past"
)
def look(request: HttpRequest, camera: str, content: SearchIn, site: Site = None) -> Any:
    found = at_site(request, site)
    found.need(May.EDIT_SOURCES)
    place, detector = camera_of(found, camera), read_own(content.document).watch
    start, end = _stretch(content.start, content.end)
    vary = _setting(detector, content.vary) if content.vary else ""
    marks = [Mark(m.at, m.should) for m in content.marks]
    return 200, search(place, detector, start, end, vary, marks).to_json()


@router.get("/cameras/{camera}/scene/paths", response={200: dict[str, Any], **ERRORS}, summary="Where objects went")
def ways(request: HttpRequest, camera: str, start: int, end: int, site: Site = None) -> Any:
    found = at_site(request, site)
    gone = paths(camera_of(found, camera), *_stretch(start, end))
    return 200, {"paths": [{"class": w.kind, "corners": w.corners} for w in gone.ways], "stood": gone.stood}


@router.get(
    "/cameras/{camera}/scene/seen",
    response={200: dict[str, Any], **ERRORS},
    summary="What was seen, picture by picture",
)
def seen(request: HttpRequest, camera: str, start: int, end: int, site: Site = None) -> Any:
    found = at_site(request, site)
    if end - start > MOST_SEEN:
        raise Refused([Problem(path="end", message="At most five minutes at a time.")])
    return 200, {"seen": things(camera_of(found, camera), *_stretch(start, end))}


def camera_of(found: Access, id: str) -> Point:
    """A camera of the site. Raises Http404."""
    camera = cameras(found).filter(pk=id).first()
    if camera is None:
        raise Http404("There is no such camera.")
    return camera


def _known(camera: Point, id: str) -> str:
    if not own_of(camera).filter(pk=id).exists():
        raise Http404("The camera has no such detector of our own.")
    return id


def _stretch(start: int, end: int) -> tuple[int, int]:
    if not 0 < end - start <= LONGEST:
        raise Refused([Problem(path="end", message="A stretch ends after it begins, and is at most 31 days long.")])
    return start, end


def _setting(detector: Detector, name: str) -> str:
    if name not in settings_of(type(detector)):
        raise Refused([Problem(path="vary", message="The detector has no such number.")])
    return name
