"""The process beside the engine: deliverers, and lists that are kept current. Only the engine begins it."""

import asyncio
import contextlib
import logging
import os
import signal
import sys
import threading
import time
from typing import IO, Any

import django
import uvloop

from dromikon import start

log = logging.getLogger("dromikon.engine")

#: How long a thread may keep the interpreter while another wants it, in seconds: the loop and the ledger hand work to each
#: other several times for one step.
SWITCH = 0.0005
#: One that went before may see through what it is sending for so long, in seconds.
BEFORE_US = 10.0
#: For so long it may take to let go of connections when it ends, in seconds.
LINGERS = 2.0


async def deliver(pipe: int) -> None:
    """Until the pipe ends or the process is told to stop."""
    from dromikon.clock import now_ms
    from dromikon.engine.deliver import Deliverers
    from dromikon.lists.keeper import keep_current

    deliverers = Deliverers(now_ms)
    loop, stop = asyncio.get_running_loop(), asyncio.Event()

    def hear() -> None:
        if os.read(pipe, 4096):
            deliverers.wake()
        else:
            loop.remove_reader(pipe)
            stop.set()

    loop.add_reader(pipe, hear)
    for sign in (signal.SIGTERM, signal.SIGINT):
        loop.add_signal_handler(sign, stop.set)
    work: asyncio.Future[Any] = asyncio.ensure_future(asyncio.gather(deliverers.run(), keep_current()))
    ended: asyncio.Future[Any] = asyncio.ensure_future(stop.wait())
    await asyncio.wait({work, ended}, return_when=asyncio.FIRST_COMPLETED)
    work.cancel()
    ended.cancel()
    with contextlib.suppress(asyncio.CancelledError):
        await work
    # Everything is written down by now: what is still under way at some other side holds nobody up.
    at_the_latest = threading.Timer(LINGERS, os._exit, (0,))
    at_the_latest.daemon = True
    at_the_latest.start()


def after_the_last() -> IO[str]:
    """The lock of deliveries, once who had it before has ended. Raises CannotStart."""
    deadline = time.monotonic() + BEFORE_US
    while True:
        try:
            return start.hold("deliveries", "process that delivers")
        except start.CannotStart:
            if time.monotonic() > deadline:
                raise
            time.sleep(0.05)


def main() -> int:
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "dromikon.settings")
    start.prepare()
    sys.setswitchinterval(SWITCH)
    django.setup()
    lock = after_the_last()
    try:
        uvloop.run(deliver(sys.stdin.fileno()))
    finally:
        lock.close()
    return 0


if __name__ == "__main__":
    sys.exit(main())
