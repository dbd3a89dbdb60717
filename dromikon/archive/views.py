"""Archive: one camera's time axis, playback, bookmarks; and every picture a page shows."""

import asyncio
import contextlib
import struct
from collections.abc import AsyncIterator
from typing import Any

from asgiref.sync import sync_to_async
from django.core.exceptions import PermissionDenied
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse, StreamingHttpResponse
from django.shortcuts import render

from dromikon import config
from dromikon.archive.models import Bookmark, Snapshot
from dromikon.archive.pictures import source_of
from dromikon.archive.services import find_bookmarks, mark
from dromikon.clock import now_ms
from dromikon.core import reading
from dromikon.core.instants import to_datetime
from dromikon.daybook.models import Event
from dromikon.desk.services import find_alarms
from dromikon.people.access import Access, access
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.sources.models import Point
from dromikon.web.views import body_of, site_view
from dromikon.wire.pictures import FRAMES_TYPE, HEADER, PicturesUnavailable

#: To the browser each frame carries the number of its camera besides: one connection serves several.
PACK = struct.Struct(">BQI")
LONGEST = 15 * 60_000


@site_view()
def snapshot(request: HttpRequest, access: Access, snapshot_id: int) -> HttpResponse:
    """A still that a rule had kept."""
    still = Snapshot.objects.filter(pk=snapshot_id, site=access.site).first()
    if still is None:
        raise Http404
    response = HttpResponse((config.data() / "snapshots" / still.file).read_bytes(), content_type="image/jpeg")
    response["Cache-Control"] = "private, max-age=86400"
    response["X-Content-Digest"] = f"sha-256={still.sha256}"
    return response


@site_view()
def archive(request: HttpRequest, access: Access) -> HttpResponse:
    cameras = list(Point.objects.filter(site=access.site, kind="camera").select_related("area"))
    ids = {c.id for c in cameras}
    chosen = request.GET.get("camera", "")
    query, tag = request.GET.get("q", ""), request.GET.get("tag", "")
    found = list(find_bookmarks(access, query, tag)[:60])
    opened = Bookmark.objects.filter(site=access.site, pk=_number(request.GET.get("bookmark"))).first()
    if chosen not in ids:
        chosen = (
            opened.camera
            if opened
            else found[0].camera
            if found and (query or tag)
            else cameras[0].id
            if cameras
            else ""
        )
    context = {
        "access": access,
        "cameras": cameras,
        "chosen": chosen,
        "query": query,
        "tag": tag,
        "bookmarks": found,
        # Words that were said of an alarm are found also where no bookmark carries them.
        "alarms": list(find_alarms(access, query, tag)[:20]) if query or tag else [],
        "tags": _tags(access),
        "opened": opened,
        "at": _number(request.GET.get("at")) or (opened.start if opened else now_ms() - 60_000),
        "camera_names": {c.id: c.name for c in cameras},
        "may_bookmark": access.may(May.BOOKMARK),
    }
    return render(request, "archive/archive.html", context)


def _number(text: str | None) -> int | None:
    return reading.whole_or_none(text, most=reading.LATEST)


def _tags(access: Access) -> list[tuple[str, int]]:
    counts: dict[str, int] = {}
    for tags in Bookmark.objects.filter(site=access.site).order_by("-zero").values_list("tags", flat=True)[:2000]:
        for tag in tags:
            counts[tag] = counts.get(tag, 0) + 1
    return sorted(counts.items(), key=lambda item: -item[1])[:14]


