"""A rehearsal told line by line while it goes on (application/x-ndjson), that ends when nobody listens any more.

Lines are ``{"progress": 0.4}``, and at last ``{"report": …}`` or ``{"problems": […]}``.
"""

import asyncio
import json
import threading
from collections.abc import AsyncIterator, Callable
from typing import Any, Protocol

from asgiref.sync import sync_to_async
from django.db import connection

from dromikon.authoring.rehearsal import Progress, Report, report_json
from dromikon.refusals import Refused

LINES_TYPE = "application/x-ndjson"

Line = dict[str, Any]


class Left(Exception):
    """Nobody waits for it any more."""


class Rehearsing(Protocol):
    """A rehearsal that only wants to know whom to tell its progress. Raises Refused."""

    def __call__(self, *, progress: Progress) -> Report: ...


async def lines(rehearsing: Rehearsing) -> AsyncIterator[str]:
    """The lines, as they come. Closing the iterator ends the rehearsal."""
    loop = asyncio.get_running_loop()
    told: asyncio.Queue[Line] = asyncio.Queue()
    left = threading.Event()

    def tell(line: Line) -> None:
        if left.is_set():
            raise Left
        loop.call_soon_threadsafe(told.put_nowait, line)

    work = asyncio.create_task(sync_to_async(_work, thread_sensitive=False)(rehearsing, tell))
    try:
        while True:
            line = await told.get()
            yield json.dumps(line) + "\n"
            if "progress" not in line:
                break
    finally:
        left.set()
        await asyncio.gather(work, return_exceptions=True)


def _work(rehearsing: Rehearsing, tell: Callable[[Line], None]) -> None:
    try:
        report = rehearsing(progress=lambda share: tell({"progress": share}))
        tell({"report": report_json(report)})
    except Refused as refused:
        tell({"problems": [p.model_dump() for p in refused.problems]})
    except Left:
        return
    except Exception:
        tell({"problems": [{"path": "", "message": "The rehearsal failed; the log says why."}]})
        raise
    finally:
        connection.close()
