"""What one frame of a stand-in camera costs, once its scenery is lit."""

import time
from collections.abc import Iterator

from bench.report import Result, percentile
from dromikon.standins.picture.frame import Studio
from dromikon.standins.world.scenes import CAMERAS
from dromikon.standins.world.world import World

FRAMES = 80


def measure() -> Iterator[Result]:
    studio, now = Studio(World()), time.time_ns() // 1_000_000
    for camera in CAMERAS:
        studio.jpeg(camera, now)
        times = []
        for i in range(FRAMES):
            began = time.perf_counter()
            studio.jpeg(camera, now + i * 125)
            times.append((time.perf_counter() - began) * 1000)
        yield Result(f"a frame of {camera}, 90th of {FRAMES}", percentile(times, 0.9), 20, "ms")
