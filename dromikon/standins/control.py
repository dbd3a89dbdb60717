"""The *Provoke* page: cause things in the garden."""

import html
import time
from collections.abc import Callable, Sequence

from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import JSONResponse, RedirectResponse, Response
from starlette.routing import Route

from dromikon.standins.page import page
from dromikon.standins.world.provocations import PROVOCATIONS
from dromikon.standins.world.world import World

AREAS = {
    "boathouse": "Boathouse and Lake", "visitor_gate": "Visitor Gate", "lodge": "Lodge", "service_gate": "Service Gate",
    "seed_vault": "Seed Vault", "pump_room": "Pump Room", "palm_house": "Palm House",
    "palm_inside": "Palm House, inside", "nursery_yard": "Nursery Yard",
}  # fmt: skip


class Control:
    """Takes provocations and tells the cameras, which then report what walks into them."""

    def __init__(
        self, world: World, tell: Callable[[], None], drawn: Callable[[], bool] = lambda: True,
        routes: Sequence[Route] = (),
    ) -> None:  # fmt: skip
        """`drawn`: whether every camera's scenery is there. `routes`: of what else answers here."""
        self.world, self.tell, self.drawn, self.routes = world, tell, drawn, routes

    def app(self) -> Starlette:
        return Starlette(
            routes=[
                Route("/", self._page),
                Route("/provoke/{name}", self._provoke, methods=["POST"]),
                Route("/provocations", self._list),
                Route("/drawn", self._drawn),
                *self.routes,
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
        intro = "<p>Cause something in the simulated garden. People walk in before anything happens; watch it on the Desk.</p>"
        return page("Provoke", f"{intro}{said}{''.join(parts)}")

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
