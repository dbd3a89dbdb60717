"""Sound to a device's speaker: the back channel of its stream (ONVIF Streaming Specification, 5.3), as RTP packets of mu-law
interleaved with the conversation."""

import asyncio
import secrets
import struct
from urllib.parse import urljoin

from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.frames import uri_of
from dromikon.wire.onvif.soap import NOBODY, DeviceError
from dromikon.wire.rtsp import PATIENCE, Conversation, conversation, kept_to
from dromikon.wire.sdp import media_of

REQUIRED = "www.onvif.org/ver20/backchannel"
#: Mu-law has a number of its own among the types of payload (RFC 3551), and so many samples are sent at a time: 20 ms.
PAYLOAD_TYPE, SAMPLES = 0, 160
RATE = 8_000


async def speaker_address(device: OnvifDevice, channel: str = "") -> str:
    """Where the stream is whose back channel leads to the speaker. Raises DeviceError."""
    profiles = await device.profiles()
    profile = next((p for p in profiles if channel and p.source == channel), None) or next(iter(profiles), None)
    if profile is None:
        raise DeviceError("fault", "The device has no profile that is streamed.")
    return await uri_of(device, profile.token)


async def play(address: str, user: str, password: str, sound: bytes) -> None:
    """Play mu-law samples, in their own time. Raises DeviceError; with reason `not_begun` where nobody answered before
    anything was heard."""
    heard = False
    try:
        async with conversation(address, user, password) as talk:
            await _begin(talk, address)
            heard = True
            await _send(talk, sound)
            # It is known that it arrived once the device answers.
            await talk.ask("TEARDOWN", address)
    except DeviceError as error:
        if not heard and error.reason in NOBODY:
            raise DeviceError("not_begun", str(error)) from error
        raise


async def _begin(talk: Conversation, address: str) -> None:
    described = await talk.ask("DESCRIBE", address, Accept="application/sdp", Require=REQUIRED)
    base = described.headers.get("content-base") or described.headers.get("content-location") or address
    control = back_channel(described.body.decode("utf-8", "replace"))
    if control is None:
        raise DeviceError("fault", "The device has no speaker that takes this sound.")
    medium = kept_to(address, urljoin(base if base.endswith("/") else f"{base}/", control))
    made = await talk.ask("SETUP", medium, Transport="RTP/AVP/TCP;unicast;interleaved=0-1", Require=REQUIRED)
    talk.keep_session(made)
    await talk.ask("PLAY", kept_to(address, base), Require=REQUIRED)


async def _send(talk: Conversation, sound: bytes) -> None:
    sequence, stamp, source = secrets.randbits(16), secrets.randbits(32), secrets.randbits(32)
    loop = asyncio.get_running_loop()
    begun = loop.time()
    for n, start in enumerate(range(0, len(sound), SAMPLES)):
        head = struct.pack(
            ">BBHII", 0x80, PAYLOAD_TYPE | (0x80 if n == 0 else 0), (sequence + n) & 0xFFFF,
            (stamp + start) & 0xFFFFFFFF, source,
        )  # fmt: skip
        packet = head + sound[start : start + SAMPLES]
        await talk.stream.write(struct.pack(">BBH", ord("$"), 0, len(packet)) + packet, PATIENCE)
        await asyncio.sleep(max(0.0, begun + (start + SAMPLES) / RATE - loop.time()))


def back_channel(description: str) -> str | None:
    """Where the medium is asked for that sound is sent to, from a session's description; None when there is none that takes
    mu-law."""
    media = (m for m in media_of(description) if m.sort == "audio" and m.direction == "sendonly")
    return next((m.control for m in media if m.carries("pcmu/8000")), None)
