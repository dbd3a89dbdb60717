"""Watching the cameras: each one's objects are followed, its detectors asked, and the minutes kept."""

import asyncio
import json
import logging
import sqlite3
from collections.abc import Collection, Mapping
from contextlib import aclosing
from dataclasses import dataclass
from datetime import timedelta

from asgiref.sync import sync_to_async
from django.db import DatabaseError, close_old_connections

from dromikon.clock import now_ms
from dromikon.core.devices.frames import SceneFrame
from dromikon.core.events import Phase
from dromikon.core.instants import Instant, iso
from dromikon.core.kinds import KINDS
from dromikon.core.optics import Optics
from dromikon.core.scene.detecting import Detected, Detecting
from dromikon.core.scene.seeing import Seeing
from dromikon.core.scene.sight import Sight, sight_of
from dromikon.core.scene.watching import Detector
from dromikon.intake.inbox import InboxUnavailable, InboxWriter, Message
from dromikon.scene import store
from dromikon.scene.camera import optics_of, seeing_of
from dromikon.scene.gathering import Gathering
from dromikon.scene.own import watched
from dromikon.secrets import SealBroken
from dromikon.sources.models import Device, Point
from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.frames import frames
from dromikon.wire.onvif.soap import DeviceError

log = logging.getLogger("dromikon.scene")

#: What is set up is looked at so often, in s; a camera that does not answer is asked again after so long, and up to.
LOOK, AGAIN, LONGEST = 1.0, 2.0, 60.0
#: A moment that is farther from ours than this, in ms, is not believed: it was seen when it came.
BELIEVABLE = 10_000
#: The inbox is tried again after so long, in s.
INBOX_AGAIN = 1.0


@dataclass(frozen=True)
class Wanted:
    """A camera, how it is reached, its detectors by point, how its objects are followed, and how it hangs."""

    camera: str
    device: str
    channel: str
    address: str
    user: str
    password: str
    certificate: str
    detectors: tuple[tuple[str, Detector], ...]
    seeing: Seeing
    optics: Optics | None

    @property
    def reached(self) -> tuple[str, ...]:
        """Changes when the conversation must begin anew."""
        return self.device, self.channel, self.address, self.user, self.password, self.certificate


def wanted_cameras() -> list[Wanted]:
    """The cameras that tell what they see, with the detectors of our own at each."""
    close_old_connections()
    own: dict[str, list[tuple[str, Detector]]] = {}
    known = Point.objects.filter(retired_at=None, kind="detector").exclude(watch=None).exclude(channel=None)
    for point in known.order_by("id"):
        detector = watched(point)
        if detector is not None:
            own.setdefault(str(point.channel_id), []).append((point.id, detector))
    cameras = Point.objects.filter(kind="camera", retired_at=None, device__enabled=True, device__retired_at=None)
    return [
        Wanted(c.id, c.device.id, c.token, c.device.address, c.device.user, _password(c.device), c.device.certificate,
               tuple(own.get(c.id, ())), seeing_of(c), optics_of(c))
        for c in cameras.select_related("device")
        if c.device is not None and c.token in c.device.catalogue.get("scenes", [])
    ]  # fmt: skip


def _password(device: Device) -> str:
    try:
        return device.password
    except SealBroken:
        return ""


class Eyes:
    """Watches every camera that is wanted, as what is set up changes."""

    def __init__(self, inbox: InboxWriter) -> None:
        self._inbox = inbox
        self._running: dict[str, Eye] = {}

    async def run(self) -> None:
        """Until it is cancelled."""
        try:
            while True:
                try:
                    await self._adjust(await sync_to_async(wanted_cameras)())
                except DatabaseError as error:
                    log.warning("database trouble, going on as it was: %s", error)
                await asyncio.sleep(LOOK)
        finally:
            await asyncio.gather(*(eye.close() for eye in self._running.values()))

    async def _adjust(self, wanted: list[Wanted]) -> None:
        by_camera = {w.camera: w for w in wanted}
        for camera, eye in list(self._running.items()):
            now = by_camera.get(camera)
            if now is None or now.reached != eye.wanted.reached or eye.task.done():
                if eye.task.done() and not eye.task.cancelled() and eye.task.exception():
                    log.error("watching %s failed: %r", camera, eye.task.exception())
                await eye.close()
                del self._running[camera]
        for camera, now in by_camera.items():
            if camera not in self._running:
                self._running[camera] = Eye(now, self._inbox)
            else:
                self._running[camera].watch(now)


