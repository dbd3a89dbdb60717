"""Traps and informs of SNMP (RFC 1157, RFC 3416) as content that decoders read."""

from dataclasses import dataclass
from typing import Any

from pyasn1.codec.ber import decoder
from pyasn1.error import PyAsn1Error
from pysnmp.proto import api

from dromikon.core.mibs.names import STANDARD, Names, named
from dromikon.core.reading import NotReadable
from dromikon.core.snmp import ber, usm
from dromikon.core.words import t

#: The two that come first in a trap of version 2 (RFC 3416, 4.2.6).
UPTIME, TRAP = "1.3.6.1.2.1.1.3.0", "1.3.6.1.6.3.1.1.4.1.0"
#: Generic traps of version 1 have these names in version 2 (RFC 3584, 3.1): this and their number, from one.
GENERIC = "1.3.6.1.6.3.1.1.5"
ENTERPRISE_SPECIFIC = 6
LONGEST_TEXT = 2_000
#: Tags of what is sent and answered, in BER.
TRAP_1, TRAP_2, INFORM, RESPONSE = 0xA4, 0xA7, 0xA6, 0xA2


@dataclass(frozen=True, slots=True)
class Header:
    """Who sends, and what sort of message it is: read without decoding the rest, since there may be a thousand a second. `place`:
    where the sort stands. What came by version 3 is kept as its scoped PDU, which has no community."""

    community: str
    sort: int
    place: int

    def answer(self, data: bytes) -> bytes | None:
        """What an inform waits for: itself as a response (RFC 3416, 4.2.7). A trap waits for nothing."""
        if self.sort != INFORM:
            return None
        return data[: self.place] + bytes([RESPONSE]) + data[self.place + 1 :]


def header(data: bytes) -> Header:
    """Read the beginning of a datagram of version 1 or 2c. Raises NotReadable for what is no trap or inform of these."""
    at, _ = ber.element(data, 0, ber.SEQUENCE)
    number, at = ber.integer(data, at)
    if number not in (api.SNMP_VERSION_1, api.SNMP_VERSION_2C):
        raise NotReadable(t("it is of a version of SNMP that is not read here"))
    community, at = ber.octets(data, at)
    return Header(community.decode("utf-8", "replace"), _sort(data, at), at)


def _sort(data: bytes, at: int) -> int:
    if at >= len(data):
        raise NotReadable(t("it is cut off"))
    if data[at] not in (TRAP_1, TRAP_2, INFORM):
        raise NotReadable(t("it is no trap"))
    return data[at]


def _of_version_3(data: bytes) -> bytes | None:
    """The PDU of a scoped PDU; None for a datagram of another version."""
    at, _ = ber.element(data, 0, ber.SEQUENCE)
    if data[at : at + 1] != bytes([ber.OCTETS]):
        return None
    inside = usm.inside(data)
    _sort(data, inside.place)
    return inside.data[inside.place :]


def read(data: bytes, names: Names = STANDARD) -> dict[str, Any]:
    """What a datagram tells, with names for what has one. Raises NotReadable."""
    return named(_read(data), names)


def _read(data: bytes) -> dict[str, Any]:
    pdu_of_3 = _of_version_3(data)
    if pdu_of_3 is not None:
        # Inside, version 3 is version 2.
        data = ber.write(ber.SEQUENCE, ber.write_integer(1) + ber.write(ber.OCTETS, b"") + pdu_of_3)
    part = api.PROTOCOL_MODULES[api.SNMP_VERSION_1 if header(data).sort == TRAP_1 else api.SNMP_VERSION_2C]
    try:
        message, _ = decoder.decode(data, asn1Spec=part.Message())
        pdu = part.apiMessage.get_pdu(message)
        if part is api.PROTOCOL_MODULES[api.SNMP_VERSION_1]:
            return _first(part, pdu)
        return _second(part, pdu, "v2c" if pdu_of_3 is None else "v3")
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


def _second(part: Any, pdu: Any, version: str) -> dict[str, Any]:
    told = [(str(oid), _value(value)) for oid, value in part.apiPDU.get_varbinds(pdu)]
    known = dict(told)
    rest = [(oid, value) for oid, value in told if oid not in (UPTIME, TRAP)]
    return _content(version, str(known.get(TRAP, "")), known.get(UPTIME), rest)


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
    legible = text.strip("\r\n\t").isprintable()
    return text[:LONGEST_TEXT] if legible else f"0x{data[:LONGEST_TEXT].hex()}"
