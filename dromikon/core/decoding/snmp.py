"""Traps and informs of SNMP (RFC 1157, RFC 3416) as content that decoders read: versions 1 and 2c, known by their community."""

from dataclasses import dataclass
from typing import Any

from pyasn1.codec.ber import decoder, encoder
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


@dataclass(frozen=True, slots=True)
class Datagram:
    """A trap, or an inform that wants an `answer`."""

    community: str
    content: dict[str, Any]
    answer: bytes | None


def community_of(data: bytes) -> str:
    """With which community a datagram comes. Raises NotReadable for what is no trap or inform of the versions read here."""
    return read(data).community


def read(data: bytes) -> Datagram:
    """Read a datagram. Raises NotReadable."""
    try:
        version = int(api.decodeMessageVersion(data))
    except (PyAsn1Error, ValueError, TypeError, IndexError) as error:
        raise NotReadable(t("it is no SNMP message")) from error
    if version not in VERSIONS:
        raise NotReadable(t("it is of a version of SNMP that is not read here"))
    part = api.PROTOCOL_MODULES[version]
    try:
        message, _ = decoder.decode(data, asn1Spec=part.Message())
        community = bytes(part.apiMessage.get_community(message)).decode("utf-8", "replace")
        pdu = part.apiMessage.get_pdu(message)
        if version == api.SNMP_VERSION_1:
            return Datagram(community, _first(part, pdu), None)
        return Datagram(community, _second(part, pdu), _answer(part, message, pdu))
    except (PyAsn1Error, ValueError, TypeError, IndexError, AttributeError, RecursionError) as error:
        raise NotReadable(t("it cannot be read as SNMP")) from error


def _first(part: Any, pdu: Any) -> dict[str, Any]:
    if pdu.__class__.__name__ != "TrapPDU":
        raise NotReadable(t("it is no trap"))
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
    if not isinstance(pdu, part.SNMPv2TrapPDU | part.InformRequestPDU):
        raise NotReadable(t("it is no trap"))
    told = [(str(oid), _value(value)) for oid, value in part.apiPDU.get_varbinds(pdu)]
    known = dict(told)
    rest = [(oid, value) for oid, value in told if oid not in (UPTIME, TRAP)]
    return _content("v2c", str(known.get(TRAP, "")), known.get(UPTIME), rest)


def _content(version: str, trap: str, uptime: Any, told: list[tuple[str, Any]]) -> dict[str, Any]:
    """What is told by its name, and in order, since the last part of a name is often a row's number."""
    values = [{"oid": oid, "value": value} for oid, value in told]
    return {"version": version, "trap": trap, "uptime": uptime, "by": dict(told), "values": values}


def _answer(part: Any, message: Any, pdu: Any) -> bytes | None:
    """The response that an inform waits for: the same, confirmed (RFC 3416, 4.2.7)."""
    if not isinstance(pdu, part.InformRequestPDU):
        return None
    response = part.apiMessage.get_response(message)
    part.apiPDU.set_varbinds(part.apiMessage.get_pdu(response), part.apiPDU.get_varbinds(pdu))
    return bytes(encoder.encode(response))


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
