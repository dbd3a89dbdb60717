"""The intake as an application: what is sent, what devices push, and the devices' sessions beside."""

import asyncio
import contextlib
from collections.abc import AsyncIterator

from starlette.applications import Starlette
from starlette.routing import Route
from starlette.types import ASGIApp

from dromikon import config
from dromikon.intake.inbox import InboxWriter
from dromikon.intake.listener import LARGEST_MESSAGE, Listener
from dromikon.intake.pushed import PLACE, Pushed
from dromikon.intake.sessions import Sessions
from dromikon.serving import BodyLimits


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
        Route("/in/{intake}", listener.receive, methods=["POST", "GET"]),
        Route("/in/{intake}/{key}", listener.receive, methods=["POST", "GET"]),
        Route(f"{PLACE}{{key}}", pushed.receive, methods=["POST"]),
    ]
    app = Starlette(routes=routes, lifespan=lifespan)
    return BodyLimits(app, (("/in/", LARGEST_MESSAGE), (PLACE, LARGEST_MESSAGE)))
