"""The hub: one connection reads new feed rows when somebody has committed some, and fans them out to streams.

It is woken by a datagram, and looks by itself a few times a second. `PRAGMA data_version` costs microseconds; the
connection never keeps a cursor open, or it would see nothing new and the write-ahead log would grow.
"""

import asyncio
import contextlib
import json
import logging
import sqlite3
import threading
from collections.abc import AsyncIterator
from dataclasses import dataclass, field, replace
from typing import Any

from asgiref.sync import sync_to_async
from django.conf import settings
from django.core.exceptions import PermissionDenied
from django.http import Http404

from dromikon import wake
from dromikon.clock import now_ms
from dromikon.core.alarms.states import OPEN_TO_ANSWER
from dromikon.desk.services import visible_alarms
from dromikon.people.access import Access, access
from dromikon.web.companions import Companions

log = logging.getLogger("dromikon.web")

#: How long the hub waits to be woken before it looks by itself, and after trouble with the database, in seconds.
LOOK, TROUBLE = 0.25, 1.0
PULSE = 1.0
#: So many rows are read at a time.
PORTION = 1_000
#: A page that missed more than this many messages is told to load afresh.
MOST_MISSED = 500
#: How often a stream asks again whether its person still belongs to the site, in seconds.
ASK_AGAIN = 15.0
DAY = 86_400_000


@dataclass(frozen=True, slots=True)
class Message:
    """One feed row."""

    id: int
    site: str
    topic: str
    subject: str
    groups: list[str] | None
    data: dict[str, Any]

    def encoded(self) -> str:
        content = json.dumps({"topic": self.topic, "subject": self.subject, "data": self.data})
        number = f"id: {self.id}\n" if self.id else ""
        return f"{number}data: {content}\n\n"


@dataclass(eq=False)
class Hub:
    """Lives in the event loop of the web process."""

    listeners: set["asyncio.Queue[Message]"] = field(default_factory=set)
    companions: Companions = field(default_factory=Companions)
    last: int = 0
    #: Set once `last` is known: what is committed from then on reaches every queue.
    begun: asyncio.Event = field(default_factory=asyncio.Event)
    _task: asyncio.Task[None] | None = None
    _loop: asyncio.AbstractEventLoop | None = None

    def join(self) -> "asyncio.Queue[Message]":
        loop = asyncio.get_running_loop()
        if self._task is None or self._task.done() or self._loop is not loop:
            if self._loop is not loop:
                self.begun, self.companions = asyncio.Event(), Companions()
            self._loop, self._task = loop, loop.create_task(self._watch())
            self.listeners.clear()
        queue: asyncio.Queue[Message] = asyncio.Queue(maxsize=2000)
        self.listeners.add(queue)
        return queue

    def leave(self, queue: "asyncio.Queue[Message]") -> None:
        self.listeners.discard(queue)

    async def _watch(self) -> None:
        """Until the loop ends. Trouble with the database is waited out: streams stay, and miss nothing."""
        ear, woken = wake.Ear(wake.PAGES), asyncio.Event()
        loop = asyncio.get_running_loop()

        def rung() -> None:
            ear.drain()
            woken.set()

        loop.add_reader(ear.fileno(), rung)
        try:
            while True:
                reader = Reader()
                try:
                    await self._read_on(reader, woken)
                except sqlite3.Error as error:
                    log.warning("what pages are told cannot be read just now, trying again: %s", error)
                    await asyncio.sleep(TROUBLE)
                finally:
                    await asyncio.to_thread(reader.close)
        finally:
            loop.remove_reader(ear.fileno())
            ear.close()

    async def _read_on(self, reader: "Reader", woken: asyncio.Event) -> None:
        loop, pulse_at = asyncio.get_running_loop(), 0.0
        if not self.begun.is_set():
            self.last = await asyncio.to_thread(reader.newest)
            self.begun.set()
        while True:
            woken.clear()
            for message in await asyncio.to_thread(reader.after, self.last):
                self.last = message.id
                self._send(message)
            if loop.time() - pulse_at >= PULSE:
                pulse_at = loop.time()
                for site, state in (await asyncio.to_thread(reader.pulses)).items():
                    self._send(Message(0, site, "pulse", "", None, state))
            with contextlib.suppress(TimeoutError):
                async with asyncio.timeout(LOOK):
                    await woken.wait()

    def _send(self, message: Message) -> None:
        for queue in list(self.listeners):
            try:
                queue.put_nowait(message)
            except asyncio.QueueFull:
                # A reader this slow starts over when it comes back.
                self.listeners.discard(queue)


