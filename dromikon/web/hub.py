"""The hub: one connection polls whether the database changed, reads new feed rows, and fans them out to streams.

`PRAGMA data_version` costs microseconds; the connection never keeps a cursor open, or it would see nothing new and the
write-ahead log would grow.
"""

import asyncio
import json
import sqlite3
from collections.abc import AsyncIterator
from dataclasses import dataclass, field
from typing import Any

from asgiref.sync import sync_to_async
from django.conf import settings
from django.core.exceptions import PermissionDenied
from django.http import Http404

from dromikon.clock import now_ms
from dromikon.core.alarms.states import OPEN_TO_ANSWER
from dromikon.desk.services import visible_alarms
from dromikon.people.access import Access, access

POLL = 0.006
PULSE = 1.0
#: A page that missed more than this many messages is told to load afresh.
MOST_MISSED = 500
#: How often a stream asks again whether its person still belongs to the site, in seconds.
ASK_AGAIN = 15.0


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
    last: int = 0
    pulse: dict[str, dict[str, Any]] = field(default_factory=dict)
    _task: asyncio.Task[None] | None = None
    _loop: asyncio.AbstractEventLoop | None = None

    def join(self) -> "asyncio.Queue[Message]":
        loop = asyncio.get_running_loop()
        if self._task is None or self._task.done() or self._loop is not loop:
            self._loop, self._task = loop, loop.create_task(self._watch())
            self.listeners.clear()
        queue: asyncio.Queue[Message] = asyncio.Queue(maxsize=2000)
        self.listeners.add(queue)
        return queue

    def leave(self, queue: "asyncio.Queue[Message]") -> None:
        self.listeners.discard(queue)

    async def _watch(self) -> None:
        connection = connect()
        self.last = connection.execute("SELECT COALESCE(MAX(id), 0) FROM daybook_feed").fetchone()[0]
        version, pulse_at = -1, 0.0
        loop = asyncio.get_running_loop()
        while True:
            now = connection.execute("PRAGMA data_version").fetchone()[0]
            if now != version:
                version = now
                for message in after(connection, self.last, 1000):
                    self.last = message.id
                    self._send(message)
            if loop.time() - pulse_at >= PULSE:
                pulse_at = loop.time()
                self._send_pulse(connection)
            await asyncio.sleep(POLL)

    def _send(self, message: Message) -> None:
        for queue in list(self.listeners):
            try:
                queue.put_nowait(message)
            except asyncio.QueueFull:
                # A reader this slow starts over when it comes back.
                self.listeners.discard(queue)

    def _send_pulse(self, connection: sqlite3.Connection) -> None:
        for site, state in pulses(connection).items():
            self._send(Message(0, site, "pulse", "", None, state))


hub = Hub()


def connect() -> sqlite3.Connection:
    """A reader of our own, in autocommit, so that each statement sees the newest state."""
    path = settings.DATABASES["default"]["NAME"]
    return sqlite3.connect(path, isolation_level=None, check_same_thread=False, timeout=5)


def after(connection: sqlite3.Connection, last: int, limit: int) -> list[Message]:
    """Feed rows behind an id."""
    query = "SELECT id, site, topic, subject, groups, data FROM daybook_feed WHERE id > ? ORDER BY id LIMIT ?"
    rows = connection.execute(query, (last, limit)).fetchall()
    return [Message(r[0], r[1], r[2], r[3], json.loads(r[4]) if r[4] else None, json.loads(r[5])) for r in rows]


def pulses(connection: sqlite3.Connection) -> dict[str, dict[str, Any]]:
    """For each site: whether the engine is alive, events in the last minute, delay from receipt to decision."""
    now = now_ms()
    row = connection.execute("SELECT beat, delay_ms FROM daybook_engineposition WHERE id = 1").fetchone()
    beat, delay = row or (0, 0)
    query = "SELECT s.id, (SELECT COUNT(*) FROM daybook_event e WHERE e.site = s.id AND e.occurred_at > ?) FROM sites_site s"
    rows = connection.execute(query, (now - 60_000,)).fetchall()
    return {site: {"alive": now - beat < 5000, "per_minute": count, "delay_ms": delay} for site, count in rows}


async def stream(found: Access, last_id: int | None) -> AsyncIterator[str]:
    """Server-sent events for one person at one site. Site, role and recipient are checked for each message."""
    queue = hub.join()
    sent = hub.last
    try:
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
        await sync_to_async(lambda: found.groups)()
        while queue in hub.listeners:
            message = await queue.get()
            if asyncio.get_running_loop().time() - asked > ASK_AGAIN:
                asked = asyncio.get_running_loop().time()
                found = await sync_to_async(_again)(found)
            if message.topic == "pulse" and message.site == found.site.id:
                waiting = await sync_to_async(_waiting)(found)
                yield Message(0, message.site, "pulse", "", None, {**message.data, "waiting": waiting}).encoded()
            elif message.id > sent and _is_for(message, found):
                yield message.encoded()
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
