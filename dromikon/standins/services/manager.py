"""A manager of SNMP that keeps notifications of version 2c, and confirms informs."""

import asyncio

from pyasn1.codec.ber import decoder, encoder
from pyasn1.error import PyAsn1Error
from pysnmp.proto import api
from pysnmp.proto.error import ProtocolError

from dromikon.standins.services.received import Received

COMMUNITY = "garden-watch"
_V2 = api.PROTOCOL_MODULES[api.SNMP_VERSION_2C]
#: What the objects of our MIB are called, by the last number but one.
NAMES = ("site", "rule", "point", "area", "kind", "happened", "text", "severity", "run", "link")
OURS = "1.3.6.1.4.1.32473.54.1."


class Manager(asyncio.DatagramProtocol):
    """One on a port."""

    def __init__(self, received: Received) -> None:
        self.received = received
        self._transport: asyncio.DatagramTransport | None = None

    async def run(self, port: int, host: str) -> None:
        """Until it is cancelled."""
        transport, _ = await asyncio.get_running_loop().create_datagram_endpoint(lambda: self, local_addr=(host, port))
        try:
            await asyncio.Event().wait()
        finally:
            transport.close()

    def connection_made(self, transport: asyncio.DatagramTransport) -> None:  # type: ignore[override]
        self._transport = transport

    def datagram_received(self, data: bytes, addr: tuple[str, int]) -> None:
        try:
            message, _ = decoder.decode(data, asn1Spec=_V2.Message())
            pdu = _V2.apiMessage.get_pdu(message)
            said = [(oid.prettyPrint(), value.prettyPrint()) for oid, value in _V2.apiPDU.get_varbinds(pdu)]
        except (PyAsn1Error, ProtocolError):
            return
        if bytes(_V2.apiMessage.get_community(message)).decode("latin-1") != COMMUNITY or len(said) < 2:
            return
        request = str(_V2.apiPDU.get_request_id(pdu))
        told = {_name(oid): value for oid, value in said[2:]}
        inform = pdu.isSameTypeWith(_V2.InformRequestPDU())
        title = told.pop("rule", said[1][1])
        more = [("", "inform, confirmed" if inform else "trap"), *told.items()]
        self.received.take("snmp", addr[0], title, told.get("text", ""), more, request if inform else "")
        if inform and self._transport is not None:
            answer = _V2.apiMessage.get_response(message)
            _V2.apiPDU.set_varbinds(_V2.apiMessage.get_pdu(answer), _V2.apiPDU.get_varbinds(pdu))
            self._transport.sendto(encoder.encode(answer), addr)


def _name(oid: str) -> str:
    number = oid.removeprefix(OURS).split(".")[0] if oid.startswith(OURS) else ""
    return NAMES[int(number) - 1] if number.isdigit() and 0 < int(number) <= len(NAMES) else oid
