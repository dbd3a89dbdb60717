"""Taking SNMP traps and informs: datagrams of senders that are known by their community are stored as they came, many in one
commit, and an inform is answered once it is committed."""

import asyncio
import contextlib
import json
import logging
import socket
from dataclasses import dataclass

from asgiref.sync import sync_to_async

from dromikon import secrets
from dromikon.clock import now_ms
from dromikon.core.decoding import snmp
from dromikon.core.proofs import ACCEPTED
from dromikon.core.reading import NotReadable
from dromikon.intake.counting import Counts, Failures, Flows
from dromikon.intake.inbox import InboxUnavailable, InboxWriter, Message
from dromikon.intake.known import REMEMBER, Known, known_intake
from dromikon.sources.models import Intake

log = logging.getLogger("dromikon.intake")

#: The kernel keeps so much while we are busy, in bytes; so many datagrams wait to be looked at.
BUFFER, WAITING = 8 << 20, 20_000
Place = tuple[str, int]


@dataclass
class Traps:
    """One listener. Datagrams are looked at in order, by one task, so that a burst is a few commits."""

    inbox: InboxWriter
    counts: Counts
    port: int
    host: str = "0.0.0.0"  # noqa: S104

    def __post_init__(self) -> None:
        self.failures, self.flows = Failures(), Flows()
        self._queue: asyncio.Queue[tuple[bytes, Place]] = asyncio.Queue(WAITING)
        self._known: dict[str, tuple[str, Known]] = {}
        self._read_at = 0.0
        self._answering: set[asyncio.Task[None]] = set()

    async def run(self) -> None:
        """Until it is cancelled. Raises OSError when the port is not to be had."""
        bound = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
        bound.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, BUFFER)
        bound.bind((self.host, self.port))
        loop = asyncio.get_running_loop()
        transport, _ = await loop.create_datagram_endpoint(lambda: _Receiver(self._queue), sock=bound)
        try:
            while True:
                data, sender = await self._queue.get()
                await self._take(data, sender, transport)
        finally:
            transport.close()

    async def _take(self, data: bytes, sender: Place, transport: asyncio.DatagramTransport) -> None:
        if self.failures.too_many(sender[0]):
            return
        try:
            head = snmp.header(data)
        except NotReadable as error:
            self._refuse(sender, str(error))
            return
        found = (await self._by_community()).get(secrets.digest_of_token(head.community))
        if found is None:
            self._refuse(sender, "another community")
            return
        intake, known = found
        at = now_ms()
        outcome = self._outcome(intake, known, sender, data)
        if outcome != ACCEPTED:
            self.counts.note(intake, outcome, at)
            return
        stored = self.inbox.submit([Message(at, "snmp", intake, json.dumps({"from": sender[0]}), data)])
        confirming = self._confirm(asyncio.wrap_future(stored), intake, head.answer(data), sender, transport)
        task = asyncio.get_running_loop().create_task(confirming)
        self._answering.add(task)
        task.add_done_callback(self._answering.discard)

    def _outcome(self, intake: str, known: Known, sender: Place, data: bytes) -> str:
        if not known.lets(sender[0]):
            return "sender"
        if len(data) > known.largest:
            return "size"
        return ACCEPTED if self.flows.lets(intake, known.rate) else "flood"

    async def _confirm(
        self, stored: "asyncio.Future[int]", intake: str, answer: bytes | None, sender: Place,
        transport: asyncio.DatagramTransport,
    ) -> None:  # fmt: skip
        """An inform that could not be kept is not answered: its sender sends it again."""
        with contextlib.suppress(InboxUnavailable):
            await stored
            self.counts.note(intake, ACCEPTED, now_ms())
            if answer is not None and not transport.is_closing():
                transport.sendto(answer, sender)

    async def _by_community(self) -> dict[str, tuple[str, Known]]:
        """Intakes that take traps, by the digest of each community that counts."""
        now = asyncio.get_running_loop().time()
        if now - self._read_at > REMEMBER:
            self._known, self._read_at = await sync_to_async(_communities)(), now
        return self._known

    def _refuse(self, sender: Place, why: str) -> None:
        if self.failures.note(sender[0]):
            log.warning("a datagram from %s was refused: %s", sender[0], why)


class _Receiver(asyncio.DatagramProtocol):
    """Puts what comes in line; what no longer fits is lost, as datagrams are."""

    def __init__(self, queue: "asyncio.Queue[tuple[bytes, Place]]") -> None:
        self._queue = queue

    def datagram_received(self, data: bytes, addr: Place) -> None:
        with contextlib.suppress(asyncio.QueueFull):
            self._queue.put_nowait((data, addr))


def _communities() -> dict[str, tuple[str, Known]]:
    found: dict[str, tuple[str, Known]] = {}
    for id in Intake.objects.filter(proof="community", enabled=True, retired_at=None).values_list("id", flat=True):
        known = known_intake(id)
        if known is not None:
            found.update(dict.fromkeys(known.settings.secrets, (id, known)))
    return found
