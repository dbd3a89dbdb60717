"""The few elements of BER (ITU-T X.690) that the outside of SNMP messages is made of. Read by hand, since a thousand a second
may come; what traps tell is read by a library."""

from dromikon.core.reading import NotReadable
from dromikon.core.words import t

INTEGER, OCTETS, NULL, OID, SEQUENCE, COUNTER = 0x02, 0x04, 0x05, 0x06, 0x30, 0x41


def element(data: bytes, at: int, tag: int) -> tuple[int, int]:
    """Where the content of the element at a place begins and ends. Raises NotReadable where another or none is there."""
    if at + 1 >= len(data) or data[at] != tag:
        raise NotReadable(t("it is no SNMP message"))
    size, begins = data[at + 1], at + 2
    if size >= 0x80:
        count = size & 0x7F
        if not 0 < count <= 4:
            raise NotReadable(t("it is no SNMP message"))
        size, begins = int.from_bytes(data[begins : begins + count], "big"), begins + count
    if begins + size > len(data):
        raise NotReadable(t("it is cut off"))
    return begins, begins + size


def integer(data: bytes, at: int) -> tuple[int, int]:
    """A number, and where it ends. Raises NotReadable."""
    begins, ends = element(data, at, INTEGER)
    return int.from_bytes(data[begins:ends], "big", signed=True), ends


def octets(data: bytes, at: int) -> tuple[bytes, int]:
    """Bytes, and where they end. Raises NotReadable."""
    begins, ends = element(data, at, OCTETS)
    return data[begins:ends], ends


def write(tag: int, content: bytes) -> bytes:
    """An element."""
    size = len(content)
    if size < 0x80:
        return bytes([tag, size]) + content
    length = size.to_bytes((size.bit_length() + 7) // 8, "big")
    return bytes([tag, 0x80 | len(length)]) + length + content


def write_integer(value: int, tag: int = INTEGER) -> bytes:
    return write(tag, value.to_bytes(value.bit_length() // 8 + 1, "big", signed=True))


def write_oid(name: str) -> bytes:
    """An object identifier from its dotted form."""
    first, second, *rest = (int(part) for part in name.split("."))
    made = bytearray([first * 40 + second])
    for part in rest:
        digits = [part & 0x7F]
        while part := part >> 7:
            digits.append(0x80 | (part & 0x7F))
        made += bytes(reversed(digits))
    return write(OID, bytes(made))
