"""Effect: a script of the scripts folder (DROMIKON_SCRIPTS) is run, one of a name at a time."""

import asyncio
import contextlib
import json
import os
import signal
from pathlib import Path

from dromikon import config, scripts
from dromikon.core.instants import Instant
from dromikon.core.rules.outcome import StepOrder
from dromikon.daybook.models import Step
from dromikon.engine.effects.base import OutsideEffect, Sent

#: A script may take so many seconds, and say so many bytes.
LIMIT, LONGEST = 10.0, 500
#: How long its last words are waited for once it has ended, in seconds.
LINGER = 1.0
#: All that it finds in its environment.
ENVIRONMENT = {"PATH": "/usr/bin:/bin", "LANG": "C.UTF-8"}


class ScriptEffect(OutsideEffect):
    def lane(self, order: StepOrder, now: Instant) -> str:
        return order.target

    async def deliver(self, step: Step) -> Sent:
        folder, name = config.scripts(), step.target.removeprefix("script:")
        path = scripts.find(name)
        if path is None:
            where = f"{folder} has no script that may be run and" if folder else "No scripts folder (DROMIKON_SCRIPTS)"
            return Sent("failed", f"{where} is called {name}." if folder else f"{where} is set up.")
        try:
            return await _run(path, json.dumps({"run": step.run, **step.payload}).encode())
        except OSError as error:
            return Sent("failed", f"It cannot be run: {error.strerror}.")


async def _run(path: Path, content: bytes) -> Sent:
    pipe = asyncio.subprocess.PIPE
    process = await asyncio.create_subprocess_exec(
        path, stdin=pipe, stdout=pipe, stderr=pipe, env=ENVIRONMENT, cwd=path.parent, start_new_session=True
    )
    assert process.stdin and process.stdout and process.stderr
    tails = [asyncio.create_task(_tail(stream)) for stream in (process.stdout, process.stderr)]
    ended = True
    try:
        await asyncio.wait_for(_talk(process, process.stdin, content), LIMIT)
    except TimeoutError:
        ended = False
    finally:
        # Whatever it began ends with it.
        with contextlib.suppress(ProcessLookupError):
            os.killpg(process.pid, signal.SIGKILL)
    # What has left the group may hold the pipes open; nobody waits for it.
    done, left = await asyncio.wait(tails, timeout=LINGER)
    for task in left:
        task.cancel()
    if not ended:
        return Sent("unconfirmed", f"It was ended after {LIMIT:g} s.")
    said, wrong = (_last_line(task.result()) if task in done else "" for task in tails)
    if process.returncode:
        return Sent("failed", f"It ended with {process.returncode}. {wrong}".strip())
    return Sent("done", said or "It ended well.")


async def _talk(process: asyncio.subprocess.Process, stdin: asyncio.StreamWriter, content: bytes) -> None:
    """Give it its input, and wait until it is over."""
    with contextlib.suppress(ConnectionError):
        stdin.write(content)
        await stdin.drain()
    stdin.close()
    await process.wait()


async def _tail(stream: asyncio.StreamReader) -> bytes:
    """The end of what comes, however much it is."""
    kept = b""
    while chunk := await stream.read(65_536):
        kept = (kept + chunk)[-4 * LONGEST :]
    return kept


def _last_line(said: bytes) -> str:
    return said.decode("utf-8", "replace").strip().rpartition("\n")[2][-LONGEST:]
