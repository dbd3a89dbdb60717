"""Draws the scenery of the present and the next lights ahead of time, so that the first picture is there at once."""

import threading
import time

from dromikon.standins.picture.frame import Studio
from dromikon.standins.world.scenes import CAMERAS
from dromikon.standins.world.sky import light

#: How far ahead, in ms: the present, then the lights that are coming.
AHEAD = (0, 900_000)
EVERY = 120.0


def keep_warm(studio: Studio) -> None:
    """In a thread of its own, for as long as the process lives."""

    def work() -> None:
        while True:
            now = time.time_ns() // 1_000_000
            for ahead in AHEAD:
                for camera in CAMERAS:
                    studio.scenery(camera, light(now + ahead, studio.world.seed))
                    studio.depth(camera)
            time.sleep(EVERY)

    threading.Thread(target=work, name="scenery", daemon=True).start()
