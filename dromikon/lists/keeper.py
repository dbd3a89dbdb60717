"""Lists kept current from a CSV at an address or in a folder.

A fetch that fails changes nothing but says so; the list stays as it was and is called stale after a while.
"""

import asyncio
import contextlib
import logging
from pathlib import Path

import httpx
from asgiref.sync import sync_to_async
from django.db import OperationalError

from dromikon import config
from dromikon.clock import now_ms
from dromikon.core.lists.table import LARGEST
from dromikon.lists.models import WatchList
from dromikon.lists.services import read_csv, store
from dromikon.refusals import Refused
from dromikon.wire.outgoing import NotAllowed, client

log = logging.getLogger("dromikon.lists")

#: How often is looked whether a list is due, in seconds.
LOOK = 5.0


class NotFetched(Exception):
    """The source gave nothing usable; the message says why."""


async def keep_current() -> None:
    """Until cancelled."""
    while True:
        await look_after()
        await asyncio.sleep(LOOK)


async def look_after() -> None:
    """Refresh what is due. Deliveries go on beside this, so whatever fails here ends here."""
    try:
        lists = await sync_to_async(due)(now_ms())
    except OperationalError as error:
        log.warning("lists cannot be looked after just now: %s", error)
        return
    for known in lists:
        try:
            await refresh(known)
        except OperationalError as error:
            log.warning("list %s cannot be refreshed just now: %s", known.pk, error)
        except Exception:
            # One that was deleted while it was fetched, for one. It is not tried again before its time, and never
            # holds up the lists after it.
            log.exception("list %s could not be refreshed", known.pk)
            await _give_up(known)


def due(now: int) -> list[WatchList]:
    """The lists whose source is to be looked at."""
    kept = WatchList.objects.exclude(source="").select_related("site")
    return [w for w in kept if w.tried_at is None or now - w.tried_at >= w.every * 1000]


async def refresh(known: WatchList) -> bool:
    """Fetch a list anew. Returns whether it has changed; trouble is written down with the list."""
    try:
        table = await _fetch(known.source)
        entries = read_csv(table, known.columns or None)
    except (NotFetched, Refused) as error:
        await WatchList.objects.filter(pk=known.pk).aupdate(tried_at=now_ms(), trouble=str(error)[:1000])
        return False
    changed = await sync_to_async(store)(known, entries, None)
    at = now_ms()
    await WatchList.objects.filter(pk=known.pk).aupdate(tried_at=at, good_at=at, trouble="")
    return changed


async def _give_up(known: WatchList) -> None:
    trouble = "It could not be read; the engine's log says why."
    with contextlib.suppress(OperationalError):
        await WatchList.objects.filter(pk=known.pk).aupdate(tried_at=now_ms(), trouble=trouble)


async def _fetch(source: str) -> bytes:
    if not source.startswith(("http://", "https://")):
        return await asyncio.to_thread(_read, folder() / Path(source).name)
    try:
        async with (
            client(timeout=20) as caller,
            caller.stream("GET", source) as answer,
        ):
            if answer.status_code != 200:
                raise NotFetched(f"The address answered HTTP {answer.status_code}.")
            content = b""
            async for chunk in answer.aiter_bytes():
                content += chunk
                if len(content) > LARGEST:
                    raise NotFetched(f"The table is larger than {LARGEST // 1_000_000} MB.")
            return content
    except NotAllowed as error:
        raise NotFetched(str(error)) from error
    except (httpx.HTTPError, httpx.InvalidURL) as error:
        raise NotFetched(f"The address cannot be reached: {error or type(error).__name__}") from error


def folder() -> Path:
    """Where tables for lists are put (`lists` in the data folder)."""
    return config.data() / "lists"


def _read(path: Path) -> bytes:
    try:
        if path.is_symlink() or path.stat().st_size > LARGEST:
            raise NotFetched("The file is a link, or too large.")
        return path.read_bytes()
    except OSError as error:
        raise NotFetched(f"The file cannot be read: {error.strerror}.") from error
