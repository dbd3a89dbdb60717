"""Draws the scenery of the present and the next lights ahead of time, so that the first picture is there at once."""

import contextlib
import threading
import time
from concurrent.futures import CancelledError

from dromikon.standins.picture.frame import Studio
from dromikon.standins.world.scenes import CAMERAS

#: How far ahead, in ms: the present, then the lights that are coming.
AHEAD = (0, 900_000)
EVERY = 120.0


def keep_warm(studio: Studio) -> None:
    """In a thread of its own, until the studio is closed."""

    def work() -> None:
        while not studio.closed.wait(EVERY if studio.warm else 0):
            now = time.time_ns() // 1_000_000
            views = [studio.world.view(camera, now) for camera in CAMERAS]
            for ahead in AHEAD:
                for camera in views:
                    if studio.closed.is_set():
                        return
                    with contextlib.suppress(RuntimeError, CancelledError):
                        # The process beside is ended together with the studio.
                        studio.prepare(camera, now + ahead)
                studio.drawn.set()
            studio.warm = True

    threading.Thread(target=work, name="scenery", daemon=True).start()
