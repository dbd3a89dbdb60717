"""Finding devices on the network: WS-Discovery (April 2005, as the ONVIF Core Specification has it, section Device discovery).

A probe goes to the multicast group of the link on each address of this machine; whoever is a network video transmitter
answers with its endpoint reference, its scopes and the addresses of its device service. Answers come from anybody: they are
limited in number and size, and parsed like everything from devices.
"""

import asyncio
import contextlib
import fcntl
import socket
import struct
import uuid
from dataclasses import dataclass
from urllib.parse import unquote, urlsplit

from lxml import etree

from dromikon.wire.onvif.namespaces import SOAP
from dromikon.wire.onvif.soap import DeviceError, parse_xml

GROUP, PORT = "239.255.255.250", 3702
DISCOVERY = "http://schemas.xmlsoap.org/ws/2005/04/discovery"
ADDRESSING = "http://schemas.xmlsoap.org/ws/2004/08/addressing"
NETWORK = "http://www.onvif.org/ver10/network/wsdl"
#: So many answers are taken, and datagrams of at most so many bytes.
MOST, LARGEST = 1_000, 65_535
#: A probe is sent again once, since a datagram may be lost; and answers are waited for this long, in seconds.
AGAIN, WAIT = 0.5, 3.0
#: How Linux is asked for the address of an interface (netdevice(7)).
_SIOCGIFADDR = 0x8915


@dataclass(frozen=True, slots=True)
class Found:
    """A device that answered: its endpoint reference, where its device service is, what it calls itself and its hardware."""

    endpoint: str
    addresses: tuple[str, ...]
    name: str = ""
    hardware: str = ""


def probe(message: str) -> bytes:
    """A probe for network video transmitters, with a message id."""
    spaces = {"s": SOAP, "a": ADDRESSING, "d": DISCOVERY, "dn": NETWORK}
    envelope = etree.Element(f"{{{SOAP}}}Envelope", nsmap=spaces)
    header = etree.SubElement(envelope, f"{{{SOAP}}}Header")
    etree.SubElement(header, f"{{{ADDRESSING}}}Action").text = f"{DISCOVERY}/Probe"
    etree.SubElement(header, f"{{{ADDRESSING}}}MessageID").text = message
    etree.SubElement(header, f"{{{ADDRESSING}}}To").text = "urn:schemas-xmlsoap-org:ws:2005:04:discovery"
    asked = etree.SubElement(etree.SubElement(envelope, f"{{{SOAP}}}Body"), f"{{{DISCOVERY}}}Probe")
    etree.SubElement(asked, f"{{{DISCOVERY}}}Types").text = "dn:NetworkVideoTransmitter"
    return etree.tostring(envelope, xml_declaration=True, encoding="utf-8")


def matches(data: bytes, message: str) -> list[Found]:
    """The devices in an answer to a probe; none when it is no answer to it, or cannot be read."""
    try:
        root = parse_xml(data)
    except DeviceError:
        return []
    if (root.findtext(f".//{{{ADDRESSING}}}RelatesTo") or "").strip() != message:
        return []
    found = []
    for match in root.iter(f"{{{DISCOVERY}}}ProbeMatch"):
        endpoint = (match.findtext(f"{{{ADDRESSING}}}EndpointReference/{{{ADDRESSING}}}Address") or "").strip()
        addresses = tuple(a for a in (match.findtext(f"{{{DISCOVERY}}}XAddrs") or "").split() if _is_address(a))
        scopes = (match.findtext(f"{{{DISCOVERY}}}Scopes") or "").split()
        if endpoint and addresses:
            found.append(Found(endpoint[:200], addresses, _scope(scopes, "name"), _scope(scopes, "hardware")))
    return found


def _is_address(text: str) -> bool:
    try:
        parts = urlsplit(text)
    except ValueError:
        return False
    return parts.scheme in ("http", "https") and bool(parts.hostname)


def _scope(scopes: list[str], what: str) -> str:
    """What a scope such as onvif://www.onvif.org/name/Jetty%20camera says."""
    start = f"onvif://www.onvif.org/{what}/"
    return next((unquote(s[len(start) :])[:120] for s in scopes if s.startswith(start)), "")


def own_addresses() -> list[str]:
    """The IPv4 addresses of this machine, one for each of its interfaces: cameras often have a network of their own."""
    found = []
    with contextlib.closing(socket.socket(socket.AF_INET, socket.SOCK_DGRAM)) as asking:
        for _, name in socket.if_nameindex():
            # An interface without an address has none to be asked from.
            with contextlib.suppress(OSError):
                answer = fcntl.ioctl(asking.fileno(), _SIOCGIFADDR, struct.pack("256s", name.encode()[:15]))
                found.append(socket.inet_ntoa(answer[20:24]))
    return list(dict.fromkeys(found))


class _Answers(asyncio.DatagramProtocol):
    def __init__(self, message: str) -> None:
        self.message, self.found = message, dict[str, Found]()

    def datagram_received(self, data: bytes, addr: object) -> None:
        if len(data) <= LARGEST and len(self.found) < MOST:
            for device in matches(data, self.message):
                self.found.setdefault(device.endpoint, device)


async def discover(wait: float = WAIT, port: int = PORT) -> list[Found]:
    """Ask the network, and answer with who said something within some seconds. Addresses on which nothing can be sent are
    passed over."""
    message = f"urn:uuid:{uuid.uuid4()}"
    loop, asked = asyncio.get_running_loop(), []
    try:
        for own in own_addresses():
            with contextlib.suppress(OSError):
                asked.append(await loop.create_datagram_endpoint(lambda: _Answers(message), sock=_socket(own)))
        for pause in (AGAIN, max(0.0, wait - AGAIN)):
            for transport, _ in asked:
                transport.sendto(probe(message), (GROUP, port))
            await asyncio.sleep(pause)
    finally:
        for transport, _ in asked:
            transport.close()
    found: dict[str, Found] = {}
    for _, answers in asked:
        found |= answers.found
    return list(found.values())


def _socket(own: str) -> socket.socket:
    made = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
    try:
        made.bind((own, 0))
        made.setsockopt(socket.IPPROTO_IP, socket.IP_MULTICAST_IF, socket.inet_aton(own))
        made.setsockopt(socket.IPPROTO_IP, socket.IP_MULTICAST_TTL, 1)
        made.setsockopt(socket.IPPROTO_IP, socket.IP_MULTICAST_LOOP, 1)
        made.setblocking(False)
    except OSError:
        made.close()
        raise
    return made
