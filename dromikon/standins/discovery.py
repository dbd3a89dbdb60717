"""The cameras' answers to WS-Discovery: one listener for all of them, since they share a machine."""

import asyncio
import contextlib
import logging
import socket
import struct
import uuid
from collections.abc import Mapping
from typing import Any
from urllib.parse import quote
from xml.sax.saxutils import escape

from lxml import etree

log = logging.getLogger("dromikon.standins")

GROUP, PORT = "239.255.255.250", 3702
DISCOVERY = "http://schemas.xmlsoap.org/ws/2005/04/discovery"
ADDRESSING = "http://schemas.xmlsoap.org/ws/2004/08/addressing"
#: Endpoint references are made of a name in this space, so that they are the same at each start.
_OWN = uuid.UUID("5a2f6c1e-3f0a-4c39-9a55-0f3b7c1d2e90")


def endpoint_of(name: str) -> str:
    return f"urn:uuid:{uuid.uuid5(_OWN, name)}"


def answer(data: bytes, cameras: Mapping[str, tuple[str, str]]) -> bytes | None:
    """ProbeMatches for all cameras (name: title and device service); None for what is no probe that means them."""
    try:
        root = etree.fromstring(data, etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False))
    except etree.XMLSyntaxError:
        return None
    message = root.findtext(f".//{{{ADDRESSING}}}MessageID")
    asked = root.find(f".//{{{DISCOVERY}}}Probe")
    if message is None or asked is None:
        return None
    types = (asked.findtext(f"{{{DISCOVERY}}}Types") or "").split()
    if types and not any(t.endswith(("NetworkVideoTransmitter", "Device")) for t in types):
        return None
    found = "".join(_match(name, title, address) for name, (title, address) in cameras.items())
    return (
        '<?xml version="1.0" encoding="utf-8"?><s:Envelope xmlns:s="http://www.w3.org/2003/05/soap-envelope" '
        f'xmlns:a="{ADDRESSING}" xmlns:d="{DISCOVERY}" xmlns:dn="http://www.onvif.org/ver10/network/wsdl"><s:Header>'
        f"<a:Action>{DISCOVERY}/ProbeMatches</a:Action><a:MessageID>urn:uuid:{uuid.uuid4()}</a:MessageID>"
        f"<a:RelatesTo>{escape(message.strip())}</a:RelatesTo></s:Header>"
        f"<s:Body><d:ProbeMatches>{found}</d:ProbeMatches></s:Body></s:Envelope>"
    ).encode()


def _match(name: str, title: str, address: str) -> str:
    scopes = ("type/video_encoder", "Profile/Streaming", "hardware/Heron%204", f"name/{quote(title)}")
    return (
        f"<d:ProbeMatch><a:EndpointReference><a:Address>{endpoint_of(name)}</a:Address></a:EndpointReference>"
        "<d:Types>dn:NetworkVideoTransmitter</d:Types>"
        f"<d:Scopes>{' '.join(f'onvif://www.onvif.org/{scope}' for scope in scopes)}</d:Scopes>"
        f"<d:XAddrs>{escape(address)}</d:XAddrs><d:MetadataVersion>1</d:MetadataVersion></d:ProbeMatch>"
    )


class _Responder(asyncio.DatagramProtocol):
    def __init__(self, cameras: Mapping[str, tuple[str, str]]) -> None:
        self.cameras = cameras
        self.transport: Any = None

    def connection_made(self, transport: Any) -> None:
        self.transport = transport

    def datagram_received(self, data: bytes, addr: tuple[str, int]) -> None:
        said = answer(data, self.cameras)
        if said is not None and self.transport is not None:
            self.transport.sendto(said, addr)


async def listen(cameras: Mapping[str, tuple[str, str]], port: int = PORT) -> asyncio.DatagramTransport | None:
    """Answer probes from this machine until closed; None where the port cannot be had."""
    made = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
    try:
        made.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        # Other listeners on this machine are asked, too.
        with contextlib.suppress(AttributeError, OSError):
            made.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEPORT, 1)
        made.bind((GROUP, port))
        member = struct.pack("4s4s", socket.inet_aton(GROUP), socket.inet_aton("127.0.0.1"))
        made.setsockopt(socket.IPPROTO_IP, socket.IP_ADD_MEMBERSHIP, member)
        made.setblocking(False)
    except OSError as error:
        made.close()
        log.info("the stand-ins cannot be discovered here: %s", error)
        return None
    transport, _ = await asyncio.get_running_loop().create_datagram_endpoint(lambda: _Responder(cameras), sock=made)
    return transport
