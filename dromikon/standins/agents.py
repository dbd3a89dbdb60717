"""The stand-in supply in the pump room: it tells of its battery by informs of SNMP version 3 (UPS MIB, RFC 1628), and again until it
hears that one was taken."""

import asyncio
import time
from collections import deque

from pyasn1.codec.ber import encoder
from pysnmp.hlapi.v3arch.asyncio import (
    USM_AUTH_HMAC192_SHA256,
    USM_PRIV_CFB128_AES,
    ContextData,
    NotificationType,
    ObjectIdentifier,
    ObjectIdentity,
    OctetString,
    SnmpEngine,
    UdpTransportTarget,
    UsmUserData,
    send_notification,
)
from pysnmp.proto import api
from pysnmp.proto.mpmod.rfc3412 import ScopedPDU

from dromikon.standins.place import Place
from dromikon.standins.world.plant.signals import Signal
from dromikon.standins.world.world import World

POINT = "ups"
USER, SECRET, PRIVATE = "garden", "garden-auth-pass", "garden-priv-pass"
#: An alarm is added to its table, or taken out of it; which one, and what the supply is called.
ADDED, REMOVED = "1.3.6.1.2.1.33.2.3", "1.3.6.1.2.1.33.2.4"
ALARM, ON_BATTERY, NAME = "1.3.6.1.2.1.33.1.6.2.1.2.1", "1.3.6.1.2.1.33.1.6.3.2", "1.3.6.1.2.1.33.1.1.5.0"
UPTIME, TRAP = "1.3.6.1.2.1.1.3.0", "1.3.6.1.6.3.1.1.4.1.0"
LOOK, PAUSE = 0.5, 2.0


def of_agent(signal: Signal) -> bool:
    """Whether the supply tells of a signal, rather than the gateway."""
    return signal.point == POINT


def told(signal: Signal) -> tuple[str, list[tuple[str, str | bytes]]]:
    """What is said of a signal: the trap, and its values."""
    return (ADDED if signal.phase == "begin" else REMOVED), [(ALARM, ON_BATTERY), (NAME, b"Pump room supply")]


def scoped(signal: Signal) -> bytes:
    """The scoped PDU of the same, as a receiver keeps it."""
    part = api.PROTOCOL_MODULES[api.SNMP_VERSION_2C]
    trap, values = told(signal)
    pdu = part.SNMPv2TrapPDU()
    part.apiPDU.set_defaults(pdu)
    oids = [(UPTIME, part.TimeTicks(signal.at // 10 % 2**32)), (TRAP, part.ObjectIdentifier(trap))]
    more = [(oid, _value(part, value)) for oid, value in values]
    part.apiPDU.set_varbinds(pdu, [*oids, *more])
    message = ScopedPDU()
    message["contextEngineId"], message["contextName"] = b"\x80\x00\x00\x00\x01", b""
    message["data"]["snmpV2-trap"] = pdu
    return bytes(encoder.encode(message))


def _value(part: object, value: str | bytes) -> object:
    return part.OctetString(value) if isinstance(value, bytes) else part.ObjectIdentifier(value)  # type: ignore[attr-defined]


class StandInSupply:
    """Sends what has happened since the place kept in a small file."""

    def __init__(self, world: World, port: int, place: Place, host: str = "127.0.0.1") -> None:
        self.world, self._to, self.place = world, (host, port), place
        self._engine = SnmpEngine()
        self._user = UsmUserData(
            USER, SECRET, PRIVATE, authProtocol=USM_AUTH_HMAC192_SHA256, privProtocol=USM_PRIV_CFB128_AES
        )
        self._waiting: deque[Signal] = deque()

    async def run(self) -> None:
        """Until cancelled."""
        now = time.time_ns() // 1_000_000
        since = self.place.read(now)
        while True:
            now = time.time_ns() // 1_000_000
            self._waiting.extend(s for s in self.world.signals(since, now) if of_agent(s))
            since = now
            while self._waiting:
                if await self._send(self._waiting[0]):
                    self._waiting.popleft()
                else:
                    await asyncio.sleep(PAUSE)
            self.place.keep(since)
            await asyncio.sleep(LOOK)

    async def _send(self, signal: Signal) -> bool:
        trap, values = told(signal)
        target = await UdpTransportTarget.create(self._to, timeout=2, retries=1)
        binds = [(o, OctetString(v) if isinstance(v, bytes) else ObjectIdentifier(v)) for o, v in values]
        notice = NotificationType(ObjectIdentity(trap)).add_varbinds(*binds)
        failed, status, _, _ = await send_notification(
            self._engine, self._user, target, ContextData(), "inform", notice
        )
        return not failed and not status
