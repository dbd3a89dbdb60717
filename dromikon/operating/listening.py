"""Listening at a place: what a camera or door station hears, for whoever sits at a desk. A device is asked once, however many
listen, since few of them serve more than a handful."""

import asyncio
import contextlib
from collections.abc import AsyncGenerator
from contextlib import aclosing

from django.db import transaction

from dromikon.clock import now_ms
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.roles import May
from dromikon.secrets import SealBroken
from dromikon.sources.client import client_of
from dromikon.sources.models import Device, Point
from dromikon.wire.onvif.hearing import sounds
from dromikon.wire.onvif.soap import DeviceError

#: So many listen in one process at a time; and so many packets wait for one of them before it misses some.
MOST, WAITS = 24, 50


class CannotListen(Exception):
    """Nothing can be heard there; the message says why."""


def may_listen(access: Access, camera: Point | None) -> bool:
    """Whether somebody is offered to listen at a camera."""
    return camera is not None and bool(camera.told.get("heard")) and access.may(May.ACKNOWLEDGE)


def place_heard(access: Access, camera: str) -> Point:
    """A camera that has sound. That somebody listens is in the audit trail: people who speak there do not see it. Raises
    CannotListen, PermissionDenied."""
    access.need(May.ACKNOWLEDGE)
    found = Point.objects.filter(pk=camera, site=access.site, retired_at=None, kind="camera")
    point = found.select_related("device").first()
    if point is None or point.device is None or not point.told.get("heard"):
        raise CannotListen("This camera has no sound.")
    with transaction.atomic():
        record(access.site, access.person, "listened", f"point:{point.id}", now_ms(), name=point.name)
    return point


def room_to_listen() -> bool:
    """Whether one more may listen; asked in the event loop, where all of them are."""
    return sum(len(ear.queues) for ear in _ears.values()) < MOST


async def heard(point: Point) -> AsyncGenerator[bytes]:
    """What is heard there from now on, as mu-law. Raises DeviceError when the device sends no more."""
    ear = _ears.get(point.id) or Ear(point)
    _ears[point.id] = ear
    queue: asyncio.Queue[bytes | DeviceError] = asyncio.Queue(WAITS)
    ear.queues.add(queue)
    try:
        while True:
            came = await queue.get()
            if isinstance(came, DeviceError):
                raise came
            yield came
    finally:
        ear.queues.discard(queue)
        if not ear.queues:
            ear.close()


class Ear:
    """One camera's sound, and who waits for it."""

    def __init__(self, point: Point) -> None:
        assert point.device is not None
        self.point = point.id
        self.queues: set[asyncio.Queue[bytes | DeviceError]] = set()
        self._task = asyncio.create_task(self._listen(point.device, point.token))

    def close(self) -> None:
        if _ears.get(self.point) is self:
            del _ears[self.point]
        self._task.cancel()

    async def _listen(self, device: Device, channel: str) -> None:
        over = DeviceError("unreachable", "The device ended its sound.")
        try:
            async with aclosing(_conversation(device, channel)) as coming:
                async for packet in coming:
                    self._tell(packet)
        except DeviceError as error:
            over = error
        except SealBroken as error:
            over = DeviceError("fault", str(error))
        finally:
            # Whatever it was, nobody waits for more, and whoever comes from now on has it tried anew.
            if _ears.get(self.point) is self:
                del _ears[self.point]
            self._tell(over)

    def _tell(self, what: bytes | DeviceError) -> None:
        """Whoever does not keep up misses the oldest, so that what is heard is now."""
        for queue in self.queues:
            if queue.full():
                with contextlib.suppress(asyncio.QueueEmpty):
                    queue.get_nowait()
            queue.put_nowait(what)


_ears: dict[str, Ear] = {}


async def _conversation(device: Device, channel: str) -> AsyncGenerator[bytes]:
    client = client_of(device)
    try:
        # A password's digest carries the time.
        await client.measure_clock()
        await client.discover_services()
        async with aclosing(sounds(client, channel)) as coming:
            async for packet in coming:
                yield packet
    finally:
        await client.close()
