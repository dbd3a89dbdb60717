"""Intake's listener: `POST /in/<intake id>` with a bearer token stores a raw message and answers 202 once committed."""

import asyncio
import contextlib
import hmac
import json
import time
from collections.abc import AsyncIterator

from asgiref.sync import sync_to_async
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import JSONResponse, Response
from starlette.routing import Route

from dromikon import secrets
from dromikon.clock import now_ms
from dromikon.intake.inbox import InboxUnavailable, InboxWriter, Message
from dromikon.intake.sessions import Sessions
from dromikon.sources.models import Intake

LARGEST_MESSAGE = 1_000_000
#: How long a known intake is trusted before it is looked up again, in seconds.
REMEMBER = 2.0


class Listener:
    """Authenticates before storing; the token of an intake is looked up in the configuration and remembered briefly."""

    def __init__(self, inbox: InboxWriter) -> None:
        self.inbox = inbox
        self._known: dict[str, tuple[float, str | None]] = {}

    async def receive(self, request: Request) -> Response:
        intake = str(request.path_params["intake"])
        given = request.headers.get("authorization", "").removeprefix("Bearer ")
        wanted = await self._digest_of(intake)
        if wanted is None or not hmac.compare_digest(secrets.digest_of_token(given), wanted):
            return _problem(401, "This intake does not exist or its bearer token is another one.")
        body = bytearray()
        async for chunk in request.stream():
            body += chunk
            if len(body) > LARGEST_MESSAGE:
                return _problem(413, f"A message is at most {LARGEST_MESSAGE} bytes.")
        meta = json.dumps({"content_type": request.headers.get("content-type", "")[:200]})
        message = Message(now_ms(), "http", intake, meta, bytes(body))
        try:
            await asyncio.wrap_future(self.inbox.submit([message]))
        except InboxUnavailable as error:
            return JSONResponse({"error": f"Not accepted, send it again later: {error}"}, 503, {"Retry-After": "5"})
        return JSONResponse({"accepted": True}, 202)

    async def _digest_of(self, intake: str) -> str | None:
        known = self._known.get(intake)
        if known is None or known[0] < time.monotonic():
            digest = await sync_to_async(_digest)(intake)
            if len(self._known) > 1000:
                self._known.clear()
            known = self._known[intake] = (time.monotonic() + REMEMBER, digest)
        return known[1]


def _digest(intake: str) -> str | None:
    return Intake.objects.filter(id=intake, enabled=True).values_list("token_digest", flat=True).first()


def _problem(status: int, text: str) -> Response:
    return JSONResponse({"error": text}, status)


def build(inbox: InboxWriter, *, sessions: bool = True) -> Starlette:
    """The intake as an ASGI application; with `sessions`, it also talks to the devices."""

    @contextlib.asynccontextmanager
    async def lifespan(app: Starlette) -> AsyncIterator[None]:
        task = asyncio.create_task(Sessions(inbox).run()) if sessions else None
        yield
        if task:
            task.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await task

    listener = Listener(inbox)
    return Starlette(routes=[Route("/in/{intake}", listener.receive, methods=["POST"])], lifespan=lifespan)
