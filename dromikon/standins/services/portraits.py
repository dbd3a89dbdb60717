"""The page *Portraits*: pass photos of the garden's people, to put somebody on a list by or to look for them by."""

import html
import io
from urllib.parse import quote

from PIL import Image
from starlette.concurrency import run_in_threadpool
from starlette.requests import Request
from starlette.responses import Response
from starlette.routing import Route

from dromikon.standins.faces.features import features_of, look_of
from dromikon.standins.faces.portrait import SIZE, portrait
from dromikon.standins.page import joined, page
from dromikon.standins.world.plant.vault import EXCLUDED, STAFF

#: Who begins here soon, and is on no list yet.
NEWCOMERS = ("Hesper Lowfield", "Ivo Tranter")
PEOPLE = (*STAFF, *EXCLUDED, *NEWCOMERS)
#: Pictures that are of little use, by what is the matter with them.
COVERED, TOGETHER, EMPTY = "behind a scarf", "three together", "nobody"
NAMES = (*PEOPLE, COVERED, TOGETHER, EMPTY)


class Portraits:
    def routes(self) -> list[Route]:
        return [Route("/portraits", self._page), Route("/portraits/{name}.jpg", self._picture)]

    async def _page(self, request: Request) -> Response:
        shown = joined(
            f'<figure><a href="/portraits/{quote(name)}.jpg" download><img src="/portraits/{quote(name)}.jpg" alt="" width="200" height="200"></a>'
            f"<figcaption>{html.escape(name)}</figcaption></figure>"
            for name in NAMES
        )
        return page(
            "Portraits",
            f'<p>Photos to download. The last three are of little use.</p><div class="looks six">{shown}</div>',
            wide=True,
        )

    async def _picture(self, request: Request) -> Response:
        name = request.path_params["name"]
        if name not in NAMES:
            return Response("there is no such portrait", 404)
        return Response(await run_in_threadpool(photo, name), media_type="image/jpeg")


def photo(name: str) -> bytes:
    """A portrait by its name, as JPEG."""
    out = io.BytesIO()
    _drawn(name).save(out, "JPEG", quality=90)
    return out.getvalue()


def _drawn(name: str) -> Image.Image:
    if name == COVERED:
        return portrait(features_of(look_of(NEWCOMERS[0])), covered=True)
    if name == EMPTY:
        return Image.new("RGB", (SIZE, SIZE), "#9db3c4")
    if name == TOGETHER:
        together = Image.new("RGB", (SIZE * 3, SIZE))
        for place, person in enumerate((NEWCOMERS[1], *list(STAFF)[:2])):
            together.paste(portrait(features_of(look_of(person))), (place * SIZE, 0))
        return together
    return portrait(features_of(look_of(name)))
