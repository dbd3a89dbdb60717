"""A stand-in ONVIF device: HTTP, who may ask, and which service answers. What it is made of are its services; what it has to
tell comes from the simulated world."""

import asyncio
import contextlib
import time
from collections.abc import AsyncIterator, Awaitable, Callable, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import TYPE_CHECKING

from starlette.applications import Starlette
from starlette.requests import ClientDisconnect
from starlette.requests import Request as HttpRequest
from starlette.responses import Response
from starlette.routing import BaseRoute, Route

from dromikon.standins.onvif import soap
from dromikon.standins.onvif.quirks import AS_IT_SHOULD, Quirk
from dromikon.standins.onvif.soap import NAMES, Account, Fault, Request
from dromikon.standins.onvif.topics import Topic
from dromikon.standins.world.reports import Report

if TYPE_CHECKING:
    from dromikon.standins.onvif.events import Events

XML = "application/soap+xml; charset=utf-8"
Handler = Callable[[Request], str | Awaitable[str]]


@dataclass(frozen=True, slots=True)
class Identity:
    """What a device says it is."""

    model: str
    serial: str
    manufacturer: str = "Stand-in Optics"
    firmware: str = "3.2.1"


class Service:
    """One service of a device: its namespace's prefix, the end of its address, its version, and what it answers to."""

    prefix: str
    path: str
    version: tuple[int, int] = (2, 60)

    def __init__(self, device: "StandInDevice") -> None:
        self.device = device

    def operations(self) -> Mapping[str, Handler]:
        """Operations by name."""
        raise NotImplementedError

    def routes(self) -> list[BaseRoute]:
        """Further addresses that it answers at."""
        return []

    def lives(self) -> Awaitable[None] | None:
        """What it does while the device runs, if anything."""
        return None


class StandInDevice:
    """One device at `address`. `clock_offset` is how wrong its clock goes, in seconds; `quirk` how it differs from what the
    standard wants."""

    events: "Events"

    def __init__(
        self, identity: Identity, address: str, account: Account, clock_offset: float = 0.0, quirk: Quirk = AS_IT_SHOULD
    ) -> None:
        self.identity, self.address, self.account, self.quirk = identity, address, account, quirk
        self.offset = timedelta(seconds=clock_offset)
        #: Something was caused: what is to be told may be due sooner.
        self.provoked = asyncio.Event()
        #: The process is about to end: whoever waits for messages is answered at once.
        self.stopping = asyncio.Event()
        self.services: list[Service] = []
        #: What else it does while it runs.
        self.beside: list[Callable[[], Awaitable[None]]] = []
        #: How often it was asked for what needs the password.
        self._asked = 0

    # -- what the world knows of it --------------------------------------------------------------------------------------

    def topics(self) -> list[Topic]:
        """Every event that it can send."""
        return []

    def reports(self, start: int, end: int) -> list[Report]:
        """What it has to tell of a stretch of time, in order."""
        return []

    def next_report(self, after: int, horizon: int) -> int | None:
        """When it next has something to tell, within `horizon` ms."""
        found = self.reports(after, after + horizon)
        return found[0].at if found else None

    def properties(self, at: int) -> list[Report]:
        """The present state of every property."""
        return []

    def cut_off(self, at: int) -> bool:
        """Whether it has no power."""
        return False

    def now_ms(self) -> int:
        return time.time_ns() // 1_000_000

    def clock(self) -> datetime:
        """What the device believes the time to be."""
        return datetime.now(UTC) + self.offset + self.quirk.clock_error

    # -- HTTP ----------------------------------------------------------------------------------------------------------

    def app(self) -> Starlette:
        """The device as an ASGI application."""

        @contextlib.asynccontextmanager
        async def lifespan(app: Starlette) -> AsyncIterator[None]:
            lives = [life for s in self.services if (life := s.lives()) is not None]
            living = [asyncio.ensure_future(life) for life in (*lives, *(run() for run in self.beside))]
            yield
            for task in living:
                task.cancel()

        routes: list[BaseRoute] = [
            Route(f"/onvif/{s.path}_service", self.serve, methods=["POST"]) for s in self.services
        ]
        for service in self.services:
            routes += service.routes()
        app = Starlette(routes=[*self.quirk.routes(self), *routes], lifespan=lifespan)
        app.state.stop = self.stopping.set
        return app

    async def serve(self, request: HttpRequest) -> Response:
        """Answer one SOAP request."""
        await self.hang_when_cut_off()
        try:
            asked = soap.read(await request.body(), request.path_params.get("id", ""))
            if asked.name != "GetSystemDateAndTime" and not self._knows(asked, request):
                denied = soap.fault(Fault("ter:NotAuthorized", "The sender is not authorized."))
                return Response(denied, 401, {"WWW-Authenticate": self.account.challenge()}, XML)
            said = self._handler(asked)(asked)
            body = said if isinstance(said, str) else await said
        except Fault as problem:
            return Response(soap.fault(problem), problem.status, media_type=XML)
        except ClientDisconnect:
            return Response(status_code=400)
        await self.hang_when_cut_off()
        return self.quirk.send(asked, Response(soap.answer(body, reply_action(asked)), media_type=XML))

    def _knows(self, asked: Request, request: HttpRequest) -> bool:
        self._asked += 1
        if self.quirk.forgets(self._asked):
            return False
        if self.account.token_is_good(asked, self.clock()):
            return True
        return self.account.digest_is_good(request.headers.get("authorization", ""), request.method)

    async def hang_when_cut_off(self) -> None:
        """A device without power does not answer; the connection just stays silent."""
        while self.cut_off(self.now_ms()):
            await asyncio.sleep(0.5)

    def _handler(self, asked: Request) -> Handler:
        if not self.quirk.refuses(asked.name):
            for service in self.services:
                found = service.operations().get(asked.name)
                if found is not None and asked.namespace in (NAMES[service.prefix], NAMES["wsnt"]):
                    return found
        raise Fault("ter:ActionNotSupported", f"{asked.name} is not supported.")


def reply_action(asked: Request) -> str:
    """The action of an answer."""
    space = asked.namespace
    if space == NAMES["tev"]:
        first = ("CreatePullPointSubscription", "GetEventProperties", "GetServiceCapabilities")
        port = "EventPortType" if asked.name in first else "PullPointSubscription"
        return f"{space}/{port}/{asked.name}Response"
    if space == NAMES["wsnt"]:
        port = "NotificationProducer" if asked.name == "Subscribe" else "SubscriptionManager"
        return f"http://docs.oasis-open.org/wsn/bw-2/{port}/{asked.name}Response"
    return f"{space}/{asked.name}Response"
