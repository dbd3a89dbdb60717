"""Every picture a page shows: stills that were kept, and pictures, stretches and clips of recorders."""

import asyncio
import contextlib
import struct
from collections.abc import AsyncIterator

from asgiref.sync import sync_to_async
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse, StreamingHttpResponse
from django.http.response import HttpResponseBase

from dromikon import config
from dromikon.archive.models import Snapshot
from dromikon.archive.pictures import source_of
from dromikon.archive.services import camera_of
from dromikon.clock import now_ms
from dromikon.core.instants import to_datetime
from dromikon.lists.models import Picture
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.sources.models import Point, Recorder
from dromikon.web.views import admitted, in_address, site_view
from dromikon.wire.pictures import FRAMES_TYPE, HEADER, PicturesUnavailable

#: To the browser each frame carries the number of its camera besides: one connection serves several.
PACK = struct.Struct(">BQI")
#: A stretch or clip is at most so long, in ms.
LONGEST = 15 * 60_000
#: So many cameras are live on a page.
MOST_LIVE = 16


@site_view()
def snapshot(request: HttpRequest, access: Access, snapshot_id: int) -> HttpResponse:
    """A still that a rule had kept; one that shows somebody of a list is for those who may keep lists."""
    still = Snapshot.objects.filter(pk=snapshot_id, site=access.site).first()
    if still is None:
        raise Http404
    if Picture.objects.filter(run=still.run).exists():
        access.need(May.EDIT_LISTS)
    response = HttpResponse((config.data() / "snapshots" / still.file).read_bytes(), content_type="image/jpeg")
    response["Cache-Control"] = "private, max-age=86400"
    response["X-Content-Digest"] = f"sha-256={still.sha256}"
    return response


def sized(request: HttpRequest) -> int:
    """How wide pictures are asked for."""
    return max(80, min(1920, in_address(request.GET.get("width")) or 960))


async def picture(request: HttpRequest, site_id: str, camera: str) -> HttpResponse:
    """One picture of a camera, at `at` or now."""
    found = await admitted(request, site_id)
    point, recorder = await sync_to_async(camera_of)(found, camera)
    asked = in_address(request.GET.get("at"))
    try:
        jpeg = await source_of(recorder).picture(point.recorder_channel, asked or now_ms() - 50, sized(request))
    except PicturesUnavailable as error:
        return HttpResponse(str(error), status=404, content_type="text/plain")
    response = HttpResponse(jpeg, content_type="image/jpeg")
    response["Cache-Control"] = "private, max-age=86400" if asked and asked < now_ms() - 10_000 else "no-store"
    return response


async def live(request: HttpRequest, site_id: str) -> HttpResponseBase:
    """Packed live frames of several cameras over one connection."""
    found = await admitted(request, site_id)
    names = [c for c in request.GET.get("cameras", "").split(",") if c][:MOST_LIVE]
    cameras = [await known_camera(found, name) for name in names]
    if not any(cameras):
        raise Http404("There is no such camera at this site.")
    rate = max(1, min(12, in_address(request.GET.get("rate")) or 8))
    width = sized(request)
    sources = {
        index: source_of(known[1]).live(known[0].recorder_channel, rate, width)
        for index, known in enumerate(cameras)
        if known is not None
    }
    return StreamingHttpResponse(_together(sources), content_type=FRAMES_TYPE)


async def known_camera(found: Access, name: str) -> tuple[Point, Recorder] | None:
    """A camera that has pictures; one that has none, or is gone, must not darken the others."""
    try:
        return await sync_to_async(camera_of)(found, name)
    except Http404:
        return None


async def export(request: HttpRequest, site_id: str, camera: str) -> HttpResponseBase:
    """A clip as a WebM file, as the recorder encodes it. What fails before its first byte is told in words; what fails
    later breaks the connection off, so that nobody takes half a clip for a whole one."""
    found = await admitted(request, site_id)
    point, recorder = await sync_to_async(camera_of)(found, camera)
    start, end = in_address(request.GET.get("start")), in_address(request.GET.get("end"))
    if start is None or end is None or not 0 < end - start <= LONGEST:
        return JsonResponse({"error": "A clip has a start and an end at most 15 minutes later."}, status=400)
    clip = source_of(recorder).export(point.recorder_channel, start, end)
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


async def numbered(index: int, source: AsyncIterator[bytes]) -> AsyncIterator[bytes]:
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


async def _together(sources: dict[int, AsyncIterator[bytes]]) -> AsyncIterator[bytes]:
    """Frames of several cameras by their numbers, as they come. A reader that is slow loses frames, not time."""
    queue: asyncio.Queue[bytes | None] = asyncio.Queue(maxsize=3 * max(1, len(sources)))

    async def pump(index: int, source: AsyncIterator[bytes]) -> None:
        async for frame in numbered(index, source):
            with contextlib.suppress(asyncio.QueueFull):
                queue.put_nowait(frame)

    tasks = [asyncio.create_task(pump(i, source)) for i, source in sources.items()]
    try:
        while any(not t.done() for t in tasks) or not queue.empty():
            try:
                async with asyncio.timeout(1):
                    frame = await queue.get()
            except TimeoutError:
                continue
            if frame is not None:
                yield frame
    finally:
        for task in tasks:
            task.cancel()
