"""Traps and informs of SNMP (RFC 1157, RFC 3416) as content that decoders read: versions 1 and 2c, known by their community."""

from dataclasses import dataclass
from typing import Any

from pyasn1.codec.ber import decoder
from pyasn1.error import PyAsn1Error
from pysnmp.proto import api

from dromikon.core.reading import NotReadable
from dromikon.core.words import t

#: The two that come first in a trap of version 2 (RFC 3416, 4.2.6).
UPTIME, TRAP = "1.3.6.1.2.1.1.3.0", "1.3.6.1.6.3.1.1.4.1.0"
#: Generic traps of version 1 have these names in version 2 (RFC 3584, 3.1): this and their number, from one.
GENERIC = "1.3.6.1.6.3.1.1.5"
ENTERPRISE_SPECIFIC = 6
VERSIONS = {api.SNMP_VERSION_1: "v1", api.SNMP_VERSION_2C: "v2c"}
LONGEST_TEXT = 2_000


#: Tags of what is sent and answered, in BER.
TRAP_1, TRAP_2, INFORM, RESPONSE = 0xA4, 0xA7, 0xA6, 0xA2


@dataclass(frozen=True, slots=True)
class Header:
    """Who sends, and what sort of message it is: read without decoding the rest, since there may be a thousand a second. `place`:
    where the sort stands."""

    community: str
    sort: int
    place: int

    def answer(self, data: bytes) -> bytes | None:
        """What an inform waits for: itself as a response (RFC 3416, 4.2.7). A trap waits for nothing."""
        if self.sort != INFORM:
            return None
        return data[: self.place] + bytes([RESPONSE]) + data[self.place + 1 :]


def header(data: bytes) -> Header:
    """Read the beginning of a datagram. Raises NotReadable for what is no trap or inform of the versions read here."""
    try:
        _, inside = _element(data, 0, 0x30)
        version, after_version = _element(data, inside, 0x02)
        community, place = _element(data, after_version, 0x04)
        number, sort = int.from_bytes(data[version:after_version], "big"), data[place]
    except IndexError as error:
        raise NotReadable(t("it is no SNMP message")) from error
    if number not in VERSIONS:
        raise NotReadable(t("it is of a version of SNMP that is not read here"))
    if sort not in (TRAP_1, TRAP_2, INFORM):
        raise NotReadable(t("it is no trap"))
    return Header(data[community:place].decode("utf-8", "replace"), sort, place)


def _element(data: bytes, at: int, tag: int) -> tuple[int, int]:
    """Where an element's content begins, and where the next element does; for a sequence, where its first one does. Raises
    NotReadable, IndexError."""
    if data[at] != tag:
        raise NotReadable(t("it is no SNMP message"))
    size, begins = data[at + 1], at + 2
    if size >= 0x80:
        count = size & 0x7F
        if not 0 < count <= 4:
            raise NotReadable(t("it is no SNMP message"))
        size, begins = int.from_bytes(data[begins : begins + count], "big"), begins + count
    if begins + size > len(data):
        raise NotReadable(t("it is cut off"))
    return begins, begins if tag == 0x30 else begins + size


def read(data: bytes) -> dict[str, Any]:
    """What a datagram tells. Raises NotReadable."""
    part = api.PROTOCOL_MODULES[api.SNMP_VERSION_1 if header(data).sort == TRAP_1 else api.SNMP_VERSION_2C]
    try:
        message, _ = decoder.decode(data, asn1Spec=part.Message())
        pdu = part.apiMessage.get_pdu(message)
        return _first(part, pdu) if part is api.PROTOCOL_MODULES[api.SNMP_VERSION_1] else _second(part, pdu)
    except (PyAsn1Error, ValueError, TypeError, IndexError, AttributeError, RecursionError) as error:
        raise NotReadable(t("it cannot be read as SNMP")) from error


def _first(part: Any, pdu: Any) -> dict[str, Any]:
    generic, enterprise = int(part.apiTrapPDU.get_generic_trap(pdu)), str(part.apiTrapPDU.get_enterprise(pdu))
    specific = int(part.apiTrapPDU.get_specific_trap(pdu))
    trap = f"{enterprise}.0.{specific}" if generic == ENTERPRISE_SPECIFIC else f"{GENERIC}.{generic + 1}"
    told = [(str(oid), _value(value)) for oid, value in part.apiTrapPDU.get_varbinds(pdu)]
    agent = str(part.apiTrapPDU.get_agent_address(pdu).prettyPrint())
    return {
        **_content("v1", trap, int(part.apiTrapPDU.get_timestamp(pdu)), told),
        "enterprise": enterprise,
        "agent": agent,
    }


def _second(part: Any, pdu: Any) -> dict[str, Any]:
    told = [(str(oid), _value(value)) for oid, value in part.apiPDU.get_varbinds(pdu)]
    known = dict(told)
    rest = [(oid, value) for oid, value in told if oid not in (UPTIME, TRAP)]
    return _content("v2c", str(known.get(TRAP, "")), known.get(UPTIME), rest)


def _content(version: str, trap: str, uptime: Any, told: list[tuple[str, Any]]) -> dict[str, Any]:
    """What is told by its name, and in order, since the last part of a name is often a row's number."""
    values = [{"oid": oid, "value": value} for oid, value in told]
    return {"version": version, "trap": trap, "uptime": uptime, "by": dict(told), "values": values}


def _value(value: Any) -> Any:
    name = value.__class__.__name__
    if name in ("OctetString", "Opaque"):
        return _octets(bytes(value))
    if name in ("ObjectIdentifier", "IpAddress"):
        return str(value.prettyPrint())
    if name == "Null":
        return None
    return int(value)


def _octets(data: bytes) -> str:
    """Text where it is text, otherwise its bytes in hex."""
    try:
        text = data.decode()
    except UnicodeDecodeError:
        return f"0x{data[:LONGEST_TEXT].hex()}"
    return (
        text[:LONGEST_TEXT]
        if text.isprintable() or text.strip("\r\n\t").isprintable()
        else f"0x{data[:LONGEST_TEXT].hex()}"
    )
