"""A consistent copy of an SQLite database that is being written to."""

import sqlite3
import time
from contextlib import closing
from pathlib import Path

#: So many pages are copied at a time, and then others have the disk for this long, in seconds.
PAGES, BREATH = 256, 0.004


def snapshot(source: Path, target: Path) -> None:
    """Copy a database as it is at one instant. Raises sqlite3.Error, also when the copy is not sound.

    One reading transaction is held throughout, so that what is written meanwhile neither comes into the copy nor makes it
    begin anew.
    """
    with (
        closing(sqlite3.connect(f"file:{source}?mode=rw", uri=True, timeout=30, isolation_level=None)) as read,
        closing(sqlite3.connect(target)) as written,
    ):
        read.execute("BEGIN")
        read.execute("SELECT COUNT(*) FROM sqlite_master").fetchone()
        written.execute("PRAGMA synchronous=OFF")
        read.backup(written, pages=PAGES, progress=lambda *_: time.sleep(BREATH), sleep=0)
        read.execute("ROLLBACK")
        # It is one file from now on, with no journal beside it.
        written.execute("PRAGMA journal_mode=DELETE")
        said = written.execute("PRAGMA quick_check(1)").fetchone()[0]
    if said != "ok":
        raise sqlite3.DatabaseError(f"the copy of {source.name} is not sound: {said}")
