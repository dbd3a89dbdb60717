"""The keeper: does the jobs that are due, one after the other, until it is told to stop."""

import logging
import signal
import threading

from django.db import DatabaseError, close_old_connections, connection

from dromikon import start
from dromikon.clock import now_ms
from dromikon.keeping.jobs import JOBS, Job
from dromikon.keeping.models import Done

log = logging.getLogger("dromikon.keeping")

#: How often it is looked what is due, in seconds; and how long an installation is left to begin before the first job, in ms.
LOOK, FIRST = 2.0, 120_000


def due(job: Job, began: int, now: int) -> bool:
    """Whether a job is to be done now. One that has never been done waits until the installation has begun."""
    every = job.every()
    if every is None:
        return False
    last = Done.objects.filter(job=job.name).first()
    if last is None:
        return now - began >= min(FIRST, every)
    return now - last.began_at >= (every if last.well else min(every, job.again))


def do(job: Job) -> Done:
    """Do a job, and keep how it went."""
    kept, _ = Done.objects.update_or_create(job=job.name, defaults={"began_at": now_ms(), "ended_at": None})
    try:
        kept.said, kept.well = job.do(), True
    except Exception as error:
        log.warning("%s did not work: %s", job.name, error, exc_info=not str(error))
        kept.said, kept.well = str(error) or type(error).__name__, False
    kept.ended_at = now_ms()
    if kept.well:
        kept.good_at = kept.ended_at
    kept.save()
    return kept


def main() -> None:
    lock = start.hold("keeper", "keeper")
    stop = threading.Event()
    for sign in (signal.SIGTERM, signal.SIGINT):
        # What is being done can be left at any moment, and a thread of its own could not.
        signal.signal(sign, lambda *_: _end())
    began = now_ms()
    apart: dict[str, threading.Thread] = {}
    try:
        while not stop.wait(LOOK):
            for job in JOBS:
                look(job, began, apart)
            close_old_connections()
    except _Ended:
        pass
    finally:
        lock.close()


class _Ended(BaseException):
    """It is told to stop."""


def _end() -> None:
    raise _Ended


def look(job: Job, began: int, apart: dict[str, threading.Thread]) -> None:
    """Do a job if it is due. What takes long is done in a thread of its own, which ends with the process; `apart` knows them."""
    running = apart.get(job.name)
    if running is not None and running.is_alive():
        return
    try:
        if not due(job, began, now_ms()):
            return
        if job.apart:
            apart[job.name] = threading.Thread(target=_do_apart, args=(job,), name=job.name, daemon=True)
            apart[job.name].start()
        else:
            do(job)
    except DatabaseError as error:
        log.warning("database trouble, trying again: %s", error)


def _do_apart(job: Job) -> None:
    try:
        do(job)
    except DatabaseError as error:
        log.warning("database trouble, trying again: %s", error)
    finally:
        connection.close()
