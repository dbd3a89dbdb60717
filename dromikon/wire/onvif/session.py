"""A session with one device: subscribe, receive, renew, and come back after trouble.

What arrives is handed to a `Sink`. A pull is no acknowledgement: what was pulled and not stored when this process dies
is lost, and states come back with the next synchronization point. A device without pull points posts its events to us, and
is answered once they are stored.
"""

import asyncio
import contextlib
import hashlib
import logging
from collections import deque
from collections.abc import Awaitable, Callable
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Protocol

from dromikon.core.devices.catalogue import DeviceCatalogue
from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.learning import learn
from dromikon.wire.onvif.soap import DeviceError
from dromikon.wire.onvif.subscription import (
    Subscription,
    open_pull_point,
    open_pushed,
    pull,
    renew,
    synchronize,
    unsubscribe,
)

LASTS = timedelta(seconds=60)
WAIT = timedelta(seconds=10)
FIRST_PAUSE, LONGEST_PAUSE = 1.0, 60.0
#: A session that stood for so long was sound: after it, pauses begin small again.
SOUND = timedelta(seconds=60)
#: So many messages are remembered, to know one that is sent again.
REMEMBERED = 200
#: The reason of a loss that is our own.
FAULT = "our_fault"
log = logging.getLogger("dromikon.intake")

Take = Callable[[list[bytes]], Awaitable[None]]


class Consumer(Protocol):
    """Where devices that push can reach us."""

    async def open(self, device: str, take: Take) -> str:
        """An address that a device, known by its own address, can post to; what comes there is taken before it is
        answered."""
        ...

    def close(self, address: str) -> None: ...


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
    """Runs until cancelled. The device is told "lost" once per outage and "online" once per return. `consumer`: for
    devices that push; without one they are lost."""

    def __init__(
        self,
        device: OnvifDevice,
        sink: Sink,
        sleep: Callable[[float], Awaitable[None]] = asyncio.sleep,
        consumer: Consumer | None = None,
    ) -> None:
        self.device, self.sink, self._sleep, self._consumer = device, sink, sleep, consumer
        self.back_off = BackOff()
        self._said = ""
        self._again = asyncio.Event()
        self._seen: deque[bytes] = deque(maxlen=REMEMBERED)
        self._pushed_to = ""

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
        point, stands_since = None, None
        try:
            offset = await self.device.measure_clock(samples=6)
            await self.device.discover_services()
            point = await self._subscribe()
            await self._learn(point)
            await self._say("online", "", "", offset)
            stands_since = self.device.clock()
            await self._receive(point)
        except DeviceError as error:
            await self._say("lost", error.reason, str(error), self.device.soap.clock_offset)
        except Exception as error:
            # A fault of ours, met with this device: it is told once, and tried again with the same pauses.
            if f"lost:{FAULT}" != self._said:
                log.exception("the session with %s failed", self.device.address)
            words = f"Dromikon cannot talk to this device ({type(error).__name__}); the log says why."
            await self._say("lost", FAULT, words, self.device.soap.clock_offset)
        finally:
            self._reset_pauses(stands_since)
            await self._leave(point)

    def _reset_pauses(self, stands_since: datetime | None) -> None:
        """A device that is lost again at once is not asked every second."""
        if stands_since is not None and self.device.clock() - stands_since >= SOUND:
            self.back_off.reset()

    async def _subscribe(self) -> Subscription:
        """A pull point, or a subscription that pushes where the device knows no pull points."""
        try:
            return await open_pull_point(self.device, LASTS)
        except DeviceError as error:
            if error.reason != "fault" or self._consumer is None:
                raise
            try:
                self._pushed_to = await self._consumer.open(self.device.address, self._take)
                return await open_pushed(self.device, self._pushed_to, LASTS)
            except DeviceError:
                # What it said to the first is the better reason: it knows pull points, but has none to spare.
                raise error from None

    async def _receive(self, point: Subscription) -> None:
        """Receive until there is trouble; learn again whenever that is wanted."""
        learning = asyncio.create_task(self._learn_when_asked(point))
        try:
            while True:
                wait = min(WAIT, point.left(self.device.clock()) / 2)
                if self._pushed_to:
                    await self._sleep(max(wait.total_seconds(), 1))
                    # Nothing else tells that it is gone.
                    await self.device.measure_clock()
                else:
                    await self._take(await pull(self.device, point, wait))
                if point.left(self.device.clock()) < point.lasts / 2:
                    point = await renew(self.device, point, LASTS)
        finally:
            learning.cancel()

    async def _take(self, messages: list[bytes]) -> None:
        """Hand on what has come, except what was sent twice: the same words at the same moment are the same event."""
        fresh = []
        for message in messages:
            digest = hashlib.sha256(message).digest()
            if digest not in self._seen:
                self._seen.append(digest)
                fresh.append(message)
        if fresh:
            await self.sink.notifications(fresh, round(self.device.soap.clock_offset.total_seconds() * 1000))

    async def _learn(self, point: Subscription) -> None:
        self._again.clear()
        with contextlib.suppress(DeviceError):
            # A device that cannot tell its present state still tells of changes.
            await synchronize(self.device, point)
        await self.sink.catalogue(await learn(self.device))

    async def _learn_when_asked(self, point: Subscription) -> None:
        while True:
            await self._again.wait()
            # Trouble is noticed by receiving, which is what the session stands on.
            with contextlib.suppress(DeviceError):
                await self._learn(point)

    async def _say(self, state: str, reason: str, message: str, offset: timedelta) -> None:
        told = f"{state}:{reason}"
        if told != self._said:
            self._said = told
            await self.sink.health(state, reason, message, round(offset.total_seconds() * 1000))

    async def _leave(self, point: Subscription | None) -> None:
        if self._pushed_to and self._consumer is not None:
            self._consumer.close(self._pushed_to)
            self._pushed_to = ""
        if point is not None:
            # `wait_for` may swallow a cancellation that comes as its task ends; the session would then live on.
            with contextlib.suppress(DeviceError, TimeoutError):
                async with asyncio.timeout(2):
                    await unsubscribe(self.device, point)
