"""An operator's acknowledgement while the engine works through a backlog of 20,000 messages."""

import json
import tempfile
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from pathlib import Path

from bench.report import Result, percentile
from dromikon.intake import inbox
from dromikon.intake.inbox import Message
from tools.demo_process import Demo, start_demo

BACKLOG, ANSWERS = 20_000, 120


def crossing(i: int, at: int) -> Message:
    """One message; every hundredth raises an alarm, a minute after the one before."""
    point, cls = ("jetty-line", "human") if i % 100 == 0 else ("gate-line", "animal")
    fields = {"class": cls, "confidence": 90, "direction": "in"}
    body = {"kind": "scene.line_crossed", "point": point, "phase": "pulse", "fields": fields}
    return Message(at + i * 620, "http", "garden-gateway", "{}", json.dumps(body).encode())


def measure() -> Iterator[Result]:
    with tempfile.TemporaryDirectory() as folder:
        demo = start_demo(Path(folder) / "data")
        try:
            yield from _measure(demo, Path(folder) / "data" / "inbox.sqlite3")
        finally:
            demo.stop()


def _measure(demo: Demo, path: Path) -> Iterator[Result]:
    connection = inbox.connect(path)
    now = time.time_ns() // 1_000_000
    for group in range(0, BACKLOG, 200):
        inbox.append(connection, [crossing(i, now) for i in range(group, group + 200)])
    times, refused, during = [], 0, 0
    answered: set[str] = set()
    deadline = time.monotonic() + 180
    while len(times) < ANSWERS and time.monotonic() < deadline:
        waiting = demo.get("/api/v1/alarms?site=quillmere-gardens&state=unacknowledged&limit=20")
        assert isinstance(waiting, list)
        fresh = [a["id"] for a in waiting if a["id"] not in answered][:1]
        if not fresh:
            time.sleep(0.01)
            continue
        answered.add(fresh[0])
        began = time.perf_counter()
        refused += not _answer(demo, fresh[0])
        times.append(time.perf_counter() - began)
        during += _behind(demo)
    share = during / max(1, len(times))
    ms = percentile(times, 0.99) * 1000
    print(
        f"       acknowledgement median {percentile(times, 0.5) * 1000:.0f} ms, 90th {percentile(times, 0.9) * 1000:.0f} ms"
    )
    yield Result(f"acknowledgement during a backlog, 99th of {len(times)} ({share:.0%} while behind)", ms, 250, "ms")
    yield Result("acknowledgements refused by a locked database", refused, 0.5, "")


def _answer(demo: Demo, alarm: str) -> bool:
    request = urllib.request.Request(
        f"{demo.address}/api/v1/alarms/{alarm}/acknowledge?site=quillmere-gardens",
        json.dumps({"note": "seen"}).encode(),
        {"Authorization": f"Bearer {demo.token}", "Content-Type": "application/json"},
    )
    try:
        return bool(urllib.request.urlopen(request, timeout=20).status == 200)
    except urllib.error.HTTPError:
        return False


def _behind(demo: Demo) -> bool:
    """Whether the engine still has a backlog."""
    position = inbox.sqlite3.connect(demo.folder / "dromikon.sqlite3", timeout=5)
    try:
        done = position.execute("SELECT inbox FROM daybook_engineposition").fetchone()[0]
    finally:
        position.close()
    last = inbox.connect(demo.folder / "inbox.sqlite3").execute("SELECT MAX(id) FROM message").fetchone()[0]
    return bool(last - done > 50)
