"""A session with one device: subscribe, pull, renew, and come back after trouble.

What arrives is handed to a `Sink`. A pull is no acknowledgement: what was pulled and not stored when this process dies
is lost, and states come back with the next synchronization point.
"""

import asyncio
import contextlib
import logging
from collections.abc import Awaitable, Callable
from dataclasses import dataclass
from datetime import timedelta
from typing import Protocol

from dromikon.core.devices.catalogue import DeviceCatalogue
from dromikon.wire.onvif.client import OnvifDevice, PullPoint
from dromikon.wire.onvif.learning import learn
from dromikon.wire.onvif.soap import DeviceError

LASTS = timedelta(seconds=60)
WAIT = timedelta(seconds=10)
FIRST_PAUSE, LONGEST_PAUSE = 1.0, 60.0
#: The reason of a loss that is our own.
FAULT = "our_fault"
log = logging.getLogger("dromikon.intake")


class Sink(Protocol):
    """Where a session puts what it learns. Each call returns when it is stored."""

    async def notifications(self, messages: list[bytes], clock_offset_ms: int) -> None: ...

    async def health(self, state: str, reason: str, message: str, clock_offset_ms: int) -> None: ...

    async def catalogue(self, content: DeviceCatalogue) -> None: ...


@dataclass(slots=True)
class BackOff:
    """Pauses between attempts: doubling from one second to a minute."""

    pause: float = FIRST_PAUSE

    def next(self) -> float:
        now, self.pause = self.pause, min(self.pause * 2, LONGEST_PAUSE)
        return now

    def reset(self) -> None:
        self.pause = FIRST_PAUSE


class DeviceSession:
    """Runs until cancelled. The device is told "lost" once per outage and "online" once per return."""

    def __init__(
        self, device: OnvifDevice, sink: Sink, sleep: Callable[[float], Awaitable[None]] = asyncio.sleep
    ) -> None:
        self.device, self.sink, self._sleep = device, sink, sleep
        self.back_off = BackOff()
        self._said = ""
        self._again = asyncio.Event()

    def learn_again(self) -> None:
        """Ask the device again what it has, beside what goes on; at the next connection when there is none now."""
        self._again.set()

    async def run(self) -> None:
        try:
            while True:
                await self._attempt()
                await self._sleep(self.back_off.next())
        finally:
            await self.device.close()

    async def _attempt(self) -> None:
        point = None
        try:
            offset = await self.device.measure_clock(samples=6)
            await self.device.discover_services()
            point = await self.device.create_pull_point(LASTS)
            with contextlib.suppress(DeviceError):
                # A device that cannot tell its present state still tells of changes.
                await self.device.synchronize(point)
            await self._learn()
            await self._say("online", "", "", offset)
            self.back_off.reset()
            await self._pull_and_learn(point, offset)
        except DeviceError as error:
            await self._say("lost", error.reason, str(error), self.device.soap.clock_offset)
        except Exception as error:
            # A fault of ours, met with this device: it is told once, and tried again with the same pauses.
            if f"lost:{FAULT}" != self._said:
                log.exception("the session with %s failed", self.device.address)
            words = f"Dromikon cannot talk to this device ({type(error).__name__}); the log says why."
            await self._say("lost", FAULT, words, self.device.soap.clock_offset)
        finally:
            if point is not None:
                await self._leave(point)

    async def _learn(self) -> None:
        self._again.clear()
        await self.sink.catalogue(await learn(self.device))

    async def _pull_and_learn(self, point: PullPoint, offset: timedelta) -> None:
        """Pull until there is trouble; learn again whenever that is wanted."""
        learning = asyncio.create_task(self._learn_when_asked())
        try:
            await self._pull_until_trouble(point, offset)
        finally:
            learning.cancel()

    async def _learn_when_asked(self) -> None:
        while True:
            await self._again.wait()
            # Trouble is noticed by pulling, which is what the session stands on.
            with contextlib.suppress(DeviceError):
                await self._learn()

    async def _pull_until_trouble(self, point: PullPoint, offset: timedelta) -> None:
        milliseconds = round(offset.total_seconds() * 1000)
        while True:
            messages = await self.device.pull(point, WAIT)
            if messages:
                await self.sink.notifications(messages, milliseconds)
            if point.ends - self.device.clock() < LASTS / 2:
                point = await self.device.renew(point, LASTS)

    async def _say(self, state: str, reason: str, message: str, offset: timedelta) -> None:
        told = f"{state}:{reason}"
        if told != self._said:
            self._said = told
            await self.sink.health(state, reason, message, round(offset.total_seconds() * 1000))

    async def _leave(self, point: PullPoint) -> None:
        with contextlib.suppress(DeviceError, TimeoutError):
            await asyncio.wait_for(self.device.unsubscribe(point), 2)
