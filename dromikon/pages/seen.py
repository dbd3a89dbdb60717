"""What the analytics of a camera see, frame by frame, for as long as a page looks on."""

import json
from collections.abc import AsyncIterator
from contextlib import aclosing
from datetime import timedelta

from asgiref.sync import sync_to_async
from django.http import HttpRequest, HttpResponse, StreamingHttpResponse
from django.http.response import HttpResponseBase

from dromikon.core.devices.frames import SceneFrame
from dromikon.pages.device import find_device
from dromikon.people.roles import May
from dromikon.secrets import SealBroken
from dromikon.sources.client import client_of
from dromikon.sources.models import Device
from dromikon.web.views import admitted
from dromikon.wire.onvif.frames import frames
from dromikon.wire.onvif.soap import DeviceError

#: A page is told of frames at least so far apart, in ms; and so many pages look on at a time.
APART, MOST = 90, 12
_looking: set[object] = set()


async def seen(request: HttpRequest, site_id: str, device_id: str) -> HttpResponseBase:
    """An event stream: `frame` with what is seen, and `trouble` with why there is no more."""
    access = await admitted(request, site_id)
    access.need(May.EDIT_SOURCES)
    device = await sync_to_async(find_device)(access, device_id)
    if len(_looking) >= MOST:
        return HttpResponse("Too many look on already.", status=503, content_type="text/plain")
    response = StreamingHttpResponse(_told(device, request.GET.get("channel", "")), content_type="text/event-stream")
    response["Cache-Control"] = "no-store"
    response["X-Accel-Buffering"] = "no"
    return response


async def _told(device: Device, channel: str) -> AsyncIterator[bytes]:
    looker, last = object(), 0
    _looking.add(looker)
    client = None
    try:
        client = client_of(device)
        await client.measure_clock()
        await client.discover_services()
        async with aclosing(frames(client, channel)) as stream:
            async for frame in stream:
                if abs(frame.at - last) >= APART:
                    last = frame.at
                    yield _event("frame", _said(frame, client.soap.clock_offset))
    except (DeviceError, SealBroken) as error:
        yield _event("trouble", {"why": str(error)})
    finally:
        _looking.discard(looker)
        if client is not None:
            await client.close()


def _event(name: str, content: dict[str, object]) -> bytes:
    return f"event: {name}\ndata: {json.dumps(content)}\n\n".encode()


def _said(frame: SceneFrame, offset: timedelta) -> dict[str, object]:
    """By our time: the device's clock, less how far it is off."""
    things = [{"object": s.object, "kind": s.kind, "likelihood": s.likelihood, "box": s.box} for s in frame.seen]
    return {"at": frame.at - offset // timedelta(milliseconds=1), "seen": things}
