"""Sound from a device's microphone: the audio of its stream (ONVIF Streaming Specification), which every device that has any
can send as telephones do (G.711)."""

from collections.abc import AsyncGenerator
from contextlib import aclosing

from dromikon.core.sound import a_law_as_mu_law
from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.frames import uri_of
from dromikon.wire.onvif.soap import DeviceError
from dromikon.wire.rtp import NoPacket, read
from dromikon.wire.rtsp import Conversation, conversation, unreadable
from dromikon.wire.sdp import Medium

#: What is understood, as descriptions name it.
MU_LAW, A_LAW = "pcmu/8000", "pcma/8000"
#: How a profile says that its sound is of that sort (tt:AudioEncoding).
ENCODING = "G711"


async def sounds(device: OnvifDevice, channel: str) -> AsyncGenerator[bytes]:
    """What is heard at a channel (a video source's token), as it comes: mu-law, 8,000 samples a second. Raises
    DeviceError."""
    address = await sound_address(device, channel)
    async with conversation(address, device.soap.user, device.soap.password) as talk:
        medium = await _begin(talk, address)
        async with aclosing(talk.packets()) as coming:
            async for packet in coming:
                heard = samples_in(packet, medium)
                if heard:
                    yield heard


async def sound_address(device: OnvifDevice, channel: str) -> str:
    """Where the stream is that carries the sound of a channel. Raises DeviceError when none does."""
    heard = [p for p in await device.profiles() if p.sound == ENCODING and channel in (p.source, "")]
    if not heard:
        raise DeviceError("fault", "No profile of the device carries its sound as telephones do (G.711).")
    return await uri_of(device, heard[0].token)


async def _begin(talk: Conversation, address: str) -> Medium:
    """Mu-law where there is any, else A-law. Raises DeviceError."""
    try:
        return await talk.begin(address, MU_LAW)
    except DeviceError as error:
        if error.reason != "fault":
            raise
    return await talk.begin(address, A_LAW)


def samples_in(packet: bytes, medium: Medium) -> bytes:
    """The mu-law samples of a packet; none of another encoding, such as tones of keys. Raises DeviceError."""
    try:
        told = read(packet)
    except NoPacket as error:
        raise unreadable(error) from error
    encoding = medium.encodings.get(told.type)
    if encoding == A_LAW:
        return a_law_as_mu_law(told.payload)
    return told.payload if encoding == MU_LAW else b""
