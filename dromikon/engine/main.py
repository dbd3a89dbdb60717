"""The engine process: turns in the main thread, deliverers in another, one engine per data folder."""

import asyncio
import contextlib
import logging
import signal
import sqlite3
import sys
import threading
import time
from typing import Any

from django.db import OperationalError, close_old_connections

from dromikon import start, wake
from dromikon.clock import now_ms
from dromikon.database import doorbell
from dromikon.engine.deliver import Deliverers
from dromikon.engine.engine import Engine, Superseded
from dromikon.engine.writer import WRITER
from dromikon.lists.keeper import keep_current

log = logging.getLogger("dromikon.engine")

#: How long the engine sleeps when nobody wakes it, and how long after trouble with the database, in seconds.
LOOK, TROUBLE = 0.25, 0.5
#: What somebody who waits for the writer gets of it after a turn of a backlog, at least; and what is left to it when nobody
#: waits, in seconds.
BREATH, GLIMPSE = 0.020, 0.002
#: How long a thread may keep the interpreter while another wants it, in seconds.
SWITCH = 0.0005


def run_for_ever(engine: Engine, stop: threading.Event, ear: wake.Ear) -> None:
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
            stop.wait(TROUBLE)
            continue
        if not taken:
            ear.wait(_until_due(engine))
        elif taken > 10:
            stop.wait(pause_after(engine.spent))


def pause_after(spent: float) -> float:
    """Seconds to leave the writer to others after a turn of a backlog: as long as we had it when somebody waits for it,
    else only the moment in which one who has not rung may find it free."""
    return max(BREATH, spent) if WRITER.waiting or doorbell.heard() else GLIMPSE


def _until_due(engine: Engine) -> float:
    """Seconds until a rule wants to be woken, at most `LOOK`."""
    due = engine.next_wake()
    return LOOK if due is None else min(LOOK, max(0.001, (due - engine.clock()) / 1000))


class Beside(threading.Thread):
    """What goes on beside the turns: deliverers, and lists that are kept current."""

    def __init__(self) -> None:
        super().__init__(name="deliverers", daemon=True)
        self.deliverers = Deliverers(now_ms)
        self._loop: asyncio.AbstractEventLoop | None = None
        self._task: asyncio.Task[Any] | None = None

    def run(self) -> None:
        asyncio.run(self._both())

    async def _both(self) -> None:
        self._loop = asyncio.get_running_loop()
        self._task = asyncio.ensure_future(asyncio.gather(self.deliverers.run(), keep_current()))
        with contextlib.suppress(asyncio.CancelledError):
            await self._task

    def stop(self) -> None:
        """See through what is being sent, then end."""
        if self._loop is not None and self._task is not None:
            self._loop.call_soon_threadsafe(self._task.cancel)
        self.join(5)


def main() -> None:
    # Turns, deliveries and their ledger hand work to each other many times for one event; none waits five milliseconds for
    # the interpreter.
    sys.setswitchinterval(SWITCH)
    lock = start.hold("engine", "engine")
    stop = threading.Event()
    ear = wake.Ear(wake.ENGINE)

    def end(*_: object) -> None:
        stop.set()
        wake.wake(wake.ENGINE)

    for sign in (signal.SIGTERM, signal.SIGINT):
        signal.signal(sign, end)
    engine, beside = Engine(), Beside()
    engine.steps_committed = beside.deliverers.wake
    engine.feed_committed = lambda: wake.wake(wake.PAGES)
    engine.load()
    beside.start()
    log.info("engine at work from journal place %d", engine.seq)
    try:
        run_for_ever(engine, stop, ear)
    except Superseded:
        log.error("another engine has taken over; this one stops")
    finally:
        beside.stop()
        engine.close()
        ear.close()
        close_old_connections()
        lock.close()
