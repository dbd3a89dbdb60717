"""Pictures through the pages: one, a stretch, several live at once, a clip; and plain words when there is none."""

import asyncio
import struct

import pytest
from asgiref.sync import sync_to_async
from django.test import AsyncClient

from dromikon.clock import now_ms
from dromikon.people.models import Person
from dromikon.sources.models import Recorder
from tests.conftest import GARDENS

pytestmark = [pytest.mark.django_db(transaction=True), pytest.mark.timeless]
PACK = struct.Struct(">BQI")


@pytest.fixture
async def client(garden, standins):
    await Recorder.objects.aupdate(address=standins["recorder"])
    made = AsyncClient()
    await made.aforce_login(
        await sync_to_async(Person.objects.get)(username="vera"), "django.contrib.auth.backends.ModelBackend"
    )
    return made


def unpack(data):
    """[(camera, at)] of packed frames; each must be a JPEG."""
    found = []
    while len(data) >= PACK.size:
        camera, at, size = PACK.unpack_from(data)
        if len(data) < PACK.size + size:
            break
        assert data[PACK.size : PACK.size + 3] == b"\xff\xd8\xff"
        found.append((camera, at))
        data = data[PACK.size + size :]
    return found


async def gathered(answer, until=lambda data: False):
    """What streams until it is enough; a stand-in may first have to draw the scenery of a camera."""
    data = b""
    async with asyncio.timeout(90):
        async for chunk in answer.streaming_content:
            data += chunk
            if until(data):
                break
    return data


async def test_one_picture_is_kept_by_the_browser_only_when_it_is_past(client):
    past = await client.get(f"/s/{GARDENS}/picture/gate?at={now_ms() - 60_000}&width=320")
    live = await client.get(f"/s/{GARDENS}/picture/gate?width=320")
    assert past["Content-Type"] == live["Content-Type"] == "image/jpeg"
    assert "max-age" in past["Cache-Control"] and live["Cache-Control"] == "no-store"


async def test_a_stretch_comes_in_order_with_its_moments(client):
    start = now_ms() - 60_000
    answer = await client.get(f"/s/{GARDENS}/stretch?cameras=gate&start={start}&end={start + 1000}&rate=8&width=160")
    assert unpack(await gathered(answer)) == [(0, start + round(i * 125)) for i in range(8)]


async def test_several_cameras_share_one_live_stream(client):
    answer = await client.get(f"/s/{GARDENS}/live?cameras=gate,jetty&rate=8&width=160")
    both = lambda data: {camera for camera, _ in unpack(data)[6:]} == {0, 1}
    frames = unpack(await gathered(answer, both))
    for number in (0, 1):
        moments = [at for camera, at in frames if camera == number]
        assert moments == sorted(moments)


async def test_a_camera_without_pictures_does_not_darken_the_others(client):
    answer = await client.get(f"/s/{GARDENS}/live?cameras=gate,nothing,jetty&rate=8&width=160")
    frames = unpack(await gathered(answer, lambda data: {camera for camera, _ in unpack(data)} == {0, 2}))
    assert {camera for camera, _ in frames} == {0, 2}
    assert (await client.get(f"/s/{GARDENS}/live?cameras=nothing")).status_code == 404


async def test_a_clip_is_a_download(client):
    start = now_ms() - 60_000
    answer = await client.get(f"/s/{GARDENS}/export/gate?start={start}&end={start + 1000}")
    assert answer["Content-Type"] == "video/webm" and "gate_" in answer["Content-Disposition"]
    assert (await gathered(answer))[:4] == b"\x1a\x45\xdf\xa3", "EBML, as WebM begins"


@pytest.mark.parametrize(
    "what",
    [
        "stretch?cameras=gate&start=9",
        "stretch?cameras=gate&start=9&end=9",
        f"export/gate?start=0&end={10**9}",
        "stretch?cameras=gate&start=x&end=y",
    ],
)
async def test_stretches_that_cannot_be_are_refused(client, what):
    assert (await client.get(f"/s/{GARDENS}/{what}")).status_code == 400


async def test_what_was_not_recorded_is_said_in_words(client):
    answer = await client.get(f"/s/{GARDENS}/picture/gate?at=1000000000000")
    assert answer.status_code == 404 and b"no recording" in answer.content


async def test_a_recorder_that_is_away_leaves_the_page_standing(client):
    await Recorder.objects.aupdate(address="http://127.0.0.1:9")
    assert (await client.get(f"/s/{GARDENS}/picture/gate")).status_code == 404
    coverage = await client.get(f"/api/v1/cameras/gate/coverage?site={GARDENS}&start=0&end=10")
    assert coverage.json()["stretches"] == [] and "cannot be reached" in coverage.json()["error"]
    assert (await client.get(f"/s/{GARDENS}/archive")).status_code == 200


async def test_coverage_is_told_to_the_time_axis(client):
    start = now_ms() - 600_000
    answer = await client.get(f"/api/v1/cameras/gate/coverage?site={GARDENS}&start={start}&end={start + 60_000}")
    assert answer.json() == {"stretches": [{"start": start, "end": start + 60_000}], "error": ""}
