"""Detectors of our own: frames through twenty of them against reading the frames alone; what a month of it takes; and a new area
looked for in a week of one camera."""

import os
import tempfile
import time
from collections.abc import Iterator
from contextlib import closing

import numpy as np
from pydantic import TypeAdapter

from bench.report import Result
from dromikon.core.instants import iso
from dromikon.core.scene.chunks import pack
from dromikon.core.scene.detecting import Detecting
from dromikon.core.scene.search import hits_of
from dromikon.core.scene.sight import Sight, sight_of
from dromikon.core.scene.watching import DETECTORS, AnyDetector, Detector
from dromikon.wire.onvif.frames import frames_in

FRAMES, OBJECTS, EVERY = 3_000, 5, 100
AREA = [(0.4, 0.4), (0.6, 0.4), (0.6, 0.9), (0.4, 0.9)]
#: A week of a camera at a gate: so many passages a day, of so many pictures.
DAYS, PASSAGES, PICTURES = 7, 200, 200
#: Cameras, days, and the pictures of a minute of each.
CAMERAS, MONTH, MINUTE = 12, 30, 600
OBJECT = (
    '<tt:Object ObjectId="{k}"><tt:Appearance><tt:Shape><tt:BoundingBox left="{l:.4f}" top="{t:.4f}" right="{r:.4f}" '
    'bottom="{b:.4f}"/><tt:CenterOfGravity x="{x:.4f}" y="{y:.4f}"/></tt:Shape><tt:Class><tt:Type Likelihood="0.9">Human'
    "</tt:Type></tt:Class></tt:Appearance></tt:Object>"
)
FRAME = (
    '<?xml version="1.0" encoding="UTF-8"?><tt:MetadataStream xmlns:tt="http://www.onvif.org/ver10/schema">'
    '<tt:VideoAnalytics><tt:Frame UtcTime="{at}">{objects}</tt:Frame></tt:VideoAnalytics></tt:MetadataStream>'
)
START = 1_795_176_000_000


def measure() -> Iterator[Result]:
    yield _against_reading()
    yield _kept_for_a_month()
    yield _a_week_looked_through()


def _detectors() -> dict[str, Detector]:
    """Twenty of all kinds."""
    made: TypeAdapter[Detector] = TypeAdapter(AnyDetector)
    names = (DETECTORS.names() * 2)[:20]
    found = {}
    for i, name in enumerate(names):
        corners = (
            [(0.5, 0.9), (0.5, 0.1)]
            if DETECTORS[name].shape == "line"
            else [(x * 0.9 + 0.02 * (i % 4), y) for x, y in AREA]
        )
        found[f"d{i}"] = made.validate_python({"detects": name, "corners": corners})
    return found


def _documents() -> list[bytes]:
    rng = np.random.default_rng(54)
    places, made = rng.uniform(0.1, 0.9, (OBJECTS, 2)), []
    for i in range(FRAMES):
        places = (places + rng.normal(0, 0.004, places.shape)).clip(0.1, 0.9)
        objects = "".join(
            OBJECT.format(k=k, l=x * 2 - 1.05, t=1.4 - y * 2, r=x * 2 - 0.95, b=1 - y * 2, x=x, y=y)
            for k, (x, y) in enumerate(places)
        )
        made.append(FRAME.format(at=iso(START + i * EVERY), objects=objects).encode())
    return made


def _against_reading() -> Result:
    documents = _documents()
    # In turns, so that what else the machine does falls on both.
    pairs = [(_alone(documents), _whole(documents)) for _ in range(12)]
    alone, whole = (min(times) for times in zip(*pairs, strict=True))
    print(
        f"       {FRAMES / whole:,.0f} frames a second of {OBJECTS} objects through 20 detectors, {FRAMES / alone:,.0f} read alone"
    )
    return Result("frames through 20 detectors against reading alone", whole / alone, 1.5, "times")


def _alone(documents: list[bytes]) -> float:
    began = time.perf_counter()
    for document in documents:
        list(frames_in(document))
    return time.perf_counter() - began


def _whole(documents: list[bytes]) -> float:
    detecting = Detecting(_detectors())
    began = time.perf_counter()
    for document in documents:
        for frame in frames_in(document):
            detecting.take(sight_of(frame))
    return time.perf_counter() - began


def _walk(rng: np.random.Generator, count: int, things: int, start: int) -> list[Sight]:
    places, made = rng.uniform(0.1, 0.9, (things, 2)), []
    for i in range(count):
        places = (places + rng.normal(0, 0.003, places.shape)).clip(0.1, 0.9)
        boxes = np.column_stack((places[:, 0] - 0.03, places[:, 1] - 0.1, places[:, 0] + 0.03, places[:, 1]))
        made.append(
            Sight(
                start + i * EVERY,
                tuple(map(str, range(things))),
                ("human",) * things,
                (90.0,) * things,
                list(map(tuple, boxes.tolist())),
            )
        )
    return made


def _kept_for_a_month() -> Result:
    """Everybody moves all the time, which is the worst."""
    size = len(pack(_walk(np.random.default_rng(54), MINUTE, OBJECTS, START)))
    whole = size * 60 * 24 * MONTH * CAMERAS / 1e9
    print(f"       {size:,} bytes a minute of {MINUTE} pictures with {OBJECTS} objects")
    return Result(f"{CAMERAS} cameras for {MONTH} days, 10 pictures a second of {OBJECTS} objects", whole, 12, "GB")


def _a_week_looked_through() -> Result:
    rng = np.random.default_rng(54)
    with tempfile.TemporaryDirectory() as folder:
        os.environ["DROMIKON_DATA"] = folder
        from dromikon.scene import store

        with closing(store.connect()) as kept:
            for n in range(DAYS * PASSAGES):
                start = START + n * (86_400_000 // PASSAGES) // 60_000 * 60_000
                store.keep(kept, "gate", _walk(rng, PICTURES, 2, start))
            area: TypeAdapter[Detector] = TypeAdapter(AnyDetector)
            detector = area.validate_python({"detects": "lingering", "corners": AREA, "seconds": 5})
            began = time.perf_counter()
            found = hits_of({"": detector}, store.sights(kept, "gate", START, START + DAYS * 86_400_000))[""]
            took = time.perf_counter() - began
    print(f"       {DAYS * PASSAGES * PICTURES:,} pictures, {len(found)} hits")
    return Result("a new area looked for in a week of one camera", took, 5, "s")
