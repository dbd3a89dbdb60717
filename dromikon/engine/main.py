"""The engine process: turns in the main thread, deliverers in another, one engine per data folder."""

import asyncio
import fcntl
import logging
import signal
import sqlite3
import threading
import time
from pathlib import Path
from typing import IO

from django.db import OperationalError, close_old_connections

from dromikon import config
from dromikon.clock import now_ms
from dromikon.engine.deliver import Deliverers
from dromikon.engine.engine import Engine, Superseded
from dromikon.lists.keeper import keep_current

log = logging.getLogger("dromikon.engine")

#: How long to sleep when nothing waits, and between two turns of a backlog so that others can write, in seconds.
IDLE, BREATH = 0.002, 0.020


class AlreadyRunning(SystemExit):
    """Another engine holds the lock."""


def hold_lock(path: Path) -> IO[str]:
    """Hold the engine's file lock for as long as the answer lives."""
    handle = path.open("w")
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError as error:
        raise AlreadyRunning(f"Another engine is at work in {path.parent}.") from error
    return handle


def run_for_ever(engine: Engine, stop: threading.Event) -> None:
    """Turn after turn. Trouble with the database is waited out; nothing accepted is lost by it."""
    last_beat = last_tidy = 0.0
    taken = 1
    while not stop.is_set():
        try:
            taken = engine.turn() if taken or engine.something_new() else 0
            now = time.monotonic()
            if now - last_beat > 1:
                engine.beat()
                last_beat = now
            if not taken and now - last_tidy > 30:
                engine.tidy()
                engine.checkpoint()
                last_tidy = now
        except (OperationalError, sqlite3.Error) as error:
            log.warning("database trouble, trying again: %s", error)
            taken = 1
            stop.wait(0.5)
            continue
        # Behind: leave others as much time with the writer as we took. Otherwise look again at once.
        stop.wait(max(BREATH, engine.spent) if taken > 10 else IDLE)


def _beside() -> None:
    """What goes on beside the turns: deliverers, and lists that are kept current."""

    async def both() -> None:
        await asyncio.gather(Deliverers(now_ms).run(), keep_current())

    asyncio.run(both())


def main() -> None:
    lock = hold_lock(config.data() / "engine.lock")
    stop = threading.Event()
    for sign in (signal.SIGTERM, signal.SIGINT):
        signal.signal(sign, lambda *_: stop.set())
    engine = Engine()
    engine.load()
    threading.Thread(target=_beside, name="deliverers", daemon=True).start()
    log.info("engine at work from journal place %d", engine.seq)
    try:
        run_for_ever(engine, stop)
    except Superseded:
        log.error("another engine has taken over; this one stops")
    finally:
        engine.close()
        close_old_connections()
        lock.close()
