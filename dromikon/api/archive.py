"""Bookmarks, and what a camera's time axis shows, over the API."""

from typing import Annotated, Any, Literal

from asgiref.sync import async_to_sync
from django.http import Http404, HttpRequest, HttpResponse
from ninja import Query, Router, Schema
from pydantic import Field

from dromikon.api.base import Error, Limit, Millis, Number, Site, at_site
from dromikon.api.tables import as_file
from dromikon.archive.models import Bookmark
from dromikon.archive.pictures import source_of
from dromikon.archive.services import camera_of, change_bookmark, drop_bookmarks, find_bookmarks, mark
from dromikon.authoring.tables import csv_of
from dromikon.core import reading
from dromikon.core.instants import Instant, iso
from dromikon.core.rules.document import Problem
from dromikon.core.words import N_, t
from dromikon.daybook.marks import LONGEST, begins_of
from dromikon.operating.axis import MOST_CAMERAS, What, curves_of, marks_of, next_of
from dromikon.people.access import Access
from dromikon.refusals import Refused
from dromikon.sources.models import Point
from dromikon.wire.pictures import PicturesUnavailable, Stretch

router = Router(tags=["archive"])
#: So many stand in a table.
MOST_IN_TABLE = 10_000
COLUMNS = (N_("Start (UTC)"), N_("Event (UTC)"), N_("End (UTC)"), N_("Camera"), N_("Title"), N_("Note"), N_("Tags"))


class BookmarkOut(Schema):
    id: str
    camera: str
    start: str
    end: str
    zero: str
    title: str
    note: str
    tags: list[str]
    run: str | None


class BookmarkIn(Schema):
    """`start` and `end` are ISO 8601 times."""

    camera: str
    start: str
    end: str
    title: str
    tags: list[str] = []
    note: str = ""


class WordsIn(Schema):
    title: str
    note: str = ""
    tags: list[str] = []


class DropIn(Schema):
    bookmarks: Annotated[list[int], Field(max_length=500)]


class DroppedOut(Schema):
    """How many there were."""

    dropped: int


class AxisMark(Schema):
    """A bookmark along the axis; times are ms."""

    id: str
    start: int
    end: int
    zero: int
    title: str


class AxisOut(Schema):
    """`events`: when something began at the camera or its detectors, in ms."""

    bookmarks: list[AxisMark]
    events: list[int]


class StretchOut(Schema):
    start: int
    end: int


class CoverageOut(Schema):
    """Stretches that are recorded, in ms. `error`: why the recorder does not say."""

    stretches: list[StretchOut]
    error: str = ""


class MarkOut(Schema):
    """Something on the axis (ms), until `end` where it lasted. `sort`: event, alarm, bookmark or recorded (by a rule); `ref`: the event
    in the journal, the run, or the bookmark that it leads to; `camera`: of what is one camera's own."""

    sort: str
    at: int
    end: int
    ref: str
    words: str
    place: str
    camera: str


class RecordedOut(CoverageOut):
    camera: str


class CurveOut(Schema):
    """Readings are (ms, mean)."""

    point: str
    name: str
    unit: str
    readings: list[tuple[int, float]]


class MomentOut(Schema):
    """An instant in ms, or null where there is none."""

    at: int | None


Cameras = Annotated[list[str], Query(min_length=1, max_length=MOST_CAMERAS)]


@router.get("/bookmarks", response=list[BookmarkOut], summary="Bookmarks by text, tag and camera, newest first")
def bookmarks(
    request: HttpRequest, site: Site = None, q: str = "", tag: str = "", camera: str = "", limit: Limit = 100
) -> list[dict[str, Any]]:
    return [_bookmark(b) for b in find_bookmarks(at_site(request, site), q, tag, camera)[:limit]]


@router.post("/bookmarks", response={201: BookmarkOut, 403: Error, 404: Error, 422: Error}, summary="Make a bookmark")
def make(request: HttpRequest, content: BookmarkIn, site: Site = None) -> Any:
    found = at_site(request, site)
    try:
        start, end = reading.instant(content.start), reading.instant(content.end)
    except ValueError as error:
        raise Refused([Problem(path="start", message="start and end are ISO 8601 times.")]) from error
    try:
        return 201, _bookmark(mark(found, content.camera, start, end, content.title, content.tags, content.note))
    except Point.DoesNotExist as error:
        raise Http404("There is no such camera at this site.") from error


@router.get("/bookmarks/table", summary="Bookmarks by text, tag and camera as CSV", url_name="bookmarks_table")
def as_table(request: HttpRequest, site: Site = None, q: str = "", tag: str = "", camera: str = "") -> HttpResponse:
    access = at_site(request, site)
    names = dict(access.site.points.filter(kind="camera").values_list("id", "name"))
    rows = [
        [iso(b.start), iso(b.zero), iso(b.end), names.get(b.camera, b.camera), b.title, b.note, " ".join(b.tags)]
        for b in find_bookmarks(access, q, tag, camera)[:MOST_IN_TABLE]
    ]
    head = [t(column) for column in COLUMNS]
    return as_file(csv_of([head, *rows]), "bookmarks.csv")


