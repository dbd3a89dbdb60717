"""Forty devices, each with a session and five events a second: what is lost, how late it is stored, what it costs. And how
long it takes to ask forty who they are, against the slowest one alone."""

import asyncio
import contextlib
import multiprocessing
import os
import resource
import tempfile
import time
from collections.abc import AsyncIterator, Iterator
from multiprocessing.synchronize import Event as ProcessEvent
from pathlib import Path

import uvicorn
from starlette.applications import Starlette
from starlette.routing import Mount

from bench.report import Result, percentile
from dromikon.standins.onvif.device import Identity, StandInDevice
from dromikon.standins.onvif.events import Events
from dromikon.standins.onvif.management import Management
from dromikon.standins.onvif.soap import Account
from dromikon.standins.onvif.topics import Topic
from dromikon.standins.world.reports import Report
from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.notification import parse_notification
from dromikon.wire.onvif.session import DeviceSession
from tools.ports import free_ports

DEVICES, RATE, SECONDS = 40, 5, 20
USER, PASSWORD = "looker", "measured-once"
EVERY = 1000 // RATE
MIB = 1 << 20


class Ticking(StandInDevice):
    """A device that tells something five times a second, numbered, each at its own moment."""

    def __init__(self, number: int, address: str) -> None:
        super().__init__(Identity(f"Ticker {number}", f"T-{number:04d}"), address, Account(USER, PASSWORD))
        self.number = number
        self.events = Events(self)
        self.services = [Management(self), self.events]

    def topics(self) -> list[Topic]:
        return [Topic("Device/Trigger/DigitalInput", False, (("InputToken", "xs:string"),), (("Count", "xs:integer"),))]

    def reports(self, start: int, end: int) -> list[Report]:
        offset = self.number * EVERY // DEVICES
        first = -(-(start - offset) // EVERY)
        moments = range(first * EVERY + offset, end, EVERY)
        return [
            Report(at, "tns1:Device/Trigger/DigitalInput", (("InputToken", "1"),), (("Count", str(at // EVERY)),))
            for at in moments
        ]


def _serve(port: int, ready: ProcessEvent) -> None:
    devices = [Ticking(i, f"http://127.0.0.1:{port}/{i}") for i in range(DEVICES)]

    @contextlib.asynccontextmanager
    async def lifespan(app: Starlette) -> AsyncIterator[None]:
        living = [asyncio.ensure_future(d.events.lives()) for d in devices]
        ready.set()
        yield
        for task in living:
            task.cancel()

    app = Starlette(routes=[Mount(f"/{d.number}", d.app()) for d in devices], lifespan=lifespan)
    uvicorn.run(app, host="127.0.0.1", port=port, log_level="error")


class Kept:
    """A sink that stores what comes in a real inbox, and notes when it was."""

    def __init__(self, writer: object) -> None:
        self.writer, self.counts, self.late = writer, [], []
        self.online = False

    async def notifications(self, messages: list[bytes], clock_offset_ms: int) -> None:
        from dromikon.intake.inbox import Message

        now = time.time_ns() // 1_000_000
        await asyncio.wrap_future(self.writer.submit([Message(now, "onvif", "d", "{}", m) for m in messages]))  # type: ignore[attr-defined]
        stored = time.time_ns() / 1_000_000
        for note in map(parse_notification, messages):
            self.counts.append(int(note.data["Count"]))
            self.late.append(stored - (note.device_at or 0))

    async def health(self, state: str, reason: str, message: str, clock_offset_ms: int) -> None:
        self.online = state == "online"

    async def catalogue(self, content: object) -> None: ...


def measure() -> Iterator[Result]:
    import django

    os.environ.setdefault("DROMIKON_OUTGOING", "localhost")
    django.setup()
    (port,), ready = free_ports(1), multiprocessing.get_context("spawn").Event()
    peers = multiprocessing.get_context("spawn").Process(target=_serve, args=(port, ready), daemon=True)
    peers.start()
    ready.wait(30)
    try:
        with tempfile.TemporaryDirectory() as folder:
            yield from asyncio.run(_sessions(port, Path(folder)))
        yield from asyncio.run(_asking(port))
    finally:
        peers.terminate()


async def _sessions(port: int, folder: Path) -> list[Result]:
    from dromikon.intake.inbox import InboxWriter

    writer = InboxWriter(folder / "inbox.sqlite3")
    sinks = [Kept(writer) for _ in range(DEVICES)]
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024
    tasks = [asyncio.create_task(DeviceSession(_client(port, i), sink).run()) for i, sink in enumerate(sinks)]
    while not all(s.online and s.counts for s in sinks):
        await asyncio.sleep(0.1)
    for sink in sinks:
        sink.counts.clear()
        sink.late.clear()
    busy, began = time.process_time(), time.monotonic()
    await asyncio.sleep(SECONDS)
    share = (time.process_time() - busy) / (time.monotonic() - began)
    memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024 - before
    counts = [list(sink.counts) for sink in sinks]
    late = [ms for sink in sinks for ms in sink.late]
    for task in tasks:
        task.cancel()
    await asyncio.gather(*tasks, return_exceptions=True)
    writer.close()
    sent = sum(max(c) - min(c) + 1 for c in counts)
    arrived = sum(len(set(c)) for c in counts)
    return [
        Result(f"events that arrived of {sent}, from {DEVICES} sessions", arrived / sent, 1, "", at_most=False),
        Result(f"{DEVICES} sessions at {RATE}/s each: share of a core", share, 0.6, ""),
        Result(f"{DEVICES} sessions: memory", memory / MIB, 80, "MiB"),
        Result("event to stored, median", percentile(late, 0.5), 40, "ms"),
        Result("event to stored, 99th", percentile(late, 0.99), 200, "ms"),
    ]


async def _asking(port: int) -> list[Result]:
    from dromikon.sources.identify import ask

    async def timed(number: int) -> float:
        began = time.monotonic()
        found = await ask(f"http://127.0.0.1:{port}/{number}/onvif/device_service", USER, PASSWORD, closer=True)
        assert found.answer == "found", found
        return time.monotonic() - began

    alone = max([await timed(i) for i in range(DEVICES)])
    began = time.monotonic()
    gate = asyncio.Semaphore(24)

    async def one(number: int) -> None:
        async with gate:
            await timed(number)

    await asyncio.gather(*map(one, range(DEVICES)))
    together = time.monotonic() - began
    return [Result(f"asking {DEVICES} who they are, against the slowest alone", together / alone, DEVICES / 2, "times")]


def _client(port: int, number: int) -> OnvifDevice:
    return OnvifDevice(f"http://127.0.0.1:{port}/{number}/onvif/device_service", USER, PASSWORD)
