"""The archive: how soon the first picture of one and of nine cameras is there, and a clip of a minute in a case, each against the recorder
alone."""

import struct
import tempfile
import time
import urllib.request
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path
from urllib.parse import urlencode, urlsplit

from bench.report import Result
from dromikon.standins.run import RECORDER_TOKEN
from tools.browser import log_in, open_browser
from tools.demo_process import Demo, start_demo

SITE = "quillmere-gardens"
NINE = "jetty,gate,lake,service,vault,palm,palms,lodge,pump"
#: To us each picture has the number of its camera besides.
OURS, RECORDERS = struct.Struct(">BQI"), struct.Struct(">QI")
TURNS, SECOND = 7, 1_000


def measure() -> Iterator[Result]:
    with tempfile.TemporaryDirectory() as folder:
        demo = start_demo(Path(folder) / "data")
        browser = open_browser()
        try:
            log_in(browser, demo.address, "dara", demo.password)
            session = browser.get_cookie("sessionid")["value"]
            # The stand-ins draw the scenery of the hour in the first minute.
            time.sleep(60)
            yield from _first_pictures(demo, session)
            yield _clip(demo)
        finally:
            browser.quit()
            demo.stop()


def _first_pictures(demo: Demo, session: str) -> Iterator[Result]:
    at = int(time.time() * SECOND) - 60 * SECOND
    for cameras in ("jetty", NINE):
        names = cameras.split(",")
        pairs = []
        for turn in range(TURNS):
            start = at - turn * 2 * SECOND
            span = {"start": start, "end": start + SECOND, "rate": 10, "width": 480}
            ours = f"{demo.address}/s/{SITE}/stretch?{urlencode({'cameras': cameras, **span})}"
            alone = [f"{_recorder(demo)}/channels/{name}/frames?{urlencode(span)}" for name in names]
            bare = partial(_one_after_the_other, alone)
            mine = partial(_first, ours, OURS, {"Cookie": f"sessionid={session}"}, len(names))
            # What was drawn once is drawn quicker: both ask twice, and the second time counts.
            bare()
            mine()
            pairs.append((_timed(bare), _timed(mine)))
        alone_took, ours_took = (min(times) for times in zip(*pairs, strict=True))
        what = f"first picture of {len(names)} at once ({ours_took * 1000:.0f} ms), against the recorder asked for one after the other"
        yield Result(what, ours_took / alone_took, 3.0, "times")


def _clip(demo: Demo) -> Result:
    """A minute of one camera, from being asked for until it lies in a case."""
    end = int(time.time() * SECOND) - 120 * SECOND
    start = end - 60 * SECOND
    began = time.perf_counter()
    url = f"{_recorder(demo)}/channels/lodge/export?{urlencode({'start': start, 'end': end})}"
    request = urllib.request.Request(url, headers={"Authorization": f"Bearer {RECORDER_TOKEN}"})
    urllib.request.urlopen(request, timeout=300).read()
    alone = time.perf_counter() - began
    case = demo.call("POST", f"/api/v1/cases?site={SITE}", {"title": "Measured"})["id"]
    began = time.perf_counter()
    demo.post(
        f"/api/v1/cases/{case}/pieces?site={SITE}", {"add": "clip", "cameras": "lodge", "start": start, "end": end}
    )
    while demo.get(f"/api/v1/cases/{case}?site={SITE}")["pieces"][0]["state"] == "waiting":
        time.sleep(0.1)
    took = time.perf_counter() - began
    return Result(
        f"a minute's clip in a case ({took:.1f} s), against the recorder encoding alone", took / alone, 1.5, "times"
    )


def _recorder(demo: Demo) -> str:
    """The stand-in recorder answers beside the Provoke page."""
    found = urlsplit(demo.control)
    return f"http://{found.hostname}:{(found.port or 0) + 1}"


def _one_after_the_other(urls: list[str]) -> None:
    for url in urls:
        _first(url, RECORDERS, {"Authorization": f"Bearer {RECORDER_TOKEN}"})


def _first(url: str, head: struct.Struct, headers: dict[str, str], pictures: int = 1) -> None:
    """Read until so many pictures are whole."""
    with urllib.request.urlopen(urllib.request.Request(url, headers=headers), timeout=60) as answer:
        for _ in range(pictures):
            size = head.unpack(_exactly(answer.read, head.size))[-1]
            _exactly(answer.read, size)


def _exactly(read: Callable[[int], bytes], size: int) -> bytes:
    data = b""
    while len(data) < size:
        more = read(size - len(data))
        if not more:
            raise RuntimeError("the stream ended before its first picture was whole")
        data += more
    return data


def _timed(do: Callable[[], object]) -> float:
    began = time.perf_counter()
    do()
    return time.perf_counter() - began
