"""Forgetting what is past keeping, by age and by room on the disk, while everything goes on."""

import contextlib
import logging
import shutil
import sqlite3
import time
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path

from dromikon import config
from dromikon.clock import now_ms
from dromikon.installation.settings import setting
from dromikon.keeping.classes import CLASSES, Kept
from dromikon.keeping.policy import Keeping
from dromikon.records.follow import forget_gone

log = logging.getLogger("dromikon.keeping")

DAY, GIGABYTE = 86_400_000, 1_000_000_000
#: Others have the disk and the writer between two groups, in seconds.
BREATH = 0.02
#: Room is made a day at a time, and never of what is younger than this many days.
ALWAYS = 7
#: So many free pages of a database are given back to the disk at a time.
PAGES = 500


def forget_every() -> int:
    """It is looked every ten minutes."""
    return 600_000


def forget() -> str:
    """Forget all that is past keeping; then, where the disk is short of room, more. Says how much of what."""
    policy, now = setting(Keeping), now_ms()
    done: dict[str, int] = {}
    for kept in CLASSES:
        _count(done, kept, _paced(kept.forget(now - kept.days(policy) * DAY)))
    _make_room(policy, now, done)
    if done:
        # What is gone is found no more.
        _paced(forget_gone(now))
        _give_back()
    return ", ".join(f"{count} {name}" for name, count in done.items()) or "nothing was past keeping"


def _paced(groups: Iterator[int]) -> int:
    total = 0
    for count in groups:
        total += count
        time.sleep(BREATH)
    return total


def _count(done: dict[str, int], kept: Kept, count: int) -> None:
    if count:
        done[kept.name] = done.get(kept.name, 0) + count


def short_of_room(policy: Keeping) -> bool:
    """Whether the disk has less room than is to be left."""
    return shutil.disk_usage(config.data()).free < policy.room * GIGABYTE


def _make_room(policy: Keeping, now: int, done: dict[str, int]) -> None:
    """The oldest day of each class that goes first, again and again, until there is room or only the last week is left."""
    longest = max(kept.days(policy) for kept in CLASSES if kept.for_room)
    for days in range(longest - 1, ALWAYS - 1, -1):
        if not short_of_room(policy):
            return
        for kept in CLASSES:
            if kept.for_room and days < kept.days(policy):
                _count(done, kept, _paced(kept.forget(now - days * DAY)))
        _give_back()
    if short_of_room(policy):
        log.warning("the disk has less room than %d GB, and nothing more may be forgotten", policy.room)


def _give_back() -> None:
    """Free pages of the databases become room on the disk, a little at a time."""
    for path in (config.database_path(), config.inbox_path()):
        with contextlib.suppress(sqlite3.Error):
            _give_back_of(path)


def _give_back_of(path: Path) -> None:
    with closing(sqlite3.connect(path, timeout=5, isolation_level=None)) as database:
        while database.execute("PRAGMA freelist_count").fetchone()[0] > PAGES:
            database.execute(f"PRAGMA incremental_vacuum({PAGES})").fetchall()
            time.sleep(BREATH)
        database.execute("PRAGMA wal_checkpoint(PASSIVE)")
