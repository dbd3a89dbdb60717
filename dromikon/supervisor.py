"""Keeps the parts of an installation running until told to stop; then stops them in order."""

import os
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field

from dromikon import start

#: A part that ran shorter than this before it fell is given a pause before its next start, in seconds.
SHORT_LIFE, PAUSE = 5.0, 2.0
#: Within so many seconds everything has stopped; what has not by then is ended.
STOPS_WITHIN = 8.0
#: Arrays are worked on by one core, and the others are free for whoever looks.
ENVIRONMENT = {"OPENBLAS_NUM_THREADS": "1"}

Say = Callable[[str], None]


@dataclass
class Part:
    """One process, by the verb that starts it, and when it was last started."""

    name: str
    process: subprocess.Popen[bytes] | None = None
    started: float = 0.0
    falls: int = field(default=0)

    def start(self) -> None:
        # A session of its own, so that Ctrl-C reaches only the supervisor, which then stops the parts in order.
        command = [sys.executable, "-m", "dromikon", self.name]
        self.process = subprocess.Popen(command, start_new_session=True, env=ENVIRONMENT | os.environ)
        self.started = time.monotonic()

    def stop(self) -> None:
        if self.process and self.process.poll() is None:
            self.process.terminate()

    def wait(self, seconds: float) -> None:
        """Wait for its end; end it when that does not come in time."""
        if self.process:
            try:
                self.process.wait(max(0.1, seconds))
            except subprocess.TimeoutExpired:
                self.process.kill()

    @property
    def exit_code(self) -> int | None:
        """With what it ended; None while it runs, or has not been started."""
        return self.process.poll() if self.process else None

    @property
    def started_once(self) -> bool:
        return self.process is not None


@contextmanager
def told_to_stop() -> Iterator[threading.Event]:
    """An event that is set by Ctrl-C or SIGTERM. What blocks meanwhile goes on undisturbed."""
    stop = threading.Event()
    before = {sign: signal.signal(sign, lambda *_: stop.set()) for sign in (signal.SIGINT, signal.SIGTERM)}
    try:
        yield stop
    finally:
        for sign, handler in before.items():
            signal.signal(sign, handler)


def look_after(parts: Sequence[Part], stop: threading.Event, say: Say) -> int:
    """Start again what falls, until told to stop. Answers 0, or the code of a part that cannot work at all."""
    while not stop.wait(0.3):
        for part in parts:
            code = part.exit_code
            if code == start.NO_USE:
                say(f"!! {part.name} cannot work, for the reason above.")
                return code
            if code is not None:
                _start_again(part, code, stop, say)
    return 0


def _start_again(part: Part, code: int, stop: threading.Event, say: Say) -> None:
    part.falls += 1
    say(f"!! {part.name} fell (exit {code}, time {part.falls}); starting it again.")
    if time.monotonic() - part.started < SHORT_LIFE and stop.wait(PAUSE):
        return
    part.start()


def stop_all(parts: Sequence[Part]) -> None:
    """Stop one after the other, the last that was started first, all within `STOPS_WITHIN` seconds."""
    ends = time.monotonic() + STOPS_WITHIN
    running = [part for part in reversed(parts) if part.exit_code is None and part.started_once]
    for place, part in enumerate(running):
        part.stop()
        # Each has its share of what time is left.
        part.wait((ends - time.monotonic()) / (len(running) - place))
