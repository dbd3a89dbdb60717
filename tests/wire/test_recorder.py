"""The picture interface, answered by the stand-in recorder over HTTP."""

import io
import time

import av
import pytest
from PIL import Image

from dromikon.standins.run import RECORDER_TOKEN
from dromikon.wire.pictures import HEADER, HttpRecorder, PicturesUnavailable


@pytest.fixture
async def recorder(standins):
    found = HttpRecorder(standins["recorder"], RECORDER_TOKEN)
    yield found
    await found.close()


def ago(seconds):
    return time.time_ns() // 1_000_000 - seconds * 1000


async def test_a_picture_of_any_past_moment_is_always_the_same(recorder):
    at = ago(86_400)
    first, second = await recorder.picture("jetty", at, 480), await recorder.picture("jetty", at, 480)
    assert first == second
    assert Image.open(io.BytesIO(first)).size == (480, 270)
    assert await recorder.picture("jetty", at + 5_000, 480) != first


async def test_frames_of_a_stretch_come_packed_in_order(recorder):
    start = ago(60)
    packed = b"".join([chunk async for chunk in recorder.frames("gate", start, start + 2_000, 8, 320)])
    moments = []
    while packed:
        at, size = HEADER.unpack_from(packed)
        assert packed[HEADER.size : HEADER.size + 3] == b"\xff\xd8\xff"
        moments.append(at - start)
        packed = packed[HEADER.size + size :]
    assert moments == [round(i * 125) for i in range(16)]


async def test_coverage_has_the_hour_in_which_the_yard_camera_was_unplugged(recorder):
    stretches = await recorder.coverage("yard", ago(8 * 86_400), ago(60))
    assert len(stretches) >= 2
    gaps = [b.start - a.end for a, b in zip(stretches, stretches[1:], strict=False)]
    assert 3_600_000 in gaps
    with pytest.raises(PicturesUnavailable, match="no recording"):
        await recorder.picture("yard", stretches[0].end + 1000, 320)


async def test_nothing_is_recorded_of_the_future(recorder):
    assert await recorder.coverage("gate", ago(-60), ago(-120)) == []
    with pytest.raises(PicturesUnavailable):
        await recorder.picture("gate", ago(-60), 320)


async def test_a_clip_is_a_film_of_its_length(recorder):
    start = ago(120)
    clip = b"".join([chunk async for chunk in recorder.export("gate", start, start + 3_000)])
    with av.open(io.BytesIO(clip)) as film:
        assert film.format.name.startswith("matroska")
        assert sum(1 for _ in film.decode(video=0)) == 24


async def test_live_comes_at_its_rate(recorder):
    got, began = 0, time.monotonic()
    async for chunk in recorder.live("gate", 8, 320):
        got += chunk.count(b"\xff\xd8\xff")
        if got >= 8:
            break
    assert time.monotonic() - began < 4


async def test_asking_to_record_and_protect(recorder):
    await recorder.record("gate", ago(10), ago(-10))
    await recorder.protect("gate", ago(10), ago(0), "evidence")


@pytest.mark.parametrize("token", ["", "wrong"])
async def test_the_recorder_wants_its_token(standins, token):
    stranger = HttpRecorder(standins["recorder"], token)
    with pytest.raises(PicturesUnavailable, match="401"):
        await stranger.coverage("gate", 0, 1)
    await stranger.close()


async def test_a_recorder_that_is_not_there_is_said_so():
    gone = HttpRecorder("http://127.0.0.1:9", "x")
    with pytest.raises(PicturesUnavailable, match="cannot be reached"):
        await gone.picture("gate", 0, 320)
    await gone.close()
