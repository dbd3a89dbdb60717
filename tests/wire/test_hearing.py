"""Sound from a microphone: what the stand-in sends, what becomes of it here, and what descriptions of streams tell."""

import asyncio
import time
from contextlib import aclosing
from itertools import islice

import av
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromikon.core.sound import RATE, a_law_as_mu_law, from_a_law, from_mu_law
from dromikon.standins.onvif.camera import StandInCamera
from dromikon.standins.onvif.soap import Account
from dromikon.standins.onvif.video import LONGEST, payloads, units_of
from dromikon.standins.picture.frame import Studio
from dromikon.standins.run import PASSWORD, USER
from dromikon.standins.world.hearing import BLOCK, COUNT, block
from dromikon.standins.world.scenes import CAMERAS
from dromikon.standins.world.world import World
from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.hearing import samples_in, sounds
from dromikon.wire.onvif.learning import learn
from dromikon.wire.onvif.soap import DeviceError
from dromikon.wire.sdp import media_of
from tests.wire.test_stream import packet
from tools.ports import free_port

NOON = 1_795_176_000_000


@pytest.fixture
def camera(serve, tmp_path):
    """`camera("bell")`: its address, and that of its stream."""

    def start(name):
        port, stream = free_port(), free_port()
        address = f"http://127.0.0.1:{port}"
        made = StandInCamera(name, Studio(World(), tmp_path), address, Account(USER, PASSWORD), stream_port=stream)
        serve(made.app(), port)
        return f"{address}/onvif/device_service", f"127.0.0.1:{stream}/metadata"

    return start


async def reached(address):
    device = OnvifDevice(address, USER, PASSWORD)
    await device.measure_clock()
    await device.discover_services()
    return device


async def test_a_device_says_that_it_is_heard_and_its_sound_comes_in_time(camera):
    address, _ = camera("bell")
    device, loop = await reached(address), asyncio.get_running_loop()
    assert (await learn(device))["sounds"] == ["vs0"]
    came, begun = bytearray(), loop.time()
    async with asyncio.timeout(20), aclosing(sounds(device, "vs0")) as coming:
        async for samples in coming:
            came += samples
            if len(came) >= RATE:
                break
    await device.close()
    assert loop.time() - begun >= 0.7, "a second of sound takes about a second"
    assert np.abs(from_mu_law(bytes(came))).max() > 20, "leaves and water are never wholly still"


def test_a_client_that_is_not_ours_hears_the_stand_in(camera):
    _, stream = camera("jetty")
    with av.open(f"rtsp://{USER}:{PASSWORD}@{stream}", options={"rtsp_transport": "tcp"}, timeout=15) as heard:
        (audio,) = heard.streams.audio
        frames = list(islice(heard.decode(audio), 5))
    assert (audio.codec.name, audio.rate, audio.channels) == ("pcm_mulaw", RATE, 1)
    samples = np.concatenate([frame.to_ndarray()[0] for frame in frames])
    assert len(samples) == 5 * COUNT and np.abs(samples).max() > 20


def test_a_client_that_is_not_ours_sees_the_stand_in(camera, tmp_path):
    _, stream = camera("gate")
    with av.open(f"rtsp://{USER}:{PASSWORD}@{stream}", options={"rtsp_transport": "tcp"}, timeout=30) as seen:
        (video,) = seen.streams.video
        frames = list(islice(seen.decode(video), 3))
    assert (video.codec.name, frames[0].width, frames[0].height) == ("h264", 960, 540)
    drawn = np.asarray(Studio(World(), tmp_path).frame("gate", int(time.time() * 1000)).convert("L"), float)
    shown = frames[-1].to_ndarray(format="gray").astype(float)
    assert np.corrcoef(drawn.ravel(), shown.ravel())[0, 1] > 0.97, "it is the picture of now"


