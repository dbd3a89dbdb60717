"""How far back recordings really go: recorders are asked every hour."""

import asyncio
from collections import defaultdict

from asgiref.sync import async_to_sync

from dromikon.clock import now_ms
from dromikon.core.devices.reach import Reach, reach_of
from dromikon.secrets import SealBroken
from dromikon.sources.models import Point, Recorder
from dromikon.wire.pictures import HttpRecorder, PicturesUnavailable

HOUR, DAY = 3_600_000, 86_400_000
#: Older recordings are not asked for.
FARTHEST = 400 * DAY
#: So many channels of a recorder are asked at a time.
AT_ONCE = 4


def recordings_every() -> int:
    return HOUR


def look_at_recordings() -> str:
    """Ask each recorder for each of its cameras. One that does not answer leaves what is known as it is."""
    by_recorder: dict[Recorder, list[Point]] = defaultdict(list)
    for camera in Point.objects.filter(recorder__retired_at=None, retired_at=None).select_related("recorder"):
        if camera.recorder is not None:
            by_recorder[camera.recorder].append(camera)
    now, asked, silent = now_ms(), 0, []
    for recorder, cameras in by_recorder.items():
        found = _ask(recorder, [c.recorder_channel for c in cameras], now)
        for camera in cameras:
            reach = found.get(camera.recorder_channel)
            if reach is not None:
                asked += 1
                Point.objects.filter(pk=camera.pk).update(
                    recorded=reach.sort, recorded_since=reach.since, recorded_at=now
                )
        if not found:
            silent.append(recorder.name)
    if silent:
        raise RuntimeError(f"{', '.join(silent)} did not say what is recorded.")
    return f"{asked} cameras."


def _ask(recorder: Recorder, channels: list[str], now: int) -> dict[str, Reach]:
    async def ask() -> dict[str, Reach]:
        client, gate, found = HttpRecorder(recorder.address, recorder.token), asyncio.Semaphore(AT_ONCE), {}

        async def one(channel: str) -> None:
            async with gate:
                stretches = await client.coverage(channel, now - FARTHEST, now)
            found[channel] = reach_of(((s.start, s.end) for s in stretches), now)

        try:
            await asyncio.gather(*map(one, channels))
        except PicturesUnavailable:
            pass
        finally:
            await client.close()
        return found

    try:
        return async_to_sync(ask)()
    except SealBroken:
        return {}