@router.post("/bookmarks/drop", response={200: DroppedOut, 403: Error}, summary="Take bookmarks away, one or several")
def drop(request: HttpRequest, content: DropIn, site: Site = None) -> Any:
    return 200, {"dropped": drop_bookmarks(at_site(request, site), content.bookmarks)}


@router.put(
    "/bookmarks/{number}", response={200: BookmarkOut, 403: Error, 404: Error, 422: Error}, summary="Change its words"
)
def change(request: HttpRequest, number: Number, content: WordsIn, site: Site = None) -> Any:
    return 200, _bookmark(change_bookmark(at_site(request, site), number, content.title, content.note, content.tags))


@router.get("/cameras/{camera}/axis", response={200: AxisOut, 404: Error}, summary="What a camera's time axis shows")
def axis(request: HttpRequest, camera: str, start: Millis, end: Millis, site: Site = None) -> Any:
    found = at_site(request, site)
    point, _ = camera_of(found, camera)
    points = [point.id, *point.detectors.values_list("id", flat=True)]
    marks = find_bookmarks(found, camera=point.id, start=start, end=end)[:400]
    return {
        "bookmarks": [
            {"id": str(b.pk), "start": b.start, "end": b.end, "zero": b.zero, "title": b.title} for b in marks
        ],
        "events": begins_of(found.site.id, points, start, end),
    }


@router.get(
    "/archive/axis", response={200: list[MarkOut], 404: Error, 422: Error}, summary="What happened where cameras look"
)
def together(request: HttpRequest, camera: Cameras, start: Millis, end: Millis, site: Site = None) -> Any:
    """In order: of these cameras, their detectors and the points that they look at."""
    found = at_site(request, site)
    _checked_span(start, end)
    return 200, marks_of(found, camera, start, end)


@router.get(
    "/archive/recorded",
    response={200: list[RecordedOut], 404: Error, 422: Error},
    summary="What is recorded of cameras",
)
def recorded_of(request: HttpRequest, camera: Cameras, start: Millis, end: Millis, site: Site = None) -> Any:
    """Asked of their recorders, which may take its time."""
    found = at_site(request, site)
    _checked_span(start, end)
    return 200, [_recorded(found, one, start, end) for one in camera]


@router.get(
    "/archive/curves",
    response={200: list[CurveOut], 404: Error, 422: Error},
    summary="What sensors read that cameras look at",
)
def curves(request: HttpRequest, camera: Cameras, start: Millis, end: Millis, site: Site = None) -> Any:
    found = at_site(request, site)
    _checked_span(start, end)
    return 200, curves_of(found, camera, start, end)


def _checked_span(start: Instant, end: Instant) -> None:
    if not 0 < end - start <= LONGEST:
        raise Refused([Problem(path="end", message=t("An axis reaches over 14 days at most."))])


@router.get("/archive/next", response={200: MomentOut, 404: Error}, summary="When the next thing happened there")
def next_moment(
    request: HttpRequest,
    camera: Cameras,
    at: Millis,
    way: Literal["on", "back"] = "on",
    what: What = "event",
    site: Site = None,
) -> Any:
    """`what`: event, alarm, bookmark, or seen, which is a minute in which something was in the picture."""
    return {"at": next_of(at_site(request, site), camera, at, way, what)}


@router.get("/cameras/{camera}/coverage", response={200: CoverageOut, 404: Error}, summary="What is recorded")
def coverage(request: HttpRequest, camera: str, start: Millis, end: Millis, site: Site = None) -> Any:
    return _recorded(at_site(request, site), camera, start, end)


def _recorded(access: Access, camera: str, start: Instant, end: Instant) -> dict[str, Any]:
    """What the camera's recorder says that it has. Raises Http404."""
    point, recorder = camera_of(access, camera)

    async def ask() -> list[Stretch]:
        return await source_of(recorder).coverage(point.recorder_channel, start, end)

    try:
        stretches = async_to_sync(ask)()
    except PicturesUnavailable as error:
        return {"camera": camera, "stretches": [], "error": str(error)}
    return {"camera": camera, "stretches": [{"start": s.start, "end": s.end} for s in stretches]}


def _bookmark(row: Bookmark) -> dict[str, Any]:
    return {
        "id": str(row.pk), "camera": row.camera, "start": iso(row.start), "end": iso(row.end), "zero": iso(row.zero),
        "title": row.title, "note": row.note, "tags": row.tags, "run": row.run or None,
    }  # fmt: skip