class Reader:
    """The hub's own connection. Its calls go to threads, one after the other: one that nobody waits for any more is
    finished before the connection is closed."""

    def __init__(self) -> None:
        self._connection: sqlite3.Connection | None = None
        self._closed = False
        self._version = -1
        self._one_at_a_time = threading.Lock()

    def _open(self) -> sqlite3.Connection:
        if self._closed:
            raise sqlite3.ProgrammingError("nobody listens any more")
        self._connection = self._connection or connect()
        return self._connection

    def newest(self) -> int:
        """The id of the newest row."""
        with self._one_at_a_time:
            return int(self._open().execute("SELECT COALESCE(MAX(id), 0) FROM daybook_feed").fetchone()[0])

    def after(self, last: int) -> list[Message]:
        """New rows; looks no further when the database has not changed since."""
        with self._one_at_a_time:
            version = self._open().execute("PRAGMA data_version").fetchone()[0]
            if version == self._version:
                return []
            found = after(self._open(), last, PORTION)
            if len(found) < PORTION:
                self._version = version
            return found

    def pulses(self) -> dict[str, dict[str, Any]]:
        with self._one_at_a_time:
            return pulses(self._open())

    def close(self) -> None:
        with self._one_at_a_time:
            self._closed = True
            if self._connection is not None:
                self._connection.close()


hub = Hub()


def connect() -> sqlite3.Connection:
    """A reader of our own, in autocommit, so that each statement sees the newest state."""
    path = str(settings.DATABASES["default"]["NAME"])
    return sqlite3.connect(path, isolation_level=None, check_same_thread=False, timeout=5)


def after(connection: sqlite3.Connection, last: int, limit: int) -> list[Message]:
    """Feed rows behind an id."""
    query = "SELECT id, site, topic, subject, groups, data FROM daybook_feed WHERE id > ? ORDER BY id LIMIT ?"
    rows = connection.execute(query, (last, limit)).fetchall()
    return [Message(r[0], r[1], r[2], r[3], json.loads(r[4]) if r[4] else None, json.loads(r[5])) for r in rows]


def pulses(connection: sqlite3.Connection) -> dict[str, dict[str, Any]]:
    """For each site: whether the engine is alive, events in the last minute, delay from receipt to decision, and how many
    steps expired unsent in the last day."""
    now = now_ms()
    row = connection.execute("SELECT beat, delay_ms FROM daybook_engineposition WHERE id = 1").fetchone()
    beat, delay = row or (0, 0)
    query = (
        "SELECT s.id, (SELECT COUNT(*) FROM daybook_event e WHERE e.site = s.id AND e.occurred_at > ?), "
        "(SELECT COUNT(*) FROM daybook_step p WHERE p.site = s.id AND p.status = 'expired' AND p.done_at > ? "
        "AND p.action <> 'evidence') FROM sites_site s"
    )
    rows = connection.execute(query, (now - 60_000, now - DAY)).fetchall()
    alive = now - beat < 5000
    return {
        site: {"alive": alive, "per_minute": count, "delay_ms": delay, "expired": expired, "now": now}
        for site, count, expired in rows
    }


async def stream(found: Access, last_id: int | None) -> AsyncIterator[str]:
    """Server-sent events for one person at one site. Site, role and recipient are checked for each message."""
    queue = hub.join()
    try:
        # Where it begins is settled before anything is waited for: what comes meanwhile stands in the queue.
        await hub.begun.wait()
        sent = hub.last
        # Asked for once, beside the loop: whom messages are for is looked up for each of them.
        await sync_to_async(lambda: found.groups)()
        yield "retry: 1500\n\n"
        if last_id is not None:
            missed = await sync_to_async(_missed)(last_id)
            if len(missed) > MOST_MISSED or (missed and missed[0].id > last_id + 1):
                yield Message(hub.last, found.site.id, "reload", "", None, {}).encoded()
            else:
                for message in missed:
                    sent = message.id
                    if _is_for(message, found):
                        yield message.encoded()
        asked = asyncio.get_running_loop().time()
        while queue in hub.listeners:
            message = await queue.get()
            if asyncio.get_running_loop().time() - asked > ASK_AGAIN:
                asked = asyncio.get_running_loop().time()
                found = await sync_to_async(_again)(found)
            if message.topic == "pulse" and message.site == found.site.id:
                waiting = await sync_to_async(_waiting)(found)
                yield Message(0, message.site, "pulse", "", None, {**message.data, "waiting": waiting}).encoded()
            elif message.id > sent and _is_for(message, found):
                more = await hub.companions.of(message.id, message.topic, message.subject, found)
                yield (replace(message, data={**message.data, **more}) if more else message).encoded()
    except (Http404, PermissionDenied):
        return
    finally:
        hub.leave(queue)


def _is_for(message: Message, found: Access) -> bool:
    return message.site == found.site.id and found.receives(message.groups)


def _missed(last_id: int) -> list[Message]:
    connection = connect()
    try:
        return after(connection, last_id, MOST_MISSED + 1)
    finally:
        connection.close()


def _again(found: Access) -> Access:
    fresh = access(found.person, found.site.id)
    _ = fresh.groups
    return fresh


def _waiting(found: Access) -> int:
    return visible_alarms(found).filter(state__in=OPEN_TO_ANSWER).count()
