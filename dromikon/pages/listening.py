"""The sound of a camera, for as long as a page listens."""

from collections.abc import AsyncGenerator, AsyncIterator

from asgiref.sync import sync_to_async
from django.http import HttpRequest, HttpResponse, StreamingHttpResponse
from django.http.response import HttpResponseBase

from dromikon.operating.listening import CannotListen, heard, place_heard, room_to_listen
from dromikon.web.views import admitted
from dromikon.wire.onvif.soap import DeviceError

#: One channel of mu-law at 8,000 samples a second (RFC 2046, 4.3).
SOUND_TYPE = "audio/basic"


async def listen(request: HttpRequest, site_id: str, camera: str) -> HttpResponseBase:
    """What is heard from now on. Why nothing is, is told in words before the first byte; what breaks off later ends."""
    found = await admitted(request, site_id)
    if not room_to_listen():
        return HttpResponse("Too many listen already.", status=503, content_type="text/plain")
    try:
        point = await sync_to_async(place_heard)(found, camera)
    except CannotListen as error:
        return HttpResponse(str(error), status=404, content_type="text/plain")
    coming = heard(point)
    try:
        first = await anext(coming)
    except DeviceError as error:
        return HttpResponse(str(error), status=502, content_type="text/plain")
    response = StreamingHttpResponse(_whole(first, coming), content_type=SOUND_TYPE)
    response["Cache-Control"] = "no-store"
    response["X-Accel-Buffering"] = "no"
    return response


async def _whole(first: bytes, coming: AsyncGenerator[bytes]) -> AsyncIterator[bytes]:
    try:
        yield first
        async for samples in coming:
            yield samples
    except DeviceError:
        return
    finally:
        await coming.aclose()