class Eye:
    """One camera: a conversation that is begun again whenever it ends."""

    def __init__(self, wanted: Wanted, inbox: InboxWriter) -> None:
        self.wanted, self._inbox = wanted, inbox
        self._detecting = Detecting(dict(wanted.detectors), wanted.seeing, wanted.optics)
        #: The detectors of which it is not told yet how things stand.
        self._beginning = [point for point, _ in wanted.detectors]
        self._gathering = Gathering()
        self._store = store.connect()
        self.task = asyncio.create_task(self._run())

    def watch(self, wanted: Wanted) -> None:
        """Take over other detectors and settings; detectors that are as they were go on."""
        if (wanted.seeing, wanted.optics) != (self.wanted.seeing, self.wanted.optics):
            self._detecting.see_by(wanted.seeing, wanted.optics)
        if wanted.detectors != self.wanted.detectors:
            self._beginning += self._detecting.become(dict(wanted.detectors))
        self.wanted = wanted

    async def close(self) -> None:
        self.task.cancel()
        await asyncio.wait([self.task])
        self._keep(self._gathering.rest())
        self._store.close()

    async def _run(self) -> None:
        pause = AGAIN
        while True:
            began = now_ms()
            try:
                await self._look()
            except DeviceError as error:
                log.info("%s: %s", self.wanted.camera, error)
            # One that had answered for long is asked again at once.
            pause = AGAIN if now_ms() - began > LONGEST * 1000 else min(LONGEST, pause * 2)
            await asyncio.sleep(pause)

    async def _look(self) -> None:
        wanted = self.wanted
        client = OnvifDevice(wanted.address, wanted.user, wanted.password, certificate=wanted.certificate)
        try:
            # A password's digest carries the time.
            await client.measure_clock()
            await client.discover_services()
            async with aclosing(frames(client, wanted.channel)) as stream:
                async for frame in stream:
                    await self._take(sight_of(by_our_time(frame, client.soap.clock_offset, now_ms())))
        finally:
            await client.close()

    async def _take(self, sight: Sight) -> None:
        if self._beginning:
            beginning, self._beginning = self._beginning, []
            await self._tell(states_at_rest(self.wanted, beginning, sight.at), first=True)
        told = self._detecting.take(sight)
        over = self._gathering.take(sight)
        if told:
            await self._tell(told)
        if over:
            await asyncio.to_thread(self._keep, over)

    def _keep(self, sights: list[Sight]) -> None:
        if not sights:
            return
        try:
            store.keep(self._store, self.wanted.camera, sights)
        except sqlite3.Error as error:
            log.error("what %s saw could not be kept: %s", self.wanted.camera, error)

    async def _tell(self, told: list[Detected], first: bool = False) -> None:
        """Into the inbox, like what devices tell; while it is not to be had, it is waited for. `first`: how things stand when
        watching begins."""
        meta = json.dumps({"first": True}) if first else "{}"
        messages = [Message(now_ms(), "scene", self.wanted.device, meta, body_of(one)) for one in told]
        while messages:
            try:
                await asyncio.wrap_future(self._inbox.submit(messages))
                return
            except InboxUnavailable as error:
                log.error("inbox unavailable, %d messages wait: %s", len(messages), error)
                await asyncio.sleep(INBOX_AGAIN)


def states_at_rest(wanted: Wanted, beginning: Collection[str], at: Instant) -> list[Detected]:
    """Of detectors that begin: whatever held before, nothing does until it is seen again."""
    return [
        Detected(point, detector.tells, Phase.END, at, {})
        for point, detector in wanted.detectors
        if point in beginning and KINDS[detector.tells].is_state
    ]


def by_our_time(frame: SceneFrame, offset: timedelta, now: Instant) -> SceneFrame:
    """By our clock: the device's, less how far it is off. One that was set since it was asked is not believed."""
    at = frame.at - offset // timedelta(milliseconds=1)
    return SceneFrame(at if abs(at - now) <= BELIEVABLE else now, frame.seen)


def body_of(told: Detected) -> bytes:
    """What a detector told, in the plain form of events."""
    fields: Mapping[str, object] = dict(told.fields)
    if told.box is not None:
        fields = {**fields, "box": " ".join(f"{side:.4g}" for side in told.box)}
    content = {
        "kind": told.kind, "point": told.point, "phase": told.phase.value, "fields": fields,
        "occurred_at": iso(told.at),
    }  # fmt: skip
    return json.dumps(content).encode()