@site_view()
def axis(request: HttpRequest, access: Access, camera: str) -> JsonResponse:
    """What the time axis of a camera shows between two instants: bookmarks and events."""
    point = _camera(access, camera)
    start, end = _number(request.GET.get("start")), _number(request.GET.get("end"))
    if start is None or end is None or end <= start:
        return JsonResponse({"error": "Give start and end in ms."}, status=400)
    points = [point.id, *point.detectors.values_list("id", flat=True)]
    events = Event.objects.filter(
        site=access.site.id, point__in=points, occurred_at__gte=start, occurred_at__lt=end, initial=False
    )
    marks = find_bookmarks(access, camera=point.id, start=start, end=end)[:400]
    return JsonResponse(
        {
            "bookmarks": [
                {"id": b.pk, "start": b.start, "end": b.end, "zero": b.zero, "title": b.title} for b in marks
            ],
            "events": list(
                events.exclude(phase="end").order_by("occurred_at").values_list("occurred_at", flat=True)[:3000]
            ),
        }
    )


@site_view(May.BOOKMARK)
def make_bookmark(request: HttpRequest, access: Access) -> JsonResponse:
    content = body_of(request)
    if request.method != "POST" or not isinstance(content, dict):
        return JsonResponse({"error": "POST {camera, start, end, title, tags}."}, status=400)
    try:
        made = mark(
            access, str(content.get("camera", "")), reading.whole(content.get("start", 0), most=reading.LATEST), reading.whole(content.get("end", 0), most=reading.LATEST),
            str(content.get("title", "")), [str(t) for t in content.get("tags", [])],
        )  # fmt: skip
    except Point.DoesNotExist as error:
        raise Http404 from error
    except (TypeError, ValueError):
        return JsonResponse({"error": "start and end are numbers."}, status=400)
    except Refused as error:
        return JsonResponse({"problems": [p.model_dump() for p in error.problems]}, status=422)
    return JsonResponse({"id": str(made.pk)}, status=201)


# -- pictures ----------------------------------------------------------------------------------------------------------


async def _admitted(request: HttpRequest, site_id: str) -> Access:
    person = await request.auser()
    if not person.is_authenticated:
        raise PermissionDenied("Log in first.")
    return await sync_to_async(access)(person, site_id)


def _camera(found: Access, camera: str) -> Point:
    point = Point.objects.select_related("recorder").filter(id=camera, site=found.site, kind="camera").first()
    if point is None or point.recorder is None:
        raise Http404("There is no such camera at this site.")
    return point


def _sized(request: HttpRequest) -> int:
    return max(80, min(1920, _number(request.GET.get("width")) or 960))


async def picture(request: HttpRequest, site_id: str, camera: str) -> HttpResponse:
    """One picture of a camera, at `at` or now."""
    found = await _admitted(request, site_id)
    point = await sync_to_async(_camera)(found, camera)
    asked = _number(request.GET.get("at"))
    try:
        jpeg = await source_of(point.recorder).picture(point.recorder_channel, asked or now_ms() - 50, _sized(request))
    except PicturesUnavailable as error:
        return HttpResponse(str(error), status=404, content_type="text/plain")
    response = HttpResponse(jpeg, content_type="image/jpeg")
    response["Cache-Control"] = "private, max-age=86400" if asked and asked < now_ms() - 10_000 else "no-store"
    return response


async def coverage(request: HttpRequest, site_id: str, camera: str) -> HttpResponse:
    """Stretches of a camera's recording."""
    found = await _admitted(request, site_id)
    point = await sync_to_async(_camera)(found, camera)
    start, end = _number(request.GET.get("start")) or 0, _number(request.GET.get("end")) or now_ms()
    try:
        stretches = await source_of(point.recorder).coverage(point.recorder_channel, start, end)
    except PicturesUnavailable as error:
        return JsonResponse({"stretches": [], "error": str(error)})
    return JsonResponse({"stretches": [{"start": s.start, "end": s.end} for s in stretches]})


async def frames(request: HttpRequest, site_id: str, camera: str) -> HttpResponse:
    """Packed frames of a stretch."""
    found = await _admitted(request, site_id)
    point = await sync_to_async(_camera)(found, camera)
    start, end = _number(request.GET.get("start")), _number(request.GET.get("end"))
    if start is None or end is None or not 0 < end - start <= LONGEST:
        return HttpResponse("A stretch has a start and an end at most 15 minutes later.", status=400)
    rate = max(1, min(25, _number(request.GET.get("rate")) or 8))
    source = source_of(point.recorder).frames(point.recorder_channel, start, end, rate, _sized(request))
    return StreamingHttpResponse(_numbered(0, source), content_type=FRAMES_TYPE)


