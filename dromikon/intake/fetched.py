"""Intakes that fetch: brokers at which we subscribe, devices that we ask. Each runs while it is set up so, and says how it
stands. One more sort is one file and one line in `FETCHERS`."""

import asyncio
import contextlib
import logging
from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

from asgiref.sync import sync_to_async
from django.db import OperationalError

from dromikon.clock import now_ms
from dromikon.intake.counting import Counts
from dromikon.intake.inbox import InboxWriter
from dromikon.intake.polling import Poller
from dromikon.intake.subscribing import Subscriber
from dromikon.secrets import SealBroken
from dromikon.sources.models import Intake

log = logging.getLogger("dromikon.intake")

#: How often the configuration is looked at, and how it stands written down, in seconds.
LOOK_AGAIN = 1.0
#: How long ending them may take.
PATIENCE = 3.0


class Fetcher(Protocol):
    """Fetches for one intake. `state`: online, lost or unknown; `message`: why."""

    state: str
    message: str

    def start(self) -> None: ...

    def stop(self, forget: bool = False) -> None:
        """End it; it may take a moment. `forget`: it is not wanted any more as it was."""
        ...


#: By how an intake is known, what fetches for it: made of the intake, its secret, and what is around.
FETCHERS: dict[str, Callable[[Intake, str, InboxWriter, Callable[[str, str], None]], Fetcher]] = {
    "mqtt": Subscriber,
    "modbus": Poller,
}


@dataclass
class Unmade:
    """Stands for one that could not be made of what was kept."""

    message: str
    state: str = "lost"

    def start(self) -> None:
        """There is nothing to begin."""

    def stop(self, forget: bool = False) -> None:
        """There is nothing to end."""


class Fetching:
    """Keeps what runs the same as what is set up."""

    def __init__(self, inbox: InboxWriter, counts: Counts) -> None:
        self._inbox, self._counts = inbox, counts
        self._running: dict[str, tuple[str, Fetcher]] = {}
        self._told: dict[str, tuple[str, str]] = {}

    async def run(self) -> None:
        """Until it is cancelled."""
        loop = asyncio.get_running_loop()

        def count(intake: str, outcome: str) -> None:
            loop.call_soon_threadsafe(self._counts.note, intake, outcome, now_ms())

        try:
            while True:
                with contextlib.suppress(OperationalError):
                    # A database that is busy is asked again.
                    await self._adjust(await sync_to_async(wanted)(), count)
                    await self._write_down()
                await asyncio.sleep(LOOK_AGAIN)
        finally:
            ending = (asyncio.to_thread(fetcher.stop) for _, fetcher in self._running.values())
            with contextlib.suppress(TimeoutError):
                await asyncio.wait_for(asyncio.gather(*ending, return_exceptions=True), PATIENCE)

    async def _adjust(self, intakes: dict[str, tuple[Intake, str, str]], count: Callable[[str, str], None]) -> None:
        for id, (digest, fetcher) in list(self._running.items()):
            if id not in intakes or intakes[id][2] != digest:
                await asyncio.to_thread(fetcher.stop, forget=True)
                del self._running[id]
                self._told.pop(id, None)
        for id, (intake, secret, digest) in intakes.items():
            if id not in self._running:
                fetcher = self._made(intake, secret, count)
                self._running[id] = (digest, fetcher)
                fetcher.start()

    def _made(self, intake: Intake, secret: str, count: Callable[[str, str], None]) -> Fetcher:
        """What fetches for an intake; where it cannot even be made, it says why, and the others go on."""
        try:
            return FETCHERS[intake.proof](intake, secret, self._inbox, count)
        except ValueError as error:
            log.error("nothing is fetched for %s: %s", intake.id, error)
            return Unmade(str(error))

    async def _write_down(self) -> None:
        for id, (_, fetcher) in self._running.items():
            stands = fetcher.state, fetcher.message
            if self._told.get(id) != stands and await sync_to_async(_write)(id, *stands):
                self._told[id] = stands


def wanted() -> dict[str, tuple[Intake, str, str]]:
    """Intakes that fetch, each with its secret, and what changes when it must begin anew."""
    found = {}
    for intake in Intake.objects.filter(proof__in=tuple(FETCHERS), enabled=True, retired_at=None):
        try:
            secret = intake.secret
        except SealBroken:
            secret = ""
        lasting = (intake.proof, intake.address, intake.user, secret, intake.fetched, intake.largest, intake.rate)
        found[intake.id] = (intake, secret, repr(lasting))
    return found


def _write(intake: str, state: str, message: str) -> bool:
    """Whether it is written down; a database that is busy hears it the next time."""
    with contextlib.suppress(OperationalError):
        changed = Intake.objects.filter(pk=intake).exclude(state=state)
        changed.update(state_since=now_ms())
        Intake.objects.filter(pk=intake).update(state=state, state_message=message[:300])
        return True
    return False
