"""A flood of signed webhooks into the whole product: how much slower a page becomes, and how long a message takes until it is an
event."""

import asyncio
import json
import re
import sqlite3
import statistics
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import closing
from datetime import UTC, datetime
from pathlib import Path

import aiohttp
from standardwebhooks import Webhook

from bench.report import Result, percentile
from tools.demo_process import Demo, start_demo

SECRET = "whsec_cXVpbGxtZXJlLWdhcmRlbnMtdGlja2V0cw=="
#: Messages a second, for how long; and how often a page is asked for.
RATE, SECONDS, PAGES = 200, 20, 60
PAGE = "/s/quillmere-gardens/daybook"


def measure() -> Iterator[Result]:
    with tempfile.TemporaryDirectory() as folder:
        demo = start_demo(Path(folder) / "data")
        try:
            # The scenery of the hour is drawn in the first minute.
            time.sleep(60)
            quiet, _ = asyncio.run(_measured(demo, flood=False))
            with Watch(demo.folder) as watch:
                busy, sent = asyncio.run(_measured(demo, flood=True))
            delays = [float(watch.seen[number] - at) for number, at in sent.items() if number in watch.seen]
        finally:
            demo.stop()
    yield Result(
        f"a page of the web process while {RATE} signed webhooks a second come, against without (here {quiet * 1000:.0f} ms)",
        busy / quiet,
        1.5,
        "times",
    )
    yield Result(f"webhook to decoded event at {RATE}/s, median of {len(delays)}", percentile(delays, 0.5), 100.0, "ms")
    yield Result("webhook to decoded event, 99th", percentile(delays, 0.99), 500.0, "ms")
    yield Result("webhooks that became events", len(delays) / len(sent), 1.0, at_most=False)


async def _measured(demo: Demo, flood: bool) -> tuple[float, dict[int, int]]:
    """The median of a page's time in s, and when each message was sent (ms UTC), by its number."""
    sent: dict[int, int] = {}
    # A cookie jar for addresses, since the demo has no name.
    async with aiohttp.ClientSession(cookie_jar=aiohttp.CookieJar(unsafe=True)) as session:
        await _log_in(demo, session)
        flooding = asyncio.create_task(_flood(demo, session, sent)) if flood else None
        if flood:
            await asyncio.sleep(2)
        times = [await _page(demo, session) for _ in range(PAGES)]
        if flooding is not None:
            await flooding
    return statistics.median(times), sent


async def _log_in(demo: Demo, session: aiohttp.ClientSession) -> None:
    async with session.get(f"{demo.address}/login") as answer:
        token = re.search(r'csrfmiddlewaretoken" value="([^"]+)"', await answer.text())
    said = {"username": "ines", "password": demo.password, "csrfmiddlewaretoken": token[1] if token else ""}
    async with session.post(f"{demo.address}/login", data=said, headers={"Referer": f"{demo.address}/login"}) as answer:
        await answer.read()


async def _page(demo: Demo, session: aiohttp.ClientSession) -> float:
    await asyncio.sleep(0.2)
    began = time.perf_counter()
    async with session.get(demo.address + PAGE, allow_redirects=False) as answer:
        await answer.read()
        if answer.status != 200:
            raise RuntimeError(f"the page answered {answer.status}")
    return time.perf_counter() - began


async def _flood(demo: Demo, session: aiohttp.ClientSession, sent: dict[int, int]) -> None:
    """Messages at their rate, several on their way at a time."""
    hook, began = Webhook(SECRET), time.perf_counter()
    under_way: set[asyncio.Task[None]] = set()
    for number in range(RATE * SECONDS):
        ahead = began + number / RATE - time.perf_counter()
        if ahead > 0:
            await asyncio.sleep(ahead)
        task = asyncio.create_task(_send(demo, session, hook, number, sent))
        under_way.add(task)
        task.add_done_callback(under_way.discard)
    await asyncio.gather(*under_way)


async def _send(demo: Demo, session: aiohttp.ClientSession, hook: Webhook, number: int, sent: dict[int, int]) -> None:
    said = {"kind": "access.granted", "point": "turnstile", "phase": "pulse", "fields": {"card": f"bench-{number}"}}
    body, now = json.dumps(said), datetime.now(UTC)
    heads = {
        "webhook-id": f"msg_bench_{number}", "webhook-timestamp": str(int(now.timestamp())),
        "webhook-signature": hook.sign(f"msg_bench_{number}", now, body), "Content-Type": "application/json",
    }  # fmt: skip
    at = time.time_ns() // 1_000_000
    async with session.post(f"{demo.intake}/in/tickets", data=body, headers=heads) as answer:
        await answer.read()
        if answer.status == 202:
            sent[number] = at


class Watch:
    """Looks every few milliseconds which messages have become events, and notes when it saw them first (ms UTC)."""

    def __init__(self, folder: Path) -> None:
        self.seen: dict[int, int] = {}
        self._path, self._ended = folder / "dromikon.sqlite3", threading.Event()
        self._thread = threading.Thread(target=self._look, daemon=True)

    def __enter__(self) -> "Watch":
        self._thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        time.sleep(3)
        self._ended.set()
        self._thread.join(10)

    def _look(self) -> None:
        query = """SELECT seq, json_extract(fields, '$.card') FROM daybook_event
            WHERE seq > ? AND point = 'turnstile' AND kind = 'access.granted' ORDER BY seq"""
        with closing(sqlite3.connect(f"file:{self._path}?mode=ro", uri=True)) as connection:
            (last,) = connection.execute("SELECT max(seq) FROM daybook_event").fetchone()
            while not self._ended.wait(0.005):
                for seq, card in connection.execute(query, [last]).fetchall():
                    last = seq
                    if str(card).startswith("bench-"):
                        self.seen[int(card[6:])] = time.time_ns() // 1_000_000
