"""The page *Received*: what the garden's other systems were last told, so that one sees what a step did."""

import asyncio
import html
import time
from collections.abc import Callable
from datetime import datetime
from zoneinfo import ZoneInfo

from starlette.requests import Request
from starlette.responses import Response
from starlette.routing import Route

from dromikon.standins.page import joined, page
from dromikon.standins.services.files import Files
from dromikon.standins.services.received import Item, Received
from dromikon.standins.world.scenes import CAMERAS
from dromikon.standins.world.world import Entry, World

SORTS = {
    "mail": "Mail box", "text": "Text messages", "push": "Push messages", "call": "Voice calls", "chat": "Chat room “Ground staff”",
    "chats": "Chat messages to persons",    "snmp": "Manager of SNMP", "webhook": "Webhooks", "speaker": "Heard at speakers",
}  # fmt: skip
#: Cameras in whose picture one sees what was commanded: a camera that turned, a lamp, a siren.
LOOKS = ("lake", "vault", "jetty")
SHOWN, REFRESH = 5, 4
ZONE = ZoneInfo("Europe/London")
#: What is commanded, by how an entry of the world's journal begins.
COMMANDED = {"relay": "Output", "door": "Door", "preset": "Camera"}


class Shown:
    """`draw`: a camera's picture at an instant."""

    def __init__(
        self, world: World, received: Received, files: Files, draw: Callable[[str, int], bytes] | None
    ) -> None:
        self.world, self.received, self.files, self.draw = world, received, files, draw

    def routes(self) -> list[Route]:
        return [
            Route("/received", self._page),
            Route("/received/{number:int}/{which:int}.jpg", self._picture),
            Route("/received/{number:int}.wav", self._sound),
            Route("/look/{camera}.jpg", self._look),
        ]

    async def _page(self, request: Request) -> Response:
        columns = [*(_column(title, joined(map(_item, self.received.of(s)[:SHOWN]))) for s, title in SORTS.items())]
        columns.append(_column("Outputs, doors and cameras", joined(map(self._commanded, self._last()))))
        columns.append(_column("Files by SFTP", joined(map(_file, self.files.listed()[:SHOWN]))))
        stamp = time.time_ns() // 1_000_000_000
        looks = joined(
            f'<figure><img src="/look/{c}.jpg?{stamp}" alt="{CAMERAS[c].title}" width="640" height="360">'
            f"<figcaption>{html.escape(self._caption(c))}</figcaption></figure>"
            for c in (LOOKS if self.draw else ())
        )
        body = (
            "<p>What the garden's other systems were last told. The page asks again every few seconds.</p>"
            f'<div class="looks">{looks}</div><div class="grid">{joined(columns)}</div>'
        )
        return page("Received", body, refresh=REFRESH, wide=True)

    async def _picture(self, request: Request) -> Response:
        found = self.received.picture(request.path_params["number"], request.path_params["which"])
        return Response(found, media_type="image/jpeg") if found is not None else Response(status_code=404)

    async def _sound(self, request: Request) -> Response:
        found = self.received.sound(request.path_params["number"])
        return Response(found, media_type="audio/wav") if found is not None else Response(status_code=404)

    async def _look(self, request: Request) -> Response:
        camera = request.path_params["camera"]
        if camera not in LOOKS or self.draw is None:
            return Response(status_code=404)
        drawn = await asyncio.to_thread(self.draw, camera, time.time_ns() // 1_000_000)
        return Response(drawn, media_type="image/jpeg")

    def _caption(self, camera: str) -> str:
        now, place = time.time_ns() // 1_000_000, CAMERAS[camera]
        known = {p.token: p.name for p in place.presets}
        where = [f"looks at {known[self.world.preset(camera, now)]}"] if known else []
        on = [f"{relay.replace('-', ' ')} is on" for relay in place.relays if self.world.relay(camera, relay, now)]
        return ", ".join([place.title.capitalize(), *where, *on])

    def _last(self) -> list[Entry]:
        found = [e for e in self.world.entries if e.name.partition("/")[0] in COMMANDED]
        return found[: -SHOWN * 2 - 1 : -1]

    def _commanded(self, entry: Entry) -> str:
        sort, _, rest = entry.name.partition("/")
        camera, _, what = rest.partition("/")
        said = entry.value
        if sort == "preset":
            said = next((p.name for p in CAMERAS[camera].presets if p.token == said), said)
            name = f"{CAMERAS[camera].title.capitalize()} camera"
        else:
            name = what.replace("-", " ") if sort == "relay" else f"{camera} door"
        state = ' class="on"' if said in ("on", "release", "unlock", "hold_open") else ""
        told = html.escape(said.replace("_", " "))
        return f'<div class="item">{_time(entry.at)}<small>{COMMANDED[sort]}</small> <b>{html.escape(name)}: <span{state}>{told}</span></b></div>'


def _column(title: str, items: str) -> str:
    return f"<section><h2>{html.escape(title)}</h2>{items or '<p>Nothing yet.</p>'}</section>"


def _item(item: Item) -> str:
    pictures = joined(f'<img src="/received/{item.number}/{i}.jpg" alt="">' for i in range(len(item.pictures)))
    sound = f'<audio controls preload="none" src="/received/{item.number}.wav"></audio>' if item.sound else ""
    more = " · ".join(f"{n}: {v}" if n else v for n, v in item.more if v and n not in ("text", "run", "site"))
    title = f"<b>{html.escape(item.title)}</b>" if item.title else ""
    return (
        f'<div class="item">{_time(item.at)}<small>{html.escape(item.to)}</small>{title}<div>{html.escape(item.text)}</div>'
        f"<small>{html.escape(more)}</small>{pictures}{sound}</div>"
    )


def _file(found: tuple[str, int, int]) -> str:
    name, size, at = found
    return f'<div class="item">{_time(at)}<b>{html.escape(name)}</b><small>{size:,} bytes</small></div>'


def _time(at: int) -> str:
    return f"<time>{datetime.fromtimestamp(at / 1000, ZONE):%H:%M:%S}</time>"
