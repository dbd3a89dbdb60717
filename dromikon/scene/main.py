"""The process that watches the cameras, until it is told to stop."""

import asyncio
import contextlib
import signal

from dromikon import config, start
from dromikon.intake.inbox import InboxWriter
from dromikon.scene.eyes import Eyes
from dromikon.scene.standing import Standings


def main() -> None:
    lock = start.hold("scene", "watcher of cameras")
    inbox = InboxWriter(config.inbox_path())
    try:
        asyncio.run(_watch(inbox))
    finally:
        inbox.close()
        lock.close()


async def _watch(inbox: InboxWriter) -> None:
    task = asyncio.gather(Eyes(inbox).run(), Standings().run())
    for sign in (signal.SIGTERM, signal.SIGINT):
        asyncio.get_running_loop().add_signal_handler(sign, task.cancel)
    with contextlib.suppress(asyncio.CancelledError):
        await task