def test_large_units_come_in_fragments_that_make_them_whole():
    units = [bytes([0x67]) + b"head", bytes([0x65]) + bytes(range(256)) * 20]
    sent = list(payloads(units))
    assert [last for _, last in sent] == [False] * (len(sent) - 1) + [True]
    assert sent[0][0] == units[0] and all(len(payload) <= LONGEST for payload, _ in sent)
    first, *_, end = [payload for payload, _ in sent[1:]]
    assert first[1] & 0x80 and end[1] & 0x40
    whole = bytes([(first[0] & 0xE0) | (first[1] & 0x1F)]) + b"".join(payload[2:] for payload, _ in sent[1:])
    assert whole == units[1]
    assert units_of(b"\0\0\0\1" + units[0] + b"\0\0\1\x41x") == [units[0], b"\x41x"]


async def test_a_camera_without_a_microphone_says_so(camera):
    device = await reached(camera("gate")[0])
    assert (await learn(device))["sounds"] == []
    with pytest.raises(DeviceError, match=r"G\.711"):
        await anext(sounds(device, "vs0"))
    await device.close()


@pytest.mark.timeless
def test_a_siren_is_loud_and_ends_with_its_relay():
    world, vault = World(), CAMERAS["vault"]
    before = np.abs(block(world, vault, NOON // BLOCK)).mean()
    world.command_relay("vault", "siren-sound", True, NOON)
    during = np.abs(block(world, vault, NOON // BLOCK + 1)).mean()
    after = np.abs(block(world, vault, (NOON + 46_000) // BLOCK)).mean()
    assert during > 20 * before and after < during / 20


@pytest.mark.timeless
def test_blocks_follow_each_other_without_a_jump():
    world, vault = World(), CAMERAS["vault"]
    world.command_relay("vault", "siren-sound", True, NOON)
    made = np.concatenate([block(world, vault, NOON // BLOCK + k) for k in range(5)]).astype(int)
    steps = np.abs(np.diff(made))
    seams = steps[[COUNT * k - 1 for k in range(1, 5)]]
    assert seams.max() <= steps.max() <= 32_000 * 0.5 * 2 * np.pi * 1_000 / RATE


@pytest.mark.timeless
def test_whoever_rings_is_heard_at_the_station():
    world, bell = World(), CAMERAS["bell"]
    world.provoke("ring", NOON)
    loud = [np.abs(block(world, bell, NOON // BLOCK + k)).mean() for k in range(300)]
    quiet = np.abs(block(world, bell, (NOON - 120_000) // BLOCK)).mean()
    assert max(loud) > 5 * quiet


@pytest.mark.timeless
@given(st.binary(min_size=1, max_size=64))
def test_a_law_keeps_its_size_and_nearly_its_samples(data):
    told, ours = from_a_law(data).astype(int), from_mu_law(a_law_as_mu_law(data)).astype(int)
    assert len(ours) == len(data) and (np.abs(told - ours) <= 40 + np.abs(told) / 16).all()


@pytest.mark.timeless
def test_only_sound_of_the_medium_is_taken():
    (medium,) = media_of("v=0\r\nm=audio 0 RTP/AVP 8 97 101\r\na=rtpmap:97 PCMU/8000/1\r\na=rtpmap:101 telephone-event/8000\r\n")  # fmt: skip
    assert medium.encodings == {8: "pcma/8000", 97: "pcmu/8000", 101: "telephone-event/8000"}
    of_type = {kind: bytes([0x80, kind]) + packet(1, b"\xd5\x55")[2:] for kind in (8, 97, 101)}
    assert samples_in(of_type[97], medium) == b"\xd5\x55"
    assert samples_in(of_type[8], medium) == a_law_as_mu_law(b"\xd5\x55")
    assert samples_in(of_type[101], medium) == b""
    with pytest.raises(DeviceError, match="cannot be read"):
        samples_in(b"\x80", medium)


@pytest.mark.timeless
@given(st.text(max_size=200))
def test_no_description_breaks_its_reader(text):
    media_of(text), media_of(f"v=0\nm={text}\nm=audio {text}\na=rtpmap:{text}")
