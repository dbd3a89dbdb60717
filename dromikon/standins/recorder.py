"""A stand-in recorder: recordings of every stand-in camera, drawn when somebody asks for them.

Packed frames are, for each picture: 8 bytes big-endian ms UTC, 4 bytes big-endian length, then JPEG.
"""

import asyncio
import hmac
import struct
import time
from collections.abc import AsyncIterator, Iterator
from fractions import Fraction

import av
from starlette.applications import Starlette
from starlette.concurrency import run_in_threadpool
from starlette.requests import Request
from starlette.responses import JSONResponse, Response, StreamingResponse
from starlette.routing import Route

from dromikon.standins.picture.compose import WIDTH
from dromikon.standins.picture.frame import LARGE, Studio
from dromikon.standins.world.scenes import CAMERAS

DAY = 86_400_000
KEEPS_DAYS = 30
LONGEST_STRETCH = 15 * 60_000
FRAMES = "application/x-dromikon-frames"
HEADER = struct.Struct(">QI")


class Refused(Exception):
    def __init__(self, status: int, why: str) -> None:
        super().__init__(why)
        self.status = status


class StandInRecorder:
    """Answers to one bearer token."""

    def __init__(self, studio: Studio, token: str) -> None:
        self.studio, self.world, self.token = studio, studio.world, token
        self.protected: list[dict[str, object]] = []
        self.asked: list[dict[str, object]] = []

    def app(self) -> Starlette:
        operations = {
            "coverage": self._coverage,
            "picture": self._picture,
            "frames": self._frames,
            "live": self._live,
            "export": self._export,
        }
        routes = [Route("/channels", self._channels)]
        routes += [Route(f"/channels/{{channel}}/{name}", call) for name, call in operations.items()]
        routes += [
            Route(f"/channels/{{channel}}/{name}", call, methods=["POST"])
            for name, call in (("record", self._record), ("protect", self._protect))
        ]
        return Starlette(routes=routes, exception_handlers={Refused: _refused})

    async def _channels(self, request: Request) -> Response:
        self._check_token(request)
        known = [{"channel": name, "serial": place.serial, "source": ""} for name, place in CAMERAS.items()]
        return JSONResponse({"channels": known})

    def _check_token(self, request: Request) -> None:
        given = request.headers.get("authorization", "")
        if not hmac.compare_digest(given.encode(), f"Bearer {self.token}".encode()):
            raise Refused(401, "a bearer token is needed")

    def _channel(self, request: Request) -> str:
        self._check_token(request)
        channel = str(request.path_params["channel"])
        if channel not in CAMERAS:
            raise Refused(404, "no such channel")
        return channel

    def _number(self, request: Request, name: str, default: float | None = None) -> int:
        text = request.query_params.get(name)
        try:
            return int(float(text)) if text is not None else int(default)  # type: ignore[arg-type]
        except (TypeError, ValueError) as error:
            raise Refused(400, f"{name} must be a number") from error

    def _recorded(self, channel: str, at: int) -> bool:
        now = time.time_ns() // 1_000_000
        return now - KEEPS_DAYS * DAY <= at <= now and not self.world.cut_off(channel, at)

    async def _coverage(self, request: Request) -> Response:
        channel, now = self._channel(request), time.time_ns() // 1_000_000
        start = max(self._number(request, "start"), now - KEEPS_DAYS * DAY)
        end = min(self._number(request, "end"), now)
        stretches, at = [], start
        for gone, back in self.world.outages(channel, start, end):
            if gone > at:
                stretches.append({"start": at, "end": gone})
            at = max(at, back)
        if at < end:
            stretches.append({"start": at, "end": end})
        return JSONResponse({"stretches": stretches})

    async def _picture(self, request: Request) -> Response:
        channel, at, width = self._channel(request), self._number(request, "at"), self._width(request, LARGE)
        if not self._recorded(channel, at):
            raise Refused(404, "nothing was recorded then")
        picture = await run_in_threadpool(self.studio.jpeg, channel, at, width)
        return Response(picture, media_type="image/jpeg")

    def _width(self, request: Request, most: int = WIDTH) -> int:
        return max(80, min(most, self._number(request, "width", WIDTH)))

    async def _frames(self, request: Request) -> Response:
        channel, width = self._channel(request), self._width(request)
        start, end = self._number(request, "start"), self._number(request, "end")
        rate = max(1, min(25, self._number(request, "rate", 8)))
        if not 0 < end - start <= LONGEST_STRETCH:
            raise Refused(400, "a stretch is longer than nothing and at most 15 minutes")
        return StreamingResponse(self._pack(channel, start, end, rate, width), media_type=FRAMES)

    def _pack(self, channel: str, start: int, end: int, rate: int, width: int) -> Iterator[bytes]:
        step = 1000 / rate
        for k in range(int((end - start) / step)):
            at = start + round(k * step)
            if self._recorded(channel, at):
                picture = self.studio.jpeg(channel, at, width, 76)
                yield HEADER.pack(at, len(picture)) + picture

    async def _live(self, request: Request) -> Response:
        channel, width = self._channel(request), self._width(request)
        rate = max(1, min(12, self._number(request, "rate", 8)))
        return StreamingResponse(self._pack_live(channel, rate, width), media_type=FRAMES)

    async def _pack_live(self, channel: str, rate: int, width: int) -> AsyncIterator[bytes]:
        apart = 1000 // rate
        while True:
            # Everybody who watches at a rate gets the same pictures: each moment is drawn once.
            now = time.time_ns() // 1_000_000
            at = now // apart * apart
            if not self.world.cut_off(channel, at):
                picture = await run_in_threadpool(self.studio.jpeg, channel, at, width, 74)
                yield HEADER.pack(at, len(picture)) + picture
            await asyncio.sleep(max(0.0, at + apart - time.time_ns() / 1_000_000) / 1000)

    async def _record(self, request: Request) -> Response:
        self.asked.append({"channel": self._channel(request), **await request.json()})
        return Response(status_code=204)

    async def _protect(self, request: Request) -> Response:
        self.protected.append({"channel": self._channel(request), **await request.json()})
        return Response(status_code=204)

    async def _export(self, request: Request) -> Response:
        channel = self._channel(request)
        start, end = self._number(request, "start"), self._number(request, "end")
        if not 0 < end - start <= LONGEST_STRETCH:
            raise Refused(400, "a clip is longer than nothing and at most 15 minutes")
        return StreamingResponse(self._clip(channel, start, end), media_type="video/webm")

    def _clip(self, channel: str, start: int, end: int, rate: int = 8) -> Iterator[bytes]:
        """A WebM clip (VP8), given out as it is encoded; nothing when nothing is recorded."""
        moments = [at for at in range(start, end, 1000 // rate) if self._recorded(channel, at)]
        if not moments:
            return
        out = Outlet()
        with av.open(out, "w", format="webm", options={"cluster_time_limit": "500"}) as container:
            stream = container.add_stream(
                "libvpx", rate=Fraction(rate), options={"deadline": "realtime", "cpu-used": "8"}
            )
            stream.width, stream.height, stream.pix_fmt, stream.bit_rate = 960, 540, "yuv420p", 2_000_000
            for at in moments:
                picture = av.VideoFrame.from_image(self.studio.frame(channel, at))  # type: ignore[no-untyped-call]
                container.mux(stream.encode(picture))
                if got := out.take():
                    yield got
            container.mux(stream.encode())
        if got := out.take():
            yield got


class Outlet:
    """A file that can only be written to, and is emptied as it fills."""

    def __init__(self) -> None:
        self._written = bytearray()

    def write(self, data: bytes) -> int:
        self._written += data
        return len(data)

    def take(self) -> bytes:
        taken, self._written = bytes(self._written), bytearray()
        return taken


async def _refused(request: Request, error: Exception) -> Response:
    assert isinstance(error, Refused)
    return JSONResponse({"error": str(error)}, error.status)
