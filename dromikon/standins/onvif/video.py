"""A camera's picture as H.264 in packets (RFC 6184), encoded only while somebody looks on."""

from collections.abc import Iterator
from fractions import Fraction

import av
import numpy as np
from PIL import Image

#: Pictures a second, and how many of them until one that stands by itself comes again.
RATE, APART = 5, 10
PAYLOAD, CLOCK = 96, 90_000
#: No packet carries more.
LONGEST = 1400
#: What is described of it (RFC 6184, 8.2.1): larger units come in fragments.
DESCRIBED = (
    f"m=video 0 RTP/AVP {PAYLOAD}\r\na=rtpmap:{PAYLOAD} H264/{CLOCK}\r\na=fmtp:{PAYLOAD} packetization-mode=1\r\n"
    "a=recvonly\r\na=control:video\r\n"
)
#: The type of a fragment (FU-A).
FRAGMENT = 28


class Encoder:
    """For one onlooker."""

    def __init__(self, width: int, height: int) -> None:
        codec = av.CodecContext.create("libx264", "w")
        assert isinstance(codec, av.VideoCodecContext)
        codec.width, codec.height, codec.pix_fmt = width, height, "yuv420p"
        codec.framerate, codec.gop_size = Fraction(RATE), APART
        codec.options = {"preset": "ultrafast", "tune": "zerolatency", "x264-params": "repeat-headers=1"}
        self._codec, self._count = codec, 0

    def units(self, picture: Image.Image) -> list[bytes]:
        """The units of a picture, without their start codes."""
        frame = av.VideoFrame.from_ndarray(np.asarray(picture.convert("RGB")), format="rgb24")
        frame.pts, self._count = self._count, self._count + 1
        return [unit for packet in self._codec.encode(frame) for unit in units_of(bytes(packet))]


def units_of(stream: bytes) -> list[bytes]:
    """The units of a byte stream (H.264, annex B): what lies between its start codes."""
    parts = stream.replace(b"\x00\x00\x00\x01", b"\x00\x00\x01").split(b"\x00\x00\x01")
    return [part for part in parts if part]


def payloads(units: list[bytes]) -> Iterator[tuple[bytes, bool]]:
    """What packets carry, and whether it is the end of the picture (RFC 6184, 5.6 and 5.8)."""
    for place, unit in enumerate(units):
        last = place == len(units) - 1
        if len(unit) <= LONGEST:
            yield unit, last
            continue
        head, body = unit[0], unit[1:]
        for start in range(0, len(body), LONGEST - 2):
            part = body[start : start + LONGEST - 2]
            ends = start + LONGEST - 2 >= len(body)
            marks = (0x80 if start == 0 else 0) | (0x40 if ends else 0) | (head & 0x1F)
            yield bytes([(head & 0xE0) | FRAGMENT, marks]) + part, last and ends