async def live(request: HttpRequest, site_id: str) -> HttpResponse:
    """Packed live frames of up to nine cameras over one connection."""
    found = await _admitted(request, site_id)
    names = [c for c in request.GET.get("cameras", "").split(",") if c][:9]
    points = [await sync_to_async(_camera)(found, name) for name in names]
    rate = max(1, min(12, _number(request.GET.get("rate")) or 8))
    width = _sized(request)
    sources = [source_of(p.recorder).live(p.recorder_channel, rate, width) for p in points]
    return StreamingHttpResponse(_together(sources), content_type=FRAMES_TYPE)


async def export(request: HttpRequest, site_id: str, camera: str) -> HttpResponse:
    """A clip as a WebM file, as the recorder encodes it. What fails before its first byte is told in words; what fails
    later breaks the connection off, so that nobody takes half a clip for a whole one."""
    found = await _admitted(request, site_id)
    point = await sync_to_async(_camera)(found, camera)
    start, end = _number(request.GET.get("start")), _number(request.GET.get("end"))
    if start is None or end is None or not 0 < end - start <= LONGEST:
        return JsonResponse({"error": "A clip has a start and an end at most 15 minutes later."}, status=400)
    clip = source_of(point.recorder).export(point.recorder_channel, start, end)
    try:
        first = await anext(clip, None)
    except PicturesUnavailable as error:
        return JsonResponse({"error": str(error)}, status=502)
    if first is None:
        return JsonResponse({"error": "Nothing is recorded in that stretch."}, status=404)

    async def whole() -> AsyncIterator[bytes]:
        yield first
        async for chunk in clip:
            yield chunk

    response = StreamingHttpResponse(whole(), content_type="video/webm")
    response["Content-Disposition"] = f'attachment; filename="{camera}_{to_datetime(start):%Y%m%dT%H%M%SZ}.webm"'
    return response


async def _numbered(index: int, source: AsyncIterator[bytes]) -> AsyncIterator[bytes]:
    """Frames of one camera as the browser wants them."""
    waiting = bytearray()
    with contextlib.suppress(PicturesUnavailable):
        async for chunk in source:
            waiting += chunk
            while len(waiting) >= HEADER.size:
                at, size = HEADER.unpack_from(waiting)
                if len(waiting) < HEADER.size + size:
                    break
                yield PACK.pack(index, at, size) + bytes(waiting[HEADER.size : HEADER.size + size])
                del waiting[: HEADER.size + size]


async def _together(sources: list[AsyncIterator[bytes]]) -> AsyncIterator[bytes]:
    """Frames of several cameras, as they come. A reader that is slow loses frames, not time."""
    queue: asyncio.Queue[bytes | None] = asyncio.Queue(maxsize=3 * max(1, len(sources)))

    async def pump(index: int, source: AsyncIterator[bytes]) -> None:
        async for frame in _numbered(index, source):
            with contextlib.suppress(asyncio.QueueFull):
                queue.put_nowait(frame)

    tasks = [asyncio.create_task(pump(i, source)) for i, source in enumerate(sources)]
    try:
        while any(not t.done() for t in tasks) or not queue.empty():
            try:
                frame = await asyncio.wait_for(queue.get(), 1)
            except TimeoutError:
                continue
            if frame is not None:
                yield frame
    finally:
        for task in tasks:
            task.cancel()


def bookmark_row(bookmark: Bookmark) -> dict[str, Any]:
    """A bookmark as JSON, with ids as text."""
    return {
        "id": str(bookmark.pk),
        "camera": bookmark.camera,
        "start": bookmark.start,
        "end": bookmark.end,
        "zero": bookmark.zero,
        "title": bookmark.title,
        "note": bookmark.note,
        "tags": bookmark.tags,
        "run": bookmark.run or None,
    }
