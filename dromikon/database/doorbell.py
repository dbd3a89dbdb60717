"""A doorbell between processes: whoever waits for the database's writer rings, and the engine, which would otherwise take it
again at once while it works off a backlog, hears it and lets others in.

Ringing is a shared lock on a file in the data folder, held while one waits; it ends with the process that holds it. Hearing
is trying for the exclusive one. It costs some microseconds and promises nothing: nobody's correctness rests on it.
"""

import contextlib
import fcntl
import os
from collections.abc import Iterator

from dromikon import config

_NAME = "writer.waiting"


def _open() -> int:
    return os.open(config.data() / _NAME, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)


@contextlib.contextmanager
def ring() -> Iterator[None]:
    """Say that one waits, for as long as the block lasts."""
    # A description of its own for each who rings: locks of one description are one.
    bell = _open()
    try:
        fcntl.flock(bell, fcntl.LOCK_SH)
        yield
    finally:
        os.close(bell)


def heard() -> bool:
    """Whether somebody waits just now."""
    bell = _open()
    try:
        fcntl.flock(bell, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return True
    finally:
        os.close(bell)
    return False
