"""How the product's servers listen: limits of size and time before anything of the product is asked.

A body is limited by the route it goes to. Headers must be there within seconds, and so must a body; a sender that is
slower loses its connection, so that slow ones cannot hold all of them.
"""

import asyncio
import json
import logging
import socket
from collections.abc import Sequence
from typing import Any

import uvicorn
from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Message, Receive, Scope, Send
from uvicorn.protocols.http.httptools_impl import HttpToolsProtocol

from dromikon import config
from dromikon.start import check_port

log = logging.getLogger("dromikon.serving")

#: Seconds for the headers of a request, and for its body.
HEADERS_WITHIN, BODY_WITHIN = 10.0, 30.0


class TimedProtocol(HttpToolsProtocol):
    """HTTP/1.1 whose requests must begin and bring their headers in time."""

    _patience: asyncio.TimerHandle | None = None

    def connection_made(self, transport: Any) -> None:
        super().connection_made(transport)
        self._wait_for_headers()

    def on_message_begin(self) -> None:
        self._wait_for_headers()
        super().on_message_begin()

    def on_headers_complete(self) -> None:
        self._stop_waiting()
        super().on_headers_complete()

    def connection_lost(self, exc: Exception | None) -> None:
        self._stop_waiting()
        super().connection_lost(exc)

    def _wait_for_headers(self) -> None:
        self._stop_waiting()
        self._patience = self.loop.call_later(HEADERS_WITHIN, self._give_up)

    def _stop_waiting(self) -> None:
        if self._patience is not None:
            self._patience.cancel()
            self._patience = None

    def _give_up(self) -> None:
        log.info("a connection brought no complete request within %.0f s and was closed", HEADERS_WITHIN)
        self.transport.close()


class BodyRefused(HTTPException):
    """A body is too large, or did not come in time. An application that knows this exception answers by itself."""


class BodyLimits:
    """Limits bodies by the beginning of the path: the first (prefix, bytes) that fits counts."""

    def __init__(self, app: ASGIApp, limits: Sequence[tuple[str, int]], within: float = BODY_WITHIN) -> None:
        self.app, self.limits, self.within = app, limits, within

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        most = next((size for prefix, size in self.limits if scope["path"].startswith(prefix)), 0)
        begun = False

        async def watched(message: Message) -> None:
            nonlocal begun
            begun = begun or message["type"] == "http.response.start"
            await send(message)

        try:
            if _announced(scope) > most:
                raise BodyRefused(413, f"A request here has at most {most} bytes.")
            await self.app(scope, self._limited(receive, most), watched)
        except BodyRefused as refused:
            if begun:
                raise
            await _refuse(send, refused)

    def _limited(self, receive: Receive, most: int) -> Receive:
        got, ends, whole = 0, asyncio.get_running_loop().time() + self.within, False

        async def limited() -> Message:
            nonlocal got, whole
            if whole:
                # The body is there; from here on it is waited for the caller to leave, as long as that takes.
                return await receive()
            try:
                message = await asyncio.wait_for(receive(), max(0.0, ends - asyncio.get_running_loop().time()))
            except TimeoutError as error:
                raise BodyRefused(408, f"The request did not come within {self.within:.0f} s.") from error
            got += len(message.get("body", b""))
            whole = not message.get("more_body", False)
            if got > most:
                raise BodyRefused(413, f"A request here has at most {most} bytes.")
            return message

        return limited


def _announced(scope: Scope) -> int:
    """The length that the sender says, 0 when it says none."""
    for name, value in scope["headers"]:
        if name == b"content-length" and value.isdigit() and value.isascii():
            return int(value[:18])
    return 0


async def _refuse(send: Send, refused: BodyRefused) -> None:
    body = json.dumps({"error": refused.detail}).encode()
    headers = [(b"content-type", b"application/json"), (b"connection", b"close")]
    await send({"type": "http.response.start", "status": refused.status_code, "headers": headers})
    await send({"type": "http.response.body", "body": body})


class QuietEnd(uvicorn.Server):
    """A server whose end is no trouble: streams that are open when it comes are cut off, and nothing is said of it."""

    async def shutdown(self, sockets: list[socket.socket] | None = None) -> None:
        logging.getLogger("uvicorn.error").setLevel(logging.CRITICAL)
        await super().shutdown(sockets)


def serve(app: Any, host: str, port: int) -> None:
    """Listen until told to stop. Raises CannotStart when the port cannot be had."""
    check_port(host, port, "listening")
    proxies = config.trusted_proxies()
    server = uvicorn.Config(
        app,
        host=host,
        port=port,
        http=TimedProtocol,
        log_level="warning",
        access_log=False,
        timeout_graceful_shutdown=2,
        proxy_headers=bool(proxies),
        forwarded_allow_ips=proxies,
    )
    QuietEnd(server).run()
