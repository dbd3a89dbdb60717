"""The *Provoke* page: cause things in the garden. And a sink that keeps what webhooks deliver."""

import html
import json
import time
from collections import deque
from collections.abc import Callable

from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import HTMLResponse, JSONResponse, RedirectResponse, Response
from starlette.routing import Route

from dromikon.standins.world.provocations import PROVOCATIONS
from dromikon.standins.world.world import World

STYLE = """
:root{color-scheme:light dark;font:16px/1.5 system-ui,sans-serif;--line:light-dark(#cdc6b8,#3c4147);--paper:light-dark(#f6f2e9,#171a1e);
--ink:light-dark(#23252a,#e7e3d8);--own:light-dark(#6b1f45,#d48bb0);--quiet:light-dark(#5b5a55,#a8a69d)}
body{margin:0;background:var(--paper);color:var(--ink)}main{max-width:46rem;margin:3rem auto;padding:0 1.5rem}
h1{font-size:1.5rem;margin:0 0 .25rem}h2{font-size:1rem;margin:2rem 0 .25rem;color:var(--quiet);font-weight:600}
p{margin:.25rem 0 1rem;color:var(--quiet)}form{display:grid;grid-template-columns:1fr auto;gap:.15rem 1.5rem;padding:.7rem 0;border-top:1px solid var(--line)}
form span{grid-column:1;color:var(--quiet);font-size:.9rem}form b{grid-column:1}button{grid-column:2;grid-row:1/3;align-self:center;
font:inherit;padding:.4rem 1.1rem;border:1px solid var(--own);background:none;color:var(--own);border-radius:2px;cursor:pointer}
button:hover{background:var(--own);color:var(--paper)}.done{padding:.6rem .9rem;border-left:4px solid var(--own);background:light-dark(#fff,#20242a)}
"""
AREAS = {
    "boathouse": "Boathouse and Lake", "visitor_gate": "Visitor Gate", "service_gate": "Service Gate",
    "seed_vault": "Seed Vault", "pump_room": "Pump Room", "palm_house": "Palm House", "nursery_yard": "Nursery Yard",
}  # fmt: skip


class Control:
    """Takes provocations and tells the cameras, which then report what walks into them."""

    def __init__(self, world: World, tell: Callable[[], None], drawn: Callable[[], bool] = lambda: True) -> None:
        """`drawn`: whether every camera's scenery is there."""
        self.world, self.tell, self.drawn = world, tell, drawn
        self.delivered: deque[dict[str, object]] = deque(maxlen=500)
        #: Text messages by their id, as a gateway keeps them; one that comes twice is sent once.
        self.texts: dict[str, dict[str, str]] = {}

    def app(self) -> Starlette:
        return Starlette(
            routes=[
                Route("/", self._page),
                Route("/provoke/{name}", self._provoke, methods=["POST"]),
                Route("/provocations", self._list),
                Route("/drawn", self._drawn),
                Route("/sink", self._sink, methods=["POST"]),
                Route("/sink", self._sunk),
                Route("/texts", self._text, methods=["POST"]),
                Route("/texts", self._texted),
            ]
        )

    async def _drawn(self, request: Request) -> Response:
        return Response(status_code=204 if self.drawn() else 503)

    async def _page(self, request: Request) -> Response:
        done = PROVOCATIONS.get(request.query_params.get("done", ""))
        said = (
            f'<p class="done" role="status">On its way: {html.escape(done.title)}. {html.escape(done.tells)}</p>'
            if done
            else ""
        )
        parts = []
        for scene, area in AREAS.items():
            parts.append(f"<h2>{area}</h2>")
            parts += [
                f'<form method="post" action="/provoke/{p.name}"><b>{html.escape(p.title)}</b><span>{html.escape(p.tells)}</span><button>Provoke</button></form>'
                for p in PROVOCATIONS.values()
                if p.scene == scene
            ]
        body = f"<main><h1>Provoke</h1><p>Cause something in the simulated garden. People walk in before anything happens; watch it on the Desk.</p>{said}{''.join(parts)}</main>"
        page = f'<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Provoke</title><style>{STYLE}</style>{body}</html>'
        return HTMLResponse(
            page,
            headers={"Content-Security-Policy": "default-src 'none'; style-src 'unsafe-inline'; form-action 'self'"},
        )

    async def _provoke(self, request: Request) -> Response:
        origin = request.headers.get("origin")
        if origin and origin.split("://")[-1] != request.headers.get("host"):
            return JSONResponse({"error": "provocations come from this page or from a program"}, 403)
        name = request.path_params["name"]
        if name not in PROVOCATIONS:
            return JSONResponse({"error": f"there is no provocation {name}", "known": list(PROVOCATIONS)}, 404)
        entry = self.world.provoke(name, time.time_ns() // 1_000_000)
        self.tell()
        if "text/html" in request.headers.get("accept", ""):
            return RedirectResponse(f"/?done={name}", 303)
        return JSONResponse({"number": entry.number, "at": entry.at, "name": name}, 202)

    async def _list(self, request: Request) -> Response:
        return JSONResponse([{"name": p.name, "title": p.title, "tells": p.tells} for p in PROVOCATIONS.values()])

    async def _sink(self, request: Request) -> Response:
        try:
            content = json.loads(await request.body())
        except ValueError:
            return JSONResponse({"error": "not JSON"}, 400)
        self.delivered.append({"headers": dict(request.headers), "content": content})
        return Response(status_code=204)

    async def _sunk(self, request: Request) -> Response:
        return JSONResponse(list(self.delivered))

    async def _text(self, request: Request) -> Response:
        try:
            content = json.loads(await request.body())
            id, to, text = str(content["id"]), str(content["to"]), str(content["text"])
        except (ValueError, KeyError, TypeError):
            return JSONResponse({"error": "send {id, to, text}"}, 400)
        if not to.startswith("+"):
            return JSONResponse({"error": "a number begins with + and the country"}, 422)
        self.texts.setdefault(id, {"to": to, "text": text})
        return Response(status_code=202)

    async def _texted(self, request: Request) -> Response:
        return JSONResponse(list(self.texts.values()))
