"""Deliveries in a process of their own, begun and ended by the engine: sending takes nothing from evaluating.

The pipe to it is its life: a byte says that steps are committed, its end says to stop. So it ends with the engine, however
that ends.
"""

import contextlib
import logging
import os
import subprocess
import sys
import time

from dromikon import logs

log = logging.getLogger("dromikon.engine")

#: It is begun anew at the earliest after so long, in seconds.
PAUSE = 2.0
#: How long it may take to see through what it is sending, in seconds.
LAST_CALL = 5.0
COMMAND = (sys.executable, "-m", "dromikon.engine.delivering")


class Apart:
    """The engine's handle on the process that delivers."""

    def __init__(self, command: tuple[str, ...] = COMMAND) -> None:
        self.command = command
        self._process: subprocess.Popen[bytes] | None = None
        self._pipe = -1
        self._begun = 0.0

    def start(self) -> None:
        self._process = subprocess.Popen(
            self.command, stdin=subprocess.PIPE, env=os.environ | ({logs.PART: "deliveries"} if logs.part() else {})
        )
        assert self._process.stdin is not None
        self._pipe = self._process.stdin.fileno()
        os.set_blocking(self._pipe, False)
        self._begun = time.monotonic()

    def wake(self) -> None:
        """New steps are committed. A full pipe wakes anyhow, and who is gone looks at everything when begun anew."""
        with contextlib.suppress(OSError):
            os.write(self._pipe, b"!")

    def look_after(self) -> bool:
        """Whether it lives. One that fell is begun anew."""
        if self._process is not None and self._process.poll() is None:
            return True
        if time.monotonic() - self._begun > PAUSE:
            if self._process is not None:
                log.error("deliveries fell (exit %s); beginning them anew", self._process.returncode)
                self._close_pipe()
            self.start()
        return False

    def stop(self) -> None:
        """See through what is being sent, then end."""
        if self._process is None:
            return
        self._close_pipe()
        try:
            self._process.wait(LAST_CALL)
        except subprocess.TimeoutExpired:
            self._process.kill()
            self._process.wait()

    def _close_pipe(self) -> None:
        assert self._process is not None and self._process.stdin is not None
        # The number may stand for another file next.
        self._pipe = -1
        with contextlib.suppress(OSError):
            self._process.stdin.close()
