"""The engine process: turn after turn, with deliveries in a process beside it; one engine per data folder."""

import logging
import signal
import sqlite3
import threading
import time

from django.db import OperationalError, close_old_connections

from dromikon import start, wake
from dromikon.database import doorbell
from dromikon.engine.apart import Apart
from dromikon.engine.engine import Engine, Superseded

log = logging.getLogger("dromikon.engine")

#: How long the engine sleeps when nobody wakes it, and how long after trouble with the database, in seconds.
LOOK, TROUBLE = 0.25, 0.5
#: What somebody who waits for the writer gets of it after a turn of a backlog, at least; and what is left to it when nobody
#: waits, in seconds.
BREATH, GLIMPSE = 0.020, 0.002


def run_for_ever(engine: Engine, stop: threading.Event, ear: wake.Ear, apart: Apart) -> None:
    """Turn after turn. Trouble with the database is waited out; nothing accepted is lost by it."""
    last_beat = last_tidy = 0.0
    taken = 1
    while not stop.is_set():
        try:
            taken = engine.turn() if taken or engine.something_new() else 0
            now = time.monotonic()
            if now - last_beat > 1:
                # An engine whose deliveries do not work is none.
                if apart.look_after():
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
    return max(BREATH, spent) if doorbell.heard() else GLIMPSE


def _until_due(engine: Engine) -> float:
    """Seconds until a rule wants to be woken, at most `LOOK`."""
    due = engine.next_wake()
    return LOOK if due is None else min(LOOK, max(0.001, (due - engine.clock()) / 1000))


def main() -> None:
    lock = start.hold("engine", "engine")
    stop = threading.Event()
    ear = wake.Ear(wake.ENGINE)

    def end(*_: object) -> None:
        stop.set()
        wake.wake(wake.ENGINE)

    for sign in (signal.SIGTERM, signal.SIGINT):
        signal.signal(sign, end)
    engine, apart = Engine(), Apart()
    engine.steps_committed = apart.wake
    engine.feed_committed = lambda: wake.wake(wake.PAGES)
    engine.load()
    apart.start()
    log.info("engine at work from journal place %d", engine.seq)
    try:
        run_for_ever(engine, stop, ear, apart)
    except Superseded:
        log.error("another engine has taken over; this one stops")
    finally:
        apart.stop()
        engine.close()
        ear.close()
        close_old_connections()
        lock.close()
