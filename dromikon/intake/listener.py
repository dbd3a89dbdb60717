"""Taking messages over HTTP: `/in/<intake>`, or `/in/<intake>/<secret>`. Who sends is known before anything is stored, and 202 is
said once it is committed."""

import asyncio
import json
import logging
from collections.abc import Mapping
from typing import Any
from urllib.parse import unquote

from starlette.requests import ClientDisconnect, Request
from starlette.responses import JSONResponse, Response

from dromikon.clock import now_ms
from dromikon.core.proofs import ACCEPTED, PROOFS, Asked, Refusal
from dromikon.intake.counting import Counts, Failures, Flows
from dromikon.intake.inbox import InboxUnavailable, InboxWriter, Message, Replayed
from dromikon.intake.known import Directory, Known

log = logging.getLogger("dromikon.intake")

#: No intake takes more at a time, in bytes.
LARGEST_MESSAGE = 1_000_000
#: So much of a header is kept, and so many attributes of a CloudEvent.
LONGEST_HEADER, MOST_ATTRIBUTES = 200, 30
LONGEST_QUERY = 8_000

NOBODY = Refusal("token", "This intake does not exist or its token is another one.", 'Bearer realm="intake"')
ELSEWHERE = Refusal("sender", "Messages from this address are not taken here.")
FLOOD = Refusal("flood", "More comes than this intake takes; send it again in a moment.", guess=False)
REPLAYED = Refusal("replay", "This was sent, and taken, before.", guess=False)
STATUS = {"sender": 403, "size": 413, "replay": 409, "flood": 429}


class Listener:
    """Takes messages. An address that fails too often is turned away for a while before anything is compared."""

    def __init__(self, inbox: InboxWriter) -> None:
        self.inbox, self.known = inbox, Directory()
        self.failures, self.counts, self.flows = Failures(), Counts(), Flows()

    async def receive(self, request: Request) -> Response:
        caller = request.client.host if request.client else ""
        intake = str(request.path_params["intake"])
        if self.failures.too_many(caller):
            return JSONResponse(
                {"error": "Too many wrong tokens came from this address; try again in a minute."},
                429,
                {"Retry-After": "60"},
            )
        known = await self.known.find(intake)
        if known is None:
            return self._refuse(NOBODY, intake, caller, there=False)
        if not known.lets(caller):
            return self._refuse(ELSEWHERE, intake, caller)
        try:
            return await self._take(request, intake, known, caller)
        except ClientDisconnect:
            log.info("%s hung up before its message to %s was whole", caller, intake)
            return Response(status_code=400)

    async def _take(self, request: Request, intake: str, known: Known, caller: str) -> Response:
        proof = PROOFS[known.proof]
        asked = _asked(request, b"")
        if proof.compared and (refusal := proof.check(asked, known.settings)):
            # Whoever is not known need not send all of it first.
            return self._refuse(refusal, intake, caller)
        body = await _body(request, known.largest)
        if body is None:
            return self._refuse(_too_large(known.largest), intake, caller)
        asked = _asked(request, body)
        if not proof.compared and (refusal := proof.check(asked, known.settings)):
            return self._refuse(refusal, intake, caller)
        if not self.flows.lets(intake, known.rate):
            return self._refuse(FLOOD, intake, caller)
        adapter, meta = sort_of(request.method, request.url.query, request.headers)
        once = proof.once(asked, known.settings)
        message = Message(asked.at, adapter, intake, json.dumps(meta), body, once and (f"{intake}/{once[0]}", once[1]))
        try:
            id = await asyncio.wrap_future(self.inbox.submit([message]))
        except Replayed:
            return self._refuse(REPLAYED, intake, caller)
        except InboxUnavailable as error:
            return JSONResponse({"error": f"Not accepted, send it again later: {error}"}, 503, {"Retry-After": "5"})
        self.counts.note(intake, ACCEPTED, asked.at)
        return JSONResponse({"accepted": True, "id": id}, 202)

    def _refuse(self, refusal: Refusal, intake: str, caller: str, there: bool = True) -> Response:
        if refusal.guess and self.failures.note(caller):
            log.warning("refused at intake %.60r from %s: %s", intake, caller, refusal.reason)
        if there and not refusal.only_asks:
            self.counts.note(intake, refusal.reason, now_ms())
        headers = {"WWW-Authenticate": refusal.challenge} if refusal.challenge else {}
        headers |= {"Retry-After": "1"} if refusal is FLOOD else {}
        return JSONResponse(
            {"error": refusal.words, "reason": refusal.reason}, STATUS.get(refusal.reason, 401), headers
        )


def _too_large(largest: int) -> Refusal:
    return Refusal("size", f"It is larger than the {largest // 1000} kB that this intake takes.", guess=False)


def _asked(request: Request, body: bytes) -> Asked:
    target = request.url.path + (f"?{request.url.query}" if request.url.query else "")
    key = str(request.path_params.get("key", ""))
    return Asked(request.method, target, dict(request.headers), body, now_ms(), key)


async def _body(request: Request, largest: int) -> bytes | None:
    """The whole body, or None when it is too large. Raises ClientDisconnect."""
    found = bytearray()
    async for chunk in request.stream():
        found += chunk
        if len(found) > largest:
            return None
    return bytes(found)


def sort_of(method: str, query: str, headers: Mapping[str, str]) -> tuple[str, dict[str, Any]]:
    """Which adapter a message is for, going by its headers, and what of them is kept with it."""
    kept: dict[str, Any] = {"content_type": headers.get("content-type", "")[:LONGEST_HEADER]}
    if query:
        kept["query"] = query[:LONGEST_QUERY]
    if method != "POST":
        kept["method"] = method
    if kept["content_type"].startswith("application/cloudevents"):
        return "cloudevent", kept
    if "ce-specversion" in headers:
        found = {
            name.lower()[3:]: unquote(value[:LONGEST_HEADER])
            for name, value in headers.items()
            if name.lower()[:3] == "ce-"
        }
        return "cloudevent", {**kept, "attributes": dict(list(found.items())[:MOST_ATTRIBUTES])}
    return "http", kept
