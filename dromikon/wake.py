"""Who has committed something wakes who works it off, by a datagram on a socket in the data folder.

Nobody depends on it: a datagram that is lost or a socket that cannot be made costs a slower look, never work. Each
process that listens has a socket of its own, named after what it listens for and its process id, so that several of a
kind are all woken and what a dead one left behind is cleared away by the next who calls.
"""

import contextlib
import os
import select
import socket
from collections.abc import Iterator
from pathlib import Path

from django.db import transaction

from dromikon import config

ENGINE, PAGES = "engine", "pages"
_MESSAGE = b"!"


class Ear:
    """Listens for wakings of a name. `fileno` may be given to an event loop."""

    def __init__(self, name: str) -> None:
        self.path = config.data() / f"{name}.{os.getpid()}.wake"
        self._socket = _socket()
        with contextlib.suppress(FileNotFoundError):
            self.path.unlink()
        with _short(self.path) as short:
            self._socket.bind(short)
        self.path.chmod(0o600)

    def fileno(self) -> int:
        return self._socket.fileno()

    def wait(self, seconds: float) -> bool:
        """Sleep until woken, or for so long. Whether somebody woke."""
        woken = bool(select.select([self._socket], [], [], seconds)[0])
        if woken:
            self.drain()
        return woken

    def drain(self) -> None:
        """Several wakings are one."""
        with contextlib.suppress(BlockingIOError):
            while self._socket.recv(16):
                pass

    def close(self) -> None:
        self._socket.close()
        self.path.unlink(missing_ok=True)


def wake(name: str) -> None:
    """Wake whoever listens for a name. Never fails and never waits."""
    with _socket() as caller:
        for path in config.data().glob(f"{name}.*.wake"):
            try:
                with _short(path) as short:
                    caller.sendto(_MESSAGE, short)
            except ConnectionRefusedError:
                path.unlink(missing_ok=True)
            except OSError:
                # Full: it is being woken anyhow. Gone: nobody to wake.
                continue


def wake_on_commit(name: str) -> None:
    """Wake once the running transaction is committed; at once when there is none."""
    transaction.on_commit(lambda: wake(name), robust=True)


def _socket() -> socket.socket:
    made = socket.socket(socket.AF_UNIX, socket.SOCK_DGRAM)
    made.setblocking(False)
    return made


@contextlib.contextmanager
def _short(place: Path) -> Iterator[str]:
    """A name for a socket's place that fits into the 108 bytes that a socket address has."""
    folder = os.open(place.parent, os.O_PATH | os.O_DIRECTORY)
    try:
        yield f"/proc/self/fd/{folder}/{place.name}"
    finally:
        os.close(folder)
