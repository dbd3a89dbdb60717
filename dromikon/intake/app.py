"""Intake's listener: `POST /in/<intake id>` with a bearer token stores a raw message and answers 202 once committed."""

import asyncio
import contextlib
import hmac
import json
import logging
import time
from collections import deque
from collections.abc import AsyncIterator, Mapping
from typing import Any
from urllib.parse import unquote

from asgiref.sync import sync_to_async
from django.db import OperationalError, connection
from django.db.models import F
from starlette.applications import Starlette
from starlette.requests import ClientDisconnect, Request
from starlette.responses import JSONResponse, Response
from starlette.routing import Route
from starlette.types import ASGIApp

from dromikon import config, secrets
from dromikon.clock import now_ms
from dromikon.intake.inbox import InboxUnavailable, InboxWriter, Message
from dromikon.intake.pushed import PLACE, Pushed
from dromikon.intake.sessions import Sessions
from dromikon.serving import BodyLimits
from dromikon.sources.models import Intake

log = logging.getLogger("dromikon.intake")

LARGEST_MESSAGE = 1_000_000
#: So much of a header is kept, and so many attributes of a CloudEvent.
LONGEST_HEADER, MOST_ATTRIBUTES = 200, 30

#: So many wrong tokens within a minute from one address, and it is turned away.
MOST_FAILURES, MINUTE, MOST_CALLERS = 20, 60.0, 10_000
#: How long a known intake is trusted before it is looked up again, in seconds.
REMEMBER = 2.0


class Failures:
    """Wrong tokens by the address that they came from, within a minute."""

    def __init__(self) -> None:
        self._moments: dict[str, deque[float]] = {}

    def note(self, caller: str) -> bool:
        """Count a failure. Whether it is worth a line in the log: the first of an address, and the one too many."""
        now = time.monotonic()
        if len(self._moments) > MOST_CALLERS:
            self._moments = {c: m for c, m in self._moments.items() if m[-1] > now - MINUTE}
        known = self._moments.setdefault(caller, deque(maxlen=MOST_FAILURES))
        known.append(now)
        return len(known) in (1, MOST_FAILURES)

    def too_many(self, caller: str) -> bool:
        known = self._moments.get(caller)
        return known is not None and len(known) == MOST_FAILURES and known[0] > time.monotonic() - MINUTE


class Refusals:
    """Counts refusals with their intakes, where their page shows them. Nobody waits for it: what has gathered while the
    writer was waited for is written at once. One that cannot be written is in the log all the same."""

    def __init__(self) -> None:
        self._gathered: dict[str, tuple[int, int]] = {}
        self._writing: asyncio.Task[None] | None = None

    def note(self, intake: str, at: int) -> None:
        count, _ = self._gathered.get(intake, (0, 0))
        self._gathered[intake] = count + 1, at
        if self._writing is None or self._writing.done():
            self._writing = asyncio.get_running_loop().create_task(self._write())

    async def _write(self) -> None:
        while self._gathered:
            gathered, self._gathered = self._gathered, {}
            # In a thread of its own: whoever is known must not wait behind somebody who is not.
            await sync_to_async(_count_refusals, thread_sensitive=False)(gathered)


def _count_refusals(gathered: dict[str, tuple[int, int]]) -> None:
    try:
        with contextlib.suppress(OperationalError):
            for intake, (count, at) in gathered.items():
                Intake.objects.filter(id=intake).update(refused=F("refused") + count, refused_at=at)
    finally:
        connection.close()


class Listener:
    """Authenticates before storing; the token of an intake is looked up in the configuration and remembered briefly.
    An address that fails too often is turned away for a while before anything is compared."""

    def __init__(self, inbox: InboxWriter) -> None:
        self.inbox = inbox
        self.failures, self.refusals = Failures(), Refusals()
        self._known: dict[str, tuple[float, tuple[str, ...]]] = {}

    async def receive(self, request: Request) -> Response:
        caller = request.client.host if request.client else ""
        intake = str(request.path_params["intake"])
        if self.failures.too_many(caller):
            return _problem(429, "Too many wrong tokens came from this address; try again in a minute.")
        given = request.headers.get("authorization", "").removeprefix("Bearer ")
        wanted, shown = await self._digests_of(intake), secrets.digest_of_token(given)
        if not any(hmac.compare_digest(shown, digest) for digest in wanted):
            if self.failures.note(caller):
                log.warning("wrong token for intake %.60r from %s", intake, caller)
            if wanted:
                self.refusals.note(intake, now_ms())
            return _problem(401, "This intake does not exist or its bearer token is another one.")
        try:
            body = await request.body()
        except ClientDisconnect:
            log.info("%s hung up before its message to %s was whole", caller, intake)
            return Response(status_code=400)
        adapter, meta = sort_of(request.headers)
        message = Message(now_ms(), adapter, intake, json.dumps(meta), body)
        try:
            await asyncio.wrap_future(self.inbox.submit([message]))
        except InboxUnavailable as error:
            return JSONResponse({"error": f"Not accepted, send it again later: {error}"}, 503, {"Retry-After": "5"})
        return JSONResponse({"accepted": True}, 202)

    async def _digests_of(self, intake: str) -> tuple[str, ...]:
        """The digests of the tokens that count; none for an intake that is not there."""
        known = self._known.get(intake)
        if known is None or known[0] < time.monotonic():
            digests = await sync_to_async(_digests)(intake)
            if len(self._known) > 1000:
                self._known.clear()
            known = self._known[intake] = (time.monotonic() + REMEMBER, digests)
        return known[1]


def sort_of(headers: Mapping[str, str]) -> tuple[str, dict[str, Any]]:
    """Which adapter a message is for, going by its headers, and what of them is kept with it."""
    kept: dict[str, Any] = {"content_type": headers.get("content-type", "")[:LONGEST_HEADER]}
    if kept["content_type"].startswith("application/cloudevents+json"):
        return "cloudevent", kept
    if "ce-specversion" in headers:
        found = {
            name.lower()[3:]: unquote(value[:LONGEST_HEADER])
            for name, value in headers.items()
            if name.lower()[:3] == "ce-"
        }
        return "cloudevent", {**kept, "attributes": dict(list(found.items())[:MOST_ATTRIBUTES])}
    return "http", kept


def _digests(intake: str) -> tuple[str, ...]:
    known = Intake.objects.filter(id=intake, enabled=True, retired_at=None)
    found = known.values_list("token_digest", "before_digest", "before_until").first()
    if found is None:
        return ()
    digest, before, until = found
    return (digest, before) if before and until is not None and until > now_ms() else (digest,)


def _problem(status: int, text: str) -> Response:
    return JSONResponse({"error": text}, status)


def build(inbox: InboxWriter, *, sessions: bool = True) -> ASGIApp:
    """The intake as an ASGI application; with `sessions`, it also talks to the devices."""

    @contextlib.asynccontextmanager
    async def lifespan(app: Starlette) -> AsyncIterator[None]:
        task = asyncio.create_task(Sessions(inbox, pushed).run()) if sessions else None
        yield
        if task:
            task.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await task

    listener, pushed = Listener(inbox), Pushed(config.intake_port)
    routes = [
        Route("/in/{intake}", listener.receive, methods=["POST"]),
        Route(f"{PLACE}{{key}}", pushed.receive, methods=["POST"]),
    ]
    app = Starlette(routes=routes, lifespan=lifespan)
    return BodyLimits(app, (("/in/", LARGEST_MESSAGE), (PLACE, LARGEST_MESSAGE)))
