"""RTP packets (RFC 3550), and documents out of them: each is as many packets as it needs, and the last one carries the marker."""

import struct
from typing import NamedTuple

#: A document is at most so long.
LONGEST = 1 << 20
_HEADER = struct.Struct(">BBHII")
VERSION = 2


class NoPacket(ValueError):
    """What came is no RTP packet."""


class Packet(NamedTuple):
    """One packet: its number among those that were sent, its marker, its type of payload, and the payload."""

    sequence: int
    marked: bool
    type: int
    payload: bytes


class Assembly:
    """Takes packets in the order in which they come. A document of which a packet is missing, or that grows too long, is left
    out: half a document would be read as a whole one."""

    def __init__(self) -> None:
        self._parts = bytearray()
        self._next: int | None = None
        self._broken = False

    def take(self, packet: bytes) -> bytes | None:
        """The document that ends with this packet, if one does. Raises NoPacket."""
        sequence, marked, _, payload = read(packet)
        if self._next is not None and sequence != self._next:
            self._broken = True
        self._next = (sequence + 1) % 65_536
        self._parts += payload
        if len(self._parts) > LONGEST:
            self._broken = True
            self._parts.clear()
        if not marked:
            return None
        whole, broken = bytes(self._parts), self._broken
        self._parts.clear()
        self._broken = False
        return None if broken or not whole else whole


def read(packet: bytes) -> Packet:
    """What a packet carries. Raises NoPacket."""
    if len(packet) < _HEADER.size:
        raise NoPacket("It is too short.")
    first, second, sequence, _, _ = _HEADER.unpack_from(packet)
    if first >> 6 != VERSION:
        raise NoPacket("It is of another version.")
    start = _HEADER.size + 4 * (first & 0x0F)
    if first & 0x10:
        if len(packet) < start + 4:
            raise NoPacket("Its extension is cut off.")
        start += 4 + 4 * int.from_bytes(packet[start + 2 : start + 4], "big")
    end = len(packet) - (packet[-1] if first & 0x20 else 0)
    if start > end:
        raise NoPacket("It is shorter than it says.")
    return Packet(sequence, bool(second & 0x80), second & 0x7F, packet[start:end])
