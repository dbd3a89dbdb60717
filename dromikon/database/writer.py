"""Who writes next: the engine's turns and the deliveries stand in line for the writer, each in a process of its own.

SQLite itself has no line: whoever finds it locked asks again and again, with growing pauses. The line is a lock on a file
of the data folder, which the kernel hands on; it ends with the process that holds it. It decides about order only: what
keeps transactions apart is the database's own lock.
"""

import contextlib
import fcntl
import os
from collections.abc import Iterator

from dromikon import config
from dromikon.database import doorbell

_NAME = "writer.turn"


@contextlib.contextmanager
def turn() -> Iterator[None]:
    """Hold the writer for one transaction. Who has to wait for it rings meanwhile."""
    with contextlib.ExitStack() as held:
        # Without a line one writes all the same.
        with contextlib.suppress(OSError):
            place = os.open(config.data() / _NAME, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
            held.callback(os.close, place)
            _take(place)
        yield


def _take(place: int) -> None:
    try:
        fcntl.flock(place, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        with doorbell.ring():
            fcntl.flock(place, fcntl.LOCK_EX)
