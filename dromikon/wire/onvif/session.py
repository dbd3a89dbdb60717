"""A session with one device: subscribe, pull, renew, and come back after trouble.

What arrives is handed to a `Sink`. A pull is no acknowledgement: what was pulled and not stored when this process dies
is lost, and states come back with the next synchronization point.
"""

import asyncio
import contextlib
from collections.abc import Awaitable, Callable
from dataclasses import dataclass
from datetime import timedelta
from typing import Any, Protocol

from dromikon.wire.onvif.client import OnvifDevice, PullPoint
from dromikon.wire.onvif.soap import DeviceError

LASTS = timedelta(seconds=60)
WAIT = timedelta(seconds=10)
FIRST_PAUSE, LONGEST_PAUSE = 1.0, 60.0


class Sink(Protocol):
    """Where a session puts what it learns. Each call returns when it is stored."""

    async def notifications(self, messages: list[bytes], clock_offset_ms: int) -> None: ...

    async def health(self, state: str, reason: str, message: str, clock_offset_ms: int) -> None: ...

    async def catalogue(self, content: dict[str, Any]) -> None: ...


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
            await self.device.synchronize(point)
            await self._learn()
            await self._say("online", "", "", offset)
            self.back_off.reset()
            await self._pull_until_trouble(point, offset)
        except DeviceError as error:
            await self._say("lost", error.reason, str(error), self.device.soap.clock_offset)
        finally:
            if point is not None:
                await self._leave(point)

    async def _pull_until_trouble(self, point: PullPoint, offset: timedelta) -> None:
        milliseconds = round(offset.total_seconds() * 1000)
        while True:
            messages = await self.device.pull(point, WAIT)
            if messages:
                await self.sink.notifications(messages, milliseconds)
            if point.ends - self.device.clock() < LASTS / 2:
                point = await self.device.renew(point, LASTS)

    async def _learn(self) -> None:
        information = await self.device.information()
        detectors = await self.device.detectors()
        await self.sink.catalogue(
            {
                "information": {
                    "manufacturer": information.manufacturer,
                    "model": information.model,
                    "firmware": information.firmware,
                    "serial": information.serial,
                },
                "channels": await self.device.channels(),
                "snapshot": await self.device.snapshot_address(),
                "topics": await self.device.topics(),
                "detectors": [
                    {"name": d.name, "type": d.type, "parameters": d.parameters, "waits": d.waits} for d in detectors
                ],
            }
        )

    async def _say(self, state: str, reason: str, message: str, offset: timedelta) -> None:
        told = f"{state}:{reason}"
        if told != self._said:
            self._said = told
            await self.sink.health(state, reason, message, round(offset.total_seconds() * 1000))

    async def _leave(self, point: PullPoint) -> None:
        with contextlib.suppress(DeviceError, TimeoutError):
            await asyncio.wait_for(self.device.unsubscribe(point), 2)
