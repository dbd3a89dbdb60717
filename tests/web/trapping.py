"""A listener for traps in a thread of its own, and what it has kept."""

import asyncio
import threading
import time

import pytest

from dromikon.intake.counting import Counts
from dromikon.intake.inbox import InboxWriter, after, connect
from dromikon.intake.traps import Traps
from tools.ports import free_port


@pytest.fixture
def port(bench):
    """Where traps are taken, by a listener in a thread of its own; what it takes goes to the engine of the test."""
    writer, found, loop = InboxWriter(bench.path), free_port(), asyncio.new_event_loop()
    task = []

    async def run():
        task.append(asyncio.current_task())
        await Traps(writer, Counts(), found, "127.0.0.1").run()

    def work():
        asyncio.set_event_loop(loop)
        try:
            loop.run_until_complete(run())
        except asyncio.CancelledError:
            # What is still counted is counted.
            loop.run_until_complete(asyncio.gather(*asyncio.all_tasks(loop), return_exceptions=True))
            loop.run_until_complete(loop.shutdown_default_executor())

    thread = threading.Thread(target=work, daemon=True)
    thread.start()
    time.sleep(0.3)
    yield found
    loop.call_soon_threadsafe(task[0].cancel)
    thread.join(5)
    writer.close()


def kept(bench, count):
    deadline = time.monotonic() + 5
    while time.monotonic() < deadline:
        found = after(connect(bench.path), 0, 5_000)
        if len(found) >= count:
            return found
        time.sleep(0.05)
    return found
