"""The garden's agents: its supply, its freezer controller and its network switch, which tell of themselves by informs of SNMP, and
again until they hear that one was taken."""

import asyncio
import time
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from pyasn1.codec.ber import encoder
from pysnmp.hlapi.v3arch.asyncio import (
    USM_AUTH_HMAC192_SHA256,
    USM_PRIV_CFB128_AES,
    CommunityData,
    ContextData,
    Integer32,
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

USER, SECRET, PRIVATE = "garden", "garden-auth-pass", "garden-priv-pass"
COMMUNITY = "quillmere"
UPTIME, TRAP = "1.3.6.1.2.1.1.3.0", "1.3.6.1.6.3.1.1.4.1.0"
LOOK, PAUSE = 0.5, 2.0

Value = str | bytes | int
#: The trap, and its values; an identifier is text, text is bytes.
Told = tuple[str, list[tuple[str, Value]]]


def _supply(signal: Signal) -> Told:
    """An alarm is added to its table, or taken out of it (UPS MIB, RFC 1628)."""
    trap = "1.3.6.1.2.1.33.2.3" if signal.phase == "begin" else "1.3.6.1.2.1.33.2.4"
    on_battery = ("1.3.6.1.2.1.33.1.6.2.1.2.1", "1.3.6.1.2.1.33.1.6.3.2")
    return trap, [on_battery, ("1.3.6.1.2.1.33.1.1.5.0", b"Pump room supply")]


def _freezer(signal: Signal) -> Told:
    """Its state has changed, by a module of its maker's own (demo/mibs/quill-freezers.mib)."""
    base = "1.3.6.1.4.1.32473.7"
    state = 2 if signal.phase == "begin" else 1
    return f"{base}.0.1", [(f"{base}.1.0", state), (f"{base}.2.0", b"Seed freezer")]


def _switch(signal: Signal) -> Told:
    """A link is down, or up again (RFC 2863)."""
    trap = "1.3.6.1.6.3.1.1.5.3" if signal.phase == "begin" else "1.3.6.1.6.3.1.1.5.4"
    stands = 2 if signal.phase == "begin" else 1
    row = "1.3.6.1.2.1.2.2.1"
    return trap, [(f"{row}.1.24", 24), (f"{row}.2.24", b"Uplink of the lodge"), (f"{row}.8.24", stands)]


@dataclass(frozen=True, slots=True)
class Agent:
    """How an agent tells: its words, whether as a user of version 3 or by the community of version 2c, and to which intake."""

    tells: Callable[[Signal], Told]
    signs: bool
    intake: str


#: By the point of whose signals they tell.
AGENTS = {
    "ups": Agent(_supply, True, "supplies"), "freezer-alarm": Agent(_freezer, True, "supplies"), "uplink": Agent(_switch, False, "switches"),
}  # fmt: skip


def of_agent(signal: Signal) -> bool:
    """Whether an agent tells of a signal, rather than the gateway."""
    return signal.point in AGENTS


def kept(signal: Signal) -> bytes:
    """What a receiver keeps of a signal: the scoped PDU of version 3, the whole message of version 2c."""
    part: Any = api.PROTOCOL_MODULES[api.SNMP_VERSION_2C]
    agent = AGENTS[signal.point]
    trap, values = agent.tells(signal)
    pdu = part.SNMPv2TrapPDU()
    part.apiPDU.set_defaults(pdu)
    oids = [(UPTIME, part.TimeTicks(signal.at // 10 % 2**32)), (TRAP, part.ObjectIdentifier(trap))]
    part.apiPDU.set_varbinds(pdu, [*oids, *((oid, _value(part, value)) for oid, value in values)])
    if not agent.signs:
        message = part.Message()
        part.apiMessage.set_defaults(message)
        part.apiMessage.set_community(message, COMMUNITY)
        part.apiMessage.set_pdu(message, pdu)
        return bytes(encoder.encode(message))
    scoped = ScopedPDU()
    scoped["contextEngineId"], scoped["contextName"] = b"\x80\x00\x00\x00\x01", b""
    scoped["data"]["snmpV2-trap"] = pdu
    return bytes(encoder.encode(scoped))


def _value(types: Any, value: Value) -> Any:
    if isinstance(value, int):
        return types.Integer32(value) if hasattr(types, "Integer32") else types.Integer(value)
    return types.OctetString(value) if isinstance(value, bytes) else types.ObjectIdentifier(value)


class StandInAgents:
    """Send what has happened since the place kept in a small file, in order."""

    def __init__(self, world: World, port: int, place: Place, host: str = "127.0.0.1") -> None:
        self.world, self._to, self.place = world, (host, port), place
        self._engine = SnmpEngine()
        self._user = UsmUserData(
            USER, SECRET, PRIVATE, authProtocol=USM_AUTH_HMAC192_SHA256, privProtocol=USM_PRIV_CFB128_AES
        )
        self._waiting: deque[Signal] = deque()

    async def run(self) -> None:
        """Until cancelled."""
        since = self.place.read(time.time_ns() // 1_000_000)
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
        agent = AGENTS[signal.point]
        trap, values = agent.tells(signal)
        target = await UdpTransportTarget.create(self._to, timeout=2, retries=1)
        notice = NotificationType(ObjectIdentity(trap)).add_varbinds(*((oid, _typed(v)) for oid, v in values))
        who = self._user if agent.signs else CommunityData(COMMUNITY, mpModel=1)  # noqa: S508
        failed, status, _, _ = await send_notification(self._engine, who, target, ContextData(), "inform", notice)
        return not failed and not status


def _typed(value: Value) -> Any:
    if isinstance(value, int):
        return Integer32(value)
    return OctetString(value) if isinstance(value, bytes) else ObjectIdentifier(value)
