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


#: What was taken and counts only once, while it could come again.
TAKEN = (
    "CREATE TABLE IF NOT EXISTS taken (key TEXT PRIMARY KEY, until INTEGER NOT NULL) WITHOUT ROWID",
    # What is past is forgotten with each that comes: there may be very many.
    "CREATE INDEX IF NOT EXISTS taken_until ON taken (until)",
)


class InboxUnavailable(Exception):
    """Nothing was accepted: the disk is full, or the file is locked or broken."""


class Replayed(Exception):
    """It was taken before, and counts only once."""


@dataclass(frozen=True, slots=True)
class Message:
    """A raw message. `adapter` says how it came (onvif, http, session, catalogue), `source` is a device or intake id."""

    received_at: int
    adapter: str
    source: str
    meta: str
    body: bytes
    #: What is taken only once, and until when that is remembered (ms UTC).
    once: tuple[str, int] | None = None


@dataclass(frozen=True, slots=True)
class Stored:
    """A message with its place in the inbox."""

    id: int
    message: Message


def connect(path: Path, *, timeout: float = 2.0) -> sqlite3.Connection:
    """Open the inbox, making it when it is new. Raises sqlite3.Error."""
    connection = sqlite3.connect(path, timeout=timeout, isolation_level=None, check_same_thread=False)
    connection.execute("PRAGMA synchronous=FULL")
    there = {name for (name,) in connection.execute("SELECT name FROM sqlite_master")}
    if "message" not in there:
        # Both want the write lock, so they are done once, before the table.
        connection.execute("PRAGMA auto_vacuum=INCREMENTAL")
        connection.execute("PRAGMA journal_mode=WAL")
        connection.execute(SCHEMA)
    if "taken_until" not in there:
        # An earlier release did without; whoever only reads writes nothing.
        for statement in TAKEN:
            connection.execute(statement)
    return connection


def append(connection: sqlite3.Connection, messages: Sequence[Message]) -> int:
    """Store a group in one transaction and return the last id. Raises InboxUnavailable; then none is stored."""
    return max((id for id in append_each(connection, messages) if id is not None), default=0)


def append_each(connection: sqlite3.Connection, messages: Sequence[Message]) -> list[int | None]:
    """Store a group in one transaction; each one's id, or None for what counts once and was taken before. Raises
    InboxUnavailable; then none is stored."""
    try:
        connection.execute("BEGIN IMMEDIATE")
        found = [_store(connection, message) for message in messages]
        connection.execute("COMMIT")
    except sqlite3.Error as error:
        if connection.in_transaction:
            connection.execute("ROLLBACK")
        raise InboxUnavailable(str(error)) from error
    return found


def _store(connection: sqlite3.Connection, message: Message) -> int | None:
    if message.once is not None:
        key, until = message.once
        connection.execute("DELETE FROM taken WHERE until < ?", (message.received_at,))
        fresh = connection.execute("INSERT OR IGNORE INTO taken (key, until) VALUES (?,?)", (key, until)).rowcount
        if not fresh:
            return None
    row = (message.received_at, message.adapter, message.source, message.meta, message.body)
    query = "INSERT INTO message (received_at, adapter, source, meta, body) VALUES (?,?,?,?,?)"
    return connection.execute(query, row).lastrowid


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
        """A future with the last one's id that is done when the messages are committed. It raises InboxUnavailable when they are
        not, and Replayed when the last one was taken before."""
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
                ids = append_each(connection, [m for messages, _ in group for m in messages])
            except (InboxUnavailable, sqlite3.Error) as error:
                for _, future in group:
                    future.set_exception(InboxUnavailable(str(error)))
            else:
                _tell(group, ids)
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


def _tell(group: Sequence[tuple[Sequence[Message], "Future[int]"]], ids: Sequence[int | None]) -> None:
    """Each submitter hears its last message's id, or that what it submitted had been taken."""
    place = 0
    for messages, future in group:
        own = ids[place : place + len(messages)]
        place += len(messages)
        if messages and own[-1] is None:
            future.set_exception(Replayed())
        else:
            future.set_result(own[-1] or 0 if own else 0)
