"""What is posted over HTTP: texts, push messages, calls, chat, webhooks."""

import json
from collections import deque
from typing import Any

from starlette.requests import Request
from starlette.responses import JSONResponse, Response
from starlette.routing import Route

from dromikon.standins.services.received import Received

#: Where each sort is posted, what it must name, and which of that is the text.
SORTS: dict[str, tuple[str, tuple[str, ...], str]] = {
    "text": ("/texts", ("id", "to", "text"), "text"),
    "push": ("/pushes", ("id", "to", "title", "text"), "text"),
    "call": ("/calls", ("id", "to", "say"), "say"),
    "chat": ("/chat", ("text",), "text"),
    "chats": ("/chats", ("id", "to", "text"), "text"),
}
#: Those that go to a telephone number.
BY_NUMBER = ("text", "call")


class Posts:
    """Takes what is posted. `delivered`: webhooks as they came."""

    def __init__(self, received: Received) -> None:
        self.received = received
        self.delivered: deque[dict[str, object]] = deque(maxlen=500)

    def routes(self) -> list[Route]:
        return [
            *(Route(path, self._taker(sort), methods=["POST"]) for sort, (path, _, _) in SORTS.items()),
            *(Route(path, self._lister(sort)) for sort, (path, _, _) in SORTS.items()),
            Route("/sink", self._sink, methods=["POST"]),
            Route("/sink", self._sunk),
        ]

    def _taker(self, sort: str) -> Any:
        _, wanted, text = SORTS[sort]

        async def take(request: Request) -> Response:
            content = await _json(request)
            if not isinstance(content, dict) or any(name not in content for name in wanted):
                return JSONResponse({"error": f"send {{{', '.join(wanted)}}}"}, 400)
            said = {name: str(value) for name, value in content.items()}
            if sort in BY_NUMBER and not said["to"].startswith("+"):
                return JSONResponse({"error": "a number begins with + and the country"}, 422)
            more = [(n, v) for n, v in said.items() if n not in ("id", "to", "title", text) and v]
            id = said.get("id") or request.headers.get("idempotency-key", "")
            self.received.take(sort, said.get("to", "Ground staff"), said.get("title", ""), said[text], more, id)
            return Response(status_code=202)

        return take

    def _lister(self, sort: str) -> Any:
        async def tell(request: Request) -> Response:
            return JSONResponse(
                [{"to": i.to, "text": i.text, **dict(i.more)} for i in reversed(self.received.of(sort))]
            )

        return tell

    async def _sink(self, request: Request) -> Response:
        content = await _json(request)
        if content is None:
            return JSONResponse({"error": "not JSON"}, 400)
        self.delivered.append({"headers": dict(request.headers), "content": content})
        about = content.get("data", {}) if isinstance(content, dict) else {}
        said = str(about.get("text", "")) if isinstance(about, dict) else ""
        title = str(content.get("type", "")) if isinstance(content, dict) else ""
        signed = "signed" if request.headers.get("webhook-signature") else "not signed"
        self.received.take("webhook", "/sink", title, said, [("", signed)], request.headers.get("webhook-id", ""))
        return Response(status_code=204)

    async def _sunk(self, request: Request) -> Response:
        return JSONResponse(list(self.delivered))


async def _json(request: Request) -> Any:
    try:
        return json.loads(await request.body())
    except ValueError:
        return None
