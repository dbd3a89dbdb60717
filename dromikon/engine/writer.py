"""Who writes next in this process: the engine's turns and the deliverers take turns instead of waiting for the database's
own lock, which is asked for again and again with growing pauses."""

import threading
from collections.abc import Iterator
from contextlib import contextmanager


class Writer:
    """A lock that knows whether somebody waits for it."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self.waiting = 0

    @contextmanager
    def turn(self) -> Iterator[None]:
        """Hold the writer for one transaction."""
        self.waiting += 1
        with self._lock:
            self.waiting -= 1
            yield


WRITER = Writer()
