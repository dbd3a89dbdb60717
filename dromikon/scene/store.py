"""What was seen, in a database file of its own: a row a minute and camera, packed. It is large and can be had again only from
cameras, so it is no part of backups, and what disturbs it disturbs nothing else."""

import sqlite3
from collections.abc import Iterator, Sequence
from contextlib import closing

from dromikon import config
from dromikon.core.instants import Instant
from dromikon.core.scene.chunks import CHUNK, Unreadable, chunk_of, pack, unpack
from dromikon.core.scene.sight import Sight

FILE = "scene.sqlite3"
SCHEMA = (
    """
CREATE TABLE IF NOT EXISTS chunk (
    camera TEXT NOT NULL,
    start INTEGER NOT NULL,
    pictures INTEGER NOT NULL,
    data BLOB NOT NULL,
    PRIMARY KEY (camera, start)
) WITHOUT ROWID
""",
    "CREATE INDEX IF NOT EXISTS chunk_start ON chunk (start)",
)
#: A minute in which nothing is has so many pictures at most.
QUIET = 4
#: So many chunks are forgotten in one transaction.
GROUP = 500


def connect() -> sqlite3.Connection:
    """Open the file, making it when it is new. Raises sqlite3.Error."""
    connection = sqlite3.connect(config.data() / FILE, timeout=5, isolation_level=None, check_same_thread=False)
    connection.execute("PRAGMA auto_vacuum=INCREMENTAL")
    connection.execute("PRAGMA journal_mode=WAL")
    # What was seen in the last second before a power cut is lost; nothing hangs on it.
    connection.execute("PRAGMA synchronous=NORMAL")
    for statement in SCHEMA:
        connection.execute(statement)
    return connection


def keep(connection: sqlite3.Connection, camera: str, sights: Sequence[Sight]) -> None:
    """Keep the pictures of one minute; with what is kept of it already, as after a restart. Raises sqlite3.Error."""
    start = chunk_of(sights[0].at)
    with connection:
        connection.execute("BEGIN IMMEDIATE")
        before = connection.execute("SELECT data FROM chunk WHERE camera = ? AND start = ?", (camera, start)).fetchone()
        known = _readable(before[0]) if before else []
        last = known[-1].at if known else -1
        whole = [*known, *(s for s in sights if s.at > last)]
        connection.execute(
            "INSERT OR REPLACE INTO chunk (camera, start, pictures, data) VALUES (?,?,?,?)",
            (camera, start, len(whole), pack(whole)),
        )


def sights(connection: sqlite3.Connection, camera: str, start: Instant, end: Instant) -> Iterator[Sight]:
    """What a camera saw in [start, end), in order; a minute that cannot be read is left out."""
    query = "SELECT data FROM chunk WHERE camera = ? AND start > ? AND start < ? ORDER BY start"
    for (data,) in connection.execute(query, (camera, start - CHUNK, end)):
        for sight in _readable(data):
            if start <= sight.at < end:
                yield sight


def _readable(data: bytes) -> list[Sight]:
    try:
        return unpack(data)
    except Unreadable:
        return []


def kept_between(connection: sqlite3.Connection, camera: str, start: Instant, end: Instant) -> list[Instant]:
    """The beginnings of the minutes of which something is kept."""
    query = "SELECT start FROM chunk WHERE camera = ? AND start > ? AND start < ? ORDER BY start"
    return [at for (at,) in connection.execute(query, (camera, start - CHUNK, end))]


def nearest(connection: sqlite3.Connection, camera: str, at: Instant, later: bool) -> Instant | None:
    """The beginning of the next minute after (or before) a moment's own in which something was seen."""
    side, order = (">", "") if later else ("<", "DESC")
    own = chunk_of(at)
    query = (
        f"SELECT start FROM chunk WHERE camera = ? AND start {side} ? AND pictures > ? ORDER BY start {order} LIMIT 1"  # noqa: S608
    )
    found = connection.execute(query, (camera, own, QUIET)).fetchone()
    return int(found[0]) if found else None


def forget_before(moment: Instant, held: Sequence[tuple[str, Instant, Instant]] = ()) -> Iterator[int]:
    """Forget what is older, group by group; yields how many minutes each time. `held`: of a camera, a stretch that stays."""
    last = (-1, "")
    with closing(connect()) as connection:
        while keys := _older(connection, moment, last):
            last = keys[-1]
            gone = [(camera, start) for start, camera in keys if not _is_held(camera, start, held)]
            connection.executemany("DELETE FROM chunk WHERE camera = ? AND start = ?", gone)
            yield len(gone)
        connection.execute("PRAGMA incremental_vacuum")


def _older(connection: sqlite3.Connection, moment: Instant, after: tuple[Instant, str]) -> list[tuple[Instant, str]]:
    query = (
        "SELECT start, camera FROM chunk WHERE (start, camera) > (?, ?) AND start <= ? ORDER BY start, camera LIMIT ?"
    )
    return connection.execute(query, (*after, moment - CHUNK, GROUP)).fetchall()


def _is_held(camera: str, start: Instant, held: Sequence[tuple[str, Instant, Instant]]) -> bool:
    return any(camera == of and begin < start + CHUNK and start <= end for of, begin, end in held)


def amount() -> tuple[int, Instant | None]:
    """How many minutes are kept, and when the oldest was."""
    with closing(connect()) as connection:
        count, oldest = connection.execute("SELECT COUNT(*), MIN(start) FROM chunk").fetchone()
        return count, oldest


def pictures(connection: sqlite3.Connection, camera: str, start: Instant, end: Instant) -> int:
    """How many pictures are kept of a stretch."""
    query = "SELECT COALESCE(SUM(pictures), 0) FROM chunk WHERE camera = ? AND start > ? AND start < ?"
    return int(connection.execute(query, (camera, start - CHUNK, end)).fetchone()[0])
