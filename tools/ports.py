"""Ports that nothing answers on, for servers of tests and tools.

They lie below those that the system gives to outgoing calls: a call of one's own never takes a port between its choice
and its use. Tests that run beside each other choose from ranges of their own.
"""

import os
import socket
from contextlib import closing

_FIRST, _LAST = 10_000, 32_000
_RANGE = 5_000


def _begin() -> int:
    """Where this process begins to look: runs that follow each other do not begin at the same port."""
    worker = int(os.environ.get("PYTEST_XDIST_WORKER", "gw0").removeprefix("gw"))
    return _FIRST + worker % 4 * _RANGE + os.getpid() * 7 % (_RANGE - 1_000)


_next = _begin()


def free_ports(count: int) -> list[int]:
    """So many ports in one row, free by TCP and UDP, none of which this process was given before. Raises RuntimeError."""
    global _next
    for _ in range(_FIRST, _LAST):
        row = range(_next, _next + count)
        if row.stop > _LAST:
            _next = _FIRST
            continue
        taken = [port for port in row if not _is_free(port)]
        _next = taken[-1] + 1 if taken else row.stop
        if not taken:
            return list(row)
    raise RuntimeError("no free ports")


def free_port() -> int:
    """One of them."""
    return free_ports(1)[0]


def _is_free(port: int) -> bool:
    for kind in (socket.SOCK_STREAM, socket.SOCK_DGRAM):
        with closing(socket.socket(socket.AF_INET, kind)) as probe:
            try:
                probe.bind(("127.0.0.1", port))
            except OSError:
                return False
    return True
