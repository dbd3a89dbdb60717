"""Ports that nothing answers on, for servers of tests and tools.

They lie below those that the system gives to outgoing calls: a call of one's own never takes a port between its choice
and its use. Processes that run beside each other have blocks of their own, each held by a lock for as long as its process
lives.
"""

import fcntl
import socket
import tempfile
from contextlib import closing
from pathlib import Path
from typing import IO

_FIRST, _LAST = 10_000, 32_000
_BLOCK = 500

#: The locks that are held, and what is left of the block that was taken last.
_held: list[IO[bytes]] = []
_left: list[int] = []


def free_ports(count: int) -> list[int]:
    """So many ports in one row, free by TCP and UDP, none of which this or another such process was given before. Raises
    RuntimeError."""
    global _left
    for _ in range((_LAST - _FIRST) // _BLOCK):
        while len(_left) >= count:
            row, rest = _left[:count], _left[count:]
            taken = [i for i, port in enumerate(row) if not _is_free(port)]
            _left = _left[taken[-1] + 1 :] if taken else rest
            if not taken:
                return row
        _left = _take_block()
    raise RuntimeError("no free ports")


def free_port() -> int:
    """One of them."""
    return free_ports(1)[0]


def _take_block() -> list[int]:
    """A block that no other process has. Raises RuntimeError."""
    for first in range(_FIRST, _LAST, _BLOCK):
        # It is held until the process ends.
        lock = Path(tempfile.gettempdir(), f"dromikon-ports-{first}").open("wb")  # noqa: SIM115
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            lock.close()
            continue
        _held.append(lock)
        return list(range(first, first + _BLOCK))
    raise RuntimeError("no free ports")


def _is_free(port: int) -> bool:
    for kind in (socket.SOCK_STREAM, socket.SOCK_DGRAM):
        with closing(socket.socket(socket.AF_INET, kind)) as probe:
            try:
                probe.bind(("127.0.0.1", port))
            except OSError:
                return False
    return True
