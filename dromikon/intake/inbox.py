"""The inbox: an append-only database file of its own. *Accepted* means committed here.

Many messages share one transaction (group commit) with synchronous=FULL, so that acceptance survives a power cut
without paying for a flush per message.
"""

import queue
import sqlite3
import threading
from collections.abc import Sequence
from concurrent.futures import Future
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from dromikon import wake

SCHEMA = """
CREATE TABLE IF NOT EXISTS message (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    received_at INTEGER NOT NULL,
    adapter TEXT NOT NULL,
    source TEXT NOT NULL,
    meta TEXT NOT NULL,
    body BLOB NOT NULL
)
"""
LARGEST_GROUP = 200


class InboxUnavailable(Exception):
    """Nothing was accepted: the disk is full, or the file is locked or broken."""


@dataclass(frozen=True, slots=True)
class Message:
    """A raw message. `adapter` says how it came (onvif, http, session, catalogue), `source` is a device or intake id."""

    received_at: int
    adapter: str
    source: str
    meta: str
    body: bytes


@dataclass(frozen=True, slots=True)
class Stored:
    """A message with its place in the inbox."""

    id: int
    message: Message


def connect(path: Path, *, timeout: float = 2.0) -> sqlite3.Connection:
    """Open the inbox, making it when it is new. Raises sqlite3.Error."""
    connection = sqlite3.connect(path, timeout=timeout, isolation_level=None, check_same_thread=False)
    connection.execute("PRAGMA synchronous=FULL")
    if connection.execute("SELECT 1 FROM sqlite_master WHERE name = 'message'").fetchone() is None:
        # Both want the write lock, so they are done once, before the table.
        connection.execute("PRAGMA auto_vacuum=INCREMENTAL")
        connection.execute("PRAGMA journal_mode=WAL")
        connection.execute(SCHEMA)
    return connection


def append(connection: sqlite3.Connection, messages: Sequence[Message]) -> int:
    """Store a group in one transaction and return the last id. Raises InboxUnavailable; then none is stored."""
    rows = [(m.received_at, m.adapter, m.source, m.meta, m.body) for m in messages]
    try:
        connection.execute("BEGIN IMMEDIATE")
        connection.executemany(
            "INSERT INTO message (received_at, adapter, source, meta, body) VALUES (?,?,?,?,?)", rows
        )
        last = connection.execute("SELECT last_insert_rowid()").fetchone()[0]
        connection.execute("COMMIT")
    except sqlite3.Error as error:
        if connection.in_transaction:
            connection.execute("ROLLBACK")
        raise InboxUnavailable(str(error)) from error
    return int(last)


def after(connection: sqlite3.Connection, position: int, limit: int) -> list[Stored]:
    """The next messages in order."""
    query = "SELECT id, received_at, adapter, source, meta, body FROM message WHERE id > ? ORDER BY id LIMIT ?"
    return [Stored(r[0], Message(r[1], r[2], r[3], r[4], r[5])) for r in connection.execute(query, (position, limit))]


def one(connection: sqlite3.Connection, id: int) -> Message | None:
    """One message, while it is kept."""
    query = "SELECT received_at, adapter, source, meta, body FROM message WHERE id = ?"
    row = connection.execute(query, (id,)).fetchone()
    return Message(*row) if row else None


def read(path: Path, id: int) -> Message | None:
    """The raw message behind an event, while it is kept."""
    with closing(connect(path)) as connection:
        return one(connection, id)


def prune(connection: sqlite3.Connection, before_id: int, before: int, limit: int = 500) -> int:
    """Delete a small group of messages that lie before a position and were received before an instant."""
    query = (
        "DELETE FROM message WHERE id IN (SELECT id FROM message WHERE id < ? AND received_at < ? ORDER BY id LIMIT ?)"
    )
    return connection.execute(query, (before_id, before, limit)).rowcount


class InboxWriter:
    """One thread that commits whatever has gathered, up to 200 messages at a time."""

    def __init__(self, path: Path) -> None:
        self._path = path
        self._queue: queue.SimpleQueue[tuple[Sequence[Message], Future[int]] | None] = queue.SimpleQueue()
        self._thread = threading.Thread(target=self._work, name="inbox", daemon=True)
        self._thread.start()

    def submit(self, messages: Sequence[Message]) -> "Future[int]":
        """A future that is done when the messages are committed; it raises InboxUnavailable when they are not."""
        future: Future[int] = Future()
        self._queue.put((messages, future))
        return future

    def close(self) -> None:
        self._queue.put(None)
        self._thread.join(5)

    def _work(self) -> None:
        connection: sqlite3.Connection | None = None
        while (first := self._queue.get()) is not None:
            group = [first, *self._more(len(first[0]))]
            try:
                connection = connection or connect(self._path)
                last = append(connection, [m for messages, _ in group for m in messages])
            except (InboxUnavailable, sqlite3.Error) as error:
                for _, future in group:
                    future.set_exception(InboxUnavailable(str(error)))
            else:
                for _, future in group:
                    future.set_result(last)
                wake.wake(wake.ENGINE)
        if connection:
            connection.close()

    def _more(self, have: int) -> list[tuple[Sequence[Message], Any]]:
        gathered: list[tuple[Sequence[Message], Any]] = []
        while have < LARGEST_GROUP:
            try:
                item = self._queue.get_nowait()
            except queue.Empty:
                break
            if item is None:
                self._queue.put(None)
                break
            gathered.append(item)
            have += len(item[0])
        return gathered
