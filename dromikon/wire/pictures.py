"""The one narrow interface through which pictures come, and the client that speaks it to a recorder over HTTP.

Times are instants (ms UTC). Frames of a stretch come packed: for each, 8 bytes big-endian instant, 4 bytes big-endian
length, then that many bytes of JPEG (`application/x-dromikon-frames`).
"""

import struct
from collections.abc import AsyncIterator
from dataclasses import dataclass
from typing import Protocol

import httpx

from dromikon.core.instants import Instant
from dromikon.wire.outgoing import NotAllowed, client

FRAMES_TYPE = "application/x-dromikon-frames"
HEADER = struct.Struct(">QI")
MAX_PICTURE = 8 * 1024 * 1024


class PicturesUnavailable(Exception):
    """No picture; the message says why."""


class NoRecording(PicturesUnavailable):
    """The recorder has nothing of that moment, now or ever: asking again is of no use, unless the moment lies ahead."""


@dataclass(frozen=True, slots=True)
class Stretch:
    """A stretch of recording."""

    start: Instant
    end: Instant


@dataclass(frozen=True, slots=True)
class Recorded:
    """What a recorder records: its name for it, the serial number of the device, and the token of its video source
    (empty when the device has one only)."""

    channel: str
    serial: str
    source: str


class PictureSource(Protocol):
    """What a recorder must be able to do."""

    async def close(self) -> None: ...

    async def channels(self) -> list[Recorded]: ...

    async def coverage(self, channel: str, start: Instant, end: Instant) -> list[Stretch]: ...

    async def picture(self, channel: str, at: Instant, width: int) -> bytes: ...

    def frames(self, channel: str, start: Instant, end: Instant, rate: float, width: int) -> AsyncIterator[bytes]: ...

    def live(self, channel: str, rate: float, width: int) -> AsyncIterator[bytes]: ...

    async def record(self, channel: str, start: Instant, end: Instant) -> None: ...

    async def protect(self, channel: str, start: Instant, end: Instant, why: str) -> None: ...

    def export(self, channel: str, start: Instant, end: Instant) -> AsyncIterator[bytes]: ...


class HttpRecorder:
    """A recorder that answers over HTTP at `address`, with a bearer token."""

    def __init__(self, address: str, token: str) -> None:
        headers = {"Authorization": f"Bearer {token}"} if token else {}
        self._http = client(base_url=address, headers=headers)

    async def close(self) -> None:
        await self._http.aclose()

    async def channels(self) -> list[Recorded]:
        answer = await self._get("/channels", {})
        try:
            return [
                Recorded(str(c["channel"]), str(c.get("serial", "")), str(c.get("source", "")))
                for c in answer.json()["channels"]
            ]
        except (ValueError, KeyError, TypeError, AttributeError) as error:
            raise PicturesUnavailable("The recorder does not tell what it records.") from error

    async def coverage(self, channel: str, start: Instant, end: Instant) -> list[Stretch]:
        answer = await self._get(f"/channels/{channel}/coverage", {"start": start, "end": end})
        return [Stretch(s["start"], s["end"]) for s in answer.json()["stretches"]]

    async def picture(self, channel: str, at: Instant, width: int) -> bytes:
        answer = await self._get(f"/channels/{channel}/picture", {"at": at, "width": width})
        return answer.content

    def frames(self, channel: str, start: Instant, end: Instant, rate: float, width: int) -> AsyncIterator[bytes]:
        return self._stream(f"/channels/{channel}/frames", {"start": start, "end": end, "rate": rate, "width": width})

    def live(self, channel: str, rate: float, width: int) -> AsyncIterator[bytes]:
        return self._stream(f"/channels/{channel}/live", {"rate": rate, "width": width})

    async def record(self, channel: str, start: Instant, end: Instant) -> None:
        await self._post(f"/channels/{channel}/record", {"start": start, "end": end})

    async def protect(self, channel: str, start: Instant, end: Instant, why: str) -> None:
        await self._post(f"/channels/{channel}/protect", {"start": start, "end": end, "why": why})

    def export(self, channel: str, start: Instant, end: Instant) -> AsyncIterator[bytes]:
        # A clip is encoded: its first bytes may take a while.
        return self._stream(f"/channels/{channel}/export", {"start": start, "end": end}, timeout=60)

    async def _get(self, path: str, query: dict[str, str | int | float]) -> httpx.Response:
        try:
            answer = await self._http.get(path, params=query)
        except (httpx.HTTPError, NotAllowed) as error:
            raise PicturesUnavailable(f"The recorder cannot be reached: {error or type(error).__name__}") from error
        return _checked(answer)

    async def _post(self, path: str, body: dict[str, object]) -> None:
        try:
            answer = await self._http.post(path, json=body)
        except (httpx.HTTPError, NotAllowed) as error:
            raise PicturesUnavailable(f"The recorder cannot be reached: {error or type(error).__name__}") from error
        _checked(answer)

    async def _stream(
        self, path: str, query: dict[str, str | int | float], timeout: float = 10
    ) -> AsyncIterator[bytes]:
        try:
            async with self._http.stream("GET", path, params=query, timeout=timeout) as answer:
                if answer.status_code != 200:
                    await answer.aread()
                    _checked(answer)
                async for chunk in answer.aiter_raw():
                    yield chunk
        except (httpx.HTTPError, NotAllowed) as error:
            raise PicturesUnavailable(f"The recorder stopped answering: {error or type(error).__name__}") from error


def _checked(answer: httpx.Response) -> httpx.Response:
    if answer.status_code == 404:
        raise NoRecording("There is no recording at that moment.")
    if answer.status_code >= 400:
        raise PicturesUnavailable(f"The recorder answered HTTP {answer.status_code}.")
    if len(answer.content) > MAX_PICTURE:
        raise PicturesUnavailable("The recorder's answer is too large.")
    return answer
