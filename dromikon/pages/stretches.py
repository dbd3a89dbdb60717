"""A stretch of several cameras in step: their pictures over one connection, in the order of their moments."""

import asyncio
import contextlib
from collections.abc import AsyncIterator

from django.http import Http404, HttpRequest, HttpResponse, StreamingHttpResponse
from django.http.response import HttpResponseBase

from dromikon.archive.pictures import source_of
from dromikon.core.instants import Instant
from dromikon.operating.axis import MOST_CAMERAS
from dromikon.pages.pictures import LONGEST, PACK, known_camera, numbered, sized
from dromikon.web.views import admitted, in_address
from dromikon.wire.pictures import FRAMES_TYPE

#: Whose next picture does not come in so many seconds is no longer waited for, so that the others go on.
PATIENCE = 12.0


async def stretch(request: HttpRequest, site_id: str) -> HttpResponseBase:
    """Packed frames of a stretch of several cameras."""
    found = await admitted(request, site_id)
    names = [c for c in request.GET.get("cameras", "").split(",") if c][:MOST_CAMERAS]
    start, end = in_address(request.GET.get("start")), in_address(request.GET.get("end"))
    if start is None or end is None or not 0 < end - start <= LONGEST:
        return HttpResponse("A stretch has a start and an end at most 15 minutes later.", status=400)
    cameras = [await known_camera(found, name) for name in names]
    if not any(cameras):
        raise Http404("There is no such camera at this site.")
    rate = max(1, min(25, in_address(request.GET.get("rate")) or 8))
    sources = [
        numbered(index, source_of(known[1]).frames(known[0].recorder_channel, start, end, rate, sized(request)))
        for index, known in enumerate(cameras)
        if known is not None
    ]
    return StreamingHttpResponse(in_order(sources), content_type=FRAMES_TYPE)


async def in_order(sources: list[AsyncIterator[bytes]], patience: float = PATIENCE) -> AsyncIterator[bytes]:
    """The frames of several cameras by their moments. Each source has its own in order; one that ends, or is slow, is left out."""
    waiting: dict[int, tuple[Instant, bytes]] = {}
    going = dict(enumerate(sources))
    try:
        while going or waiting:
            missing = [index for index in going if index not in waiting]
            for index, frame in zip(
                missing, await asyncio.gather(*(_next(going[i], patience) for i in missing)), strict=True
            ):
                if frame is None:
                    await _close(going.pop(index))
                else:
                    waiting[index] = PACK.unpack_from(frame)[1], frame
            if waiting:
                first = min(waiting, key=lambda index: waiting[index][0])
                yield waiting.pop(first)[1]
    finally:
        for source in going.values():
            await _close(source)


async def _next(source: AsyncIterator[bytes], patience: float) -> bytes | None:
    with contextlib.suppress(StopAsyncIteration, TimeoutError):
        async with asyncio.timeout(patience):
            return await anext(source)
    return None


async def _close(source: AsyncIterator[bytes]) -> None:
    close = getattr(source, "aclose", None)
    if close is not None:
        with contextlib.suppress(RuntimeError):
            await close()
