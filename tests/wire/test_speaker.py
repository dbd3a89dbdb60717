"""Sound to a device's speaker, heard by the stand-in; and what becomes of it when there is none, or nobody."""

import asyncio

import pytest

from dromikon.core.sound import from_mu_law, to_mu_law, tones
from dromikon.standins.onvif.camera import StandInCamera
from dromikon.standins.onvif.soap import Account
from dromikon.standins.picture.frame import Studio
from dromikon.standins.run import PASSWORD, USER
from dromikon.standins.world.world import World
from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.soap import DeviceError
from dromikon.wire.onvif.speaker import back_channel, play, speaker_address
from tools.ports import free_port


@pytest.fixture
def camera(serve, tmp_path):
    """`camera("jetty")`: its client, and what its speaker was sent."""
    heard = []

    def start(name):
        port, stream = free_port(), free_port()
        address, account = f"http://127.0.0.1:{port}", Account(USER, PASSWORD)
        made = StandInCamera(name, Studio(World(), tmp_path), address, account, stream_port=stream, heard=lambda _, s: heard.append(s))  # fmt: skip
        serve(made.app(), port)
        return OnvifDevice(f"{address}/onvif/device_service", USER, PASSWORD), heard

    return start


async def where(device):
    await device.measure_clock()
    await device.discover_services()
    return await speaker_address(device, "vs0")


async def test_a_signal_is_heard_whole_and_in_its_own_time(camera):
    device, heard = camera("jetty")
    sound = to_mu_law(tones("chime"))
    address, loop = await where(device), asyncio.get_running_loop()
    begun = loop.time()
    await play(address, USER, PASSWORD, sound)
    took = loop.time() - begun
    await device.close()
    for _ in range(50):
        if heard:
            break
        await asyncio.sleep(0.02)
    assert heard == [sound] and (from_mu_law(heard[0]) != 0).any()
    assert took >= len(sound) / 8_000 - 0.05, "no faster than it sounds"


async def test_a_device_without_a_speaker_says_so_and_a_wrong_password_is_refused(camera):
    device, heard = camera("gate")
    address = await where(device)
    with pytest.raises(DeviceError, match="no speaker") as none:
        await play(address, USER, PASSWORD, b"\xff" * 160)
    with pytest.raises(DeviceError) as wrong:
        await play(address, USER, "nothing", b"\xff" * 160)
    await device.close()
    assert (none.value.reason, wrong.value.reason, heard) == ("fault", "refused", [])


async def test_nobody_there_means_that_nothing_was_heard():
    with pytest.raises(DeviceError) as gone:
        await play(f"rtsp://127.0.0.1:{free_port()}/x", USER, PASSWORD, b"\xff" * 160)
    assert gone.value.reason == "not_begun"


@pytest.mark.parametrize(
    ("media", "control"),
    [
        ("m=audio 0 RTP/AVP 0\r\na=sendonly\r\na=control:t2\r\n", "t2"),
        ("m=audio 0 RTP/AVP 8 97\r\na=rtpmap:97 PCMU/8000/1\r\na=control:x\r\na=sendonly\r\n", "x"),
        ("m=audio 0 RTP/AVP 0\r\na=recvonly\r\na=control:t2\r\n", None),
        ("m=audio 0 RTP/AVP 8\r\na=sendonly\r\na=control:t2\r\n", None),
        ("m=video 0 RTP/AVP 96\r\na=sendonly\r\na=control:t2\r\n", None),
    ],
)
def test_the_back_channel_is_the_one_that_takes_what_is_sent(media, control):
    assert back_channel(f"v=0\r\ns=x\r\nm=video 0 RTP/AVP 96\r\na=control:t1\r\n{media}") == control
