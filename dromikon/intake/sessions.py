"""Device sessions: one per enabled device, started and stopped as the configuration changes."""

import asyncio
import contextlib
import hashlib
import json
import logging
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from asgiref.sync import sync_to_async
from django.db import IntegrityError, OperationalError

from dromikon.clock import now_ms
from dromikon.core.devices.catalogue import DeviceCatalogue
from dromikon.intake.inbox import InboxUnavailable, InboxWriter, Message
from dromikon.secrets import SealBroken
from dromikon.sources.models import Device, SessionLog
from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.session import Consumer, DeviceSession

log = logging.getLogger("dromikon.intake")

INBOX_AGAIN = 1.0
LOOK_AGAIN = 1.0


@dataclass(frozen=True, slots=True)
class Wanted:
    """What a session needs to know of its device."""

    id: str
    address: str
    user: str
    password: str
    #: When somebody last wanted it to be asked again what it has.
    asked_at: int | None = None
    #: The certificate that is trusted, and until when what is said is written down.
    certificate: str = ""
    watched_until: int | None = None

    @property
    def digest(self) -> str:
        """Changes when the session must begin anew."""
        lasting = (self.id, self.address, self.user, self.password, self.certificate)
        return hashlib.sha256(repr(lasting).encode()).hexdigest()


class InboxSink:
    """Stores what a session learns. When the inbox is unavailable it waits: a device's states come back later."""

    def __init__(self, device: str, inbox: InboxWriter) -> None:
        self.device, self.inbox = device, inbox

    async def notifications(self, messages: list[bytes], clock_offset_ms: int) -> None:
        meta = json.dumps({"clock_offset_ms": clock_offset_ms})
        now = now_ms()
        await self._store([Message(now, "onvif", self.device, meta, body) for body in messages])

    async def health(self, state: str, reason: str, message: str, clock_offset_ms: int) -> None:
        body = {"state": state, "reason": reason, "message": message, "clock_offset_ms": clock_offset_ms}
        await self._store([self._own("session", body)])

    async def catalogue(self, content: DeviceCatalogue) -> None:
        await self._store([self._own("catalogue", content)])

    def _own(self, adapter: str, body: Mapping[str, Any]) -> Message:
        return Message(now_ms(), adapter, self.device, "{}", json.dumps(body).encode())

    async def _store(self, messages: list[Message]) -> None:
        while True:
            try:
                await asyncio.wrap_future(self.inbox.submit(messages))
                return
            except InboxUnavailable as error:
                log.error("inbox unavailable, %d messages wait: %s", len(messages), error)
                await asyncio.sleep(INBOX_AGAIN)


@dataclass(slots=True)
class Running:
    """A session that runs, and what it was begun with."""

    wanted: Wanted
    session: DeviceSession
    task: asyncio.Task[None]
    #: How many exchanges there were when they were last written down.
    written: int = 0


class Sessions:
    """Keeps the running sessions the same as the enabled devices."""

    def __init__(self, inbox: InboxWriter, consumer: Consumer | None = None) -> None:
        self.inbox, self.consumer = inbox, consumer
        self._running: dict[str, Running] = {}

    async def run(self) -> None:
        try:
            while True:
                await self._adjust(await sync_to_async(wanted_devices)())
                await self._write_down()
                await asyncio.sleep(LOOK_AGAIN)
        finally:
            for running in self._running.values():
                running.task.cancel()

    async def _adjust(self, wanted: list[Wanted]) -> None:
        by_id = {w.id: w for w in wanted}
        for id, running in list(self._running.items()):
            task = running.task
            if id not in by_id or by_id[id].digest != running.wanted.digest or task.done():
                if task.done() and not task.cancelled() and task.exception():
                    log.error("session of %s failed: %r", id, task.exception())
                task.cancel()
                del self._running[id]
        for id, device in by_id.items():
            if id not in self._running:
                self._running[id] = self._begin(device)
                continue
            running = self._running[id]
            if running.wanted.asked_at != device.asked_at:
                running.session.learn_again()
            running.wanted = device

    async def _write_down(self) -> None:
        """What was said in the sessions that somebody watches, as far as there is more of it."""
        now = now_ms()
        for running in self._running.values():
            exchanges = running.session.device.soap.exchanges
            if (running.wanted.watched_until or 0) > now and exchanges.count != running.written:
                running.written = exchanges.count
                await sync_to_async(_write_log)(running.wanted.id, now, exchanges.plain())
        await sync_to_async(_drop_logs)(now)

    def _begin(self, device: Wanted) -> "Running":
        client = OnvifDevice(device.address, device.user, device.password, certificate=device.certificate)
        session = DeviceSession(client, InboxSink(device.id, self.inbox), consumer=self.consumer)
        return Running(device, session, asyncio.create_task(session.run()))


def _write_log(device: str, at: int, exchanges: list[dict[str, Any]]) -> None:
    # A device that is deleted meanwhile has no log; a database that is busy gets the next one.
    with contextlib.suppress(IntegrityError, OperationalError):
        SessionLog.objects.update_or_create(device_id=device, defaults={"at": at, "exchanges": exchanges})


def _drop_logs(now: int) -> None:
    """What nobody watches any more is dropped, also after a restart, or when a session has ended meanwhile."""
    over = SessionLog.objects.exclude(device__watched_until__gt=now)
    with contextlib.suppress(OperationalError):
        # Looking is cheap; deleting what is not there would wait for the writer all the same.
        if over.exists():
            over.delete()


def wanted_devices() -> list[Wanted]:
    """The enabled devices; one whose password cannot be opened is tried without, and then says "refused" itself."""
    found = []
    for device in Device.objects.filter(enabled=True, retired_at=None):
        try:
            password = device.password
        except SealBroken:
            password = ""
        found.append(
            Wanted(
                device.id,
                device.address,
                device.user,
                password,
                device.asked_at,
                device.certificate,
                device.watched_until,
            )
        )
    return found
