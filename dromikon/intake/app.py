"""The intake as an application: what is sent, what devices push, and the devices' sessions beside."""

import asyncio
import contextlib
import logging
from collections.abc import AsyncIterator

from starlette.applications import Starlette
from starlette.routing import Route
from starlette.types import ASGIApp

from dromikon import config
from dromikon.intake.counting import Counts
from dromikon.intake.fetched import Fetching
from dromikon.intake.inbox import InboxWriter
from dromikon.intake.listener import LARGEST_MESSAGE, Listener
from dromikon.intake.pushed import PLACE, Pushed
from dromikon.intake.sessions import Sessions
from dromikon.intake.traps import Traps
from dromikon.serving import BodyLimits

log = logging.getLogger("dromikon.intake")


def build(inbox: InboxWriter, *, sessions: bool = True) -> ASGIApp:
    """The intake as an ASGI application; with `sessions`, it also talks to the devices."""

    @contextlib.asynccontextmanager
    async def lifespan(app: Starlette) -> AsyncIterator[None]:
        beside = [asyncio.create_task(Sessions(inbox, pushed).run())] if sessions else []
        if sessions:
            beside.append(asyncio.create_task(Fetching(inbox, listener.counts).run()))
        if sessions and config.snmp_port():
            beside.append(asyncio.create_task(_traps(inbox, listener.counts)))
        yield
        for task in beside:
            task.cancel()
        await asyncio.gather(*beside, return_exceptions=True)

    listener, pushed = Listener(inbox), Pushed(config.intake_port)
    routes = [
        Route("/in/{intake}", listener.receive, methods=["POST", "GET"]),
        Route("/in/{intake}/{key}", listener.receive, methods=["POST", "GET"]),
        Route(f"{PLACE}{{key}}", pushed.receive, methods=["POST"]),
    ]
    app = Starlette(routes=routes, lifespan=lifespan)
    return BodyLimits(app, (("/in/", LARGEST_MESSAGE), (PLACE, LARGEST_MESSAGE)))


async def _traps(inbox: InboxWriter, counts: Counts) -> None:
    """Traps are listened for; what else is sent is taken all the same when their port is not to be had."""
    try:
        await Traps(inbox, counts, config.snmp_port(), config.host()).run()
    except OSError as error:
        log.error("no traps are taken: port %d is not to be had: %s", config.snmp_port(), error)
