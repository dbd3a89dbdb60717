"""Taking SNMP traps and informs: datagrams of senders that are known are stored as they came (of version 3 what is inside), many
in one commit, and an inform is answered once it is committed."""

import asyncio
import logging
import socket
from collections import OrderedDict
from dataclasses import dataclass

from asgiref.sync import sync_to_async

from dromikon.clock import now_ms
from dromikon.core.proofs import ACCEPTED
from dromikon.core.reading import NotReadable
from dromikon.core.snmp import usm
from dromikon.intake.counting import Counts, Failures, Flows
from dromikon.intake.inbox import InboxUnavailable, InboxWriter, Message
from dromikon.intake.known import REMEMBER
from dromikon.intake.strangers import Strangers, write_strangers
from dromikon.intake.trap_senders import Configured, Senders, Sent, Turned, configured

log = logging.getLogger("dromikon.intake")

#: The kernel keeps so much while we are busy, in bytes; so many datagrams wait to be looked at.
BUFFER, WAITING = 8 << 20, 20_000
#: An inform that comes again within so many seconds was not answered in time, or its answer was lost; so many are remembered.
AGAIN, MOST_REMEMBERED = 60.0, 5_000
#: Strangers are written down at most so often, in seconds.
PAUSE = 1.0
Place = tuple[str, int]


@dataclass
class Traps:
    """One listener. Datagrams are looked at in order, by one task, so that a burst is a few commits."""

    inbox: InboxWriter
    counts: Counts
    port: int
    host: str = "0.0.0.0"  # noqa: S104

    def __post_init__(self) -> None:
        self.failures, self.flows, self.strangers = Failures(), Flows(), Strangers()
        self.senders = Senders()
        self._queue: asyncio.Queue[tuple[bytes, Place]] = asyncio.Queue(WAITING)
        self._who = Configured({}, {})
        self._read_at = 0.0
        self._answering: set[asyncio.Task[None]] = set()
        self._informs = Informs()

    async def run(self) -> None:
        """Until it is cancelled. Raises OSError when the port is not to be had."""
        bound = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
        bound.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, BUFFER)
        bound.bind((self.host, self.port))
        loop = asyncio.get_running_loop()
        transport, _ = await loop.create_datagram_endpoint(lambda: _Receiver(self._queue, self.strangers), sock=bound)
        writing = loop.create_task(self._write_strangers())
        try:
            while True:
                data, sender = await self._queue.get()
                await self._take(data, sender, transport)
        finally:
            writing.cancel()
            transport.close()

    async def _take(self, data: bytes, sender: Place, transport: asyncio.DatagramTransport) -> None:
        if not usm.is_version_3(data) and self.failures.too_many(sender[0]):
            # Communities can be guessed; what a user signs cannot.
            self.strangers.note(sender[0], "shut_out", now_ms())
            return
        try:
            found = self.senders.recognise(data, sender[0], await self._configured())
        except NotReadable as error:
            self._turn_away(Turned("unreadable"), sender, str(error))
            return
        if isinstance(found, Turned):
            if found.reply is not None:
                transport.sendto(found.reply, sender)
            self._turn_away(found, sender, found.why)
            return
        outcome = self._outcome(found, sender)
        if outcome != ACCEPTED:
            self.counts.note(found.intake, outcome, now_ms())
        elif not self._came_before(found, sender, transport):
            self._store(found, sender, transport)

    def _outcome(self, sent: Sent, sender: Place) -> str:
        if not sent.known.lets(sender[0]):
            return "sender"
        if len(sent.body) > sent.known.largest:
            return "size"
        return ACCEPTED if self.flows.lets(sent.intake, sent.known.rate) else "flood"

    def _came_before(self, sent: Sent, sender: Place, transport: asyncio.DatagramTransport) -> bool:
        """Whether an inform is here already: its sender has not heard our answer. It is answered again, and kept once."""
        if sent.answer is None:
            return False
        state = self._informs.state(sent.same, asyncio.get_running_loop().time())
        if state == "kept":
            transport.sendto(sent.answer, sender)
        return state != "new"

    def _store(self, sent: Sent, sender: Place, transport: asyncio.DatagramTransport) -> None:
        stored = self.inbox.submit([Message(now_ms(), "snmp", sent.intake, sent.meta, sent.body)])
        confirming = self._confirm(asyncio.wrap_future(stored), sent, sender, transport)
        task = asyncio.get_running_loop().create_task(confirming)
        self._answering.add(task)
        task.add_done_callback(self._answering.discard)

    async def _confirm(
        self, stored: "asyncio.Future[int]", sent: Sent, sender: Place, transport: asyncio.DatagramTransport
    ) -> None:
        """An inform that could not be kept is not answered: its sender sends it again."""
        try:
            await stored
        except InboxUnavailable:
            self._informs.forget(sent.same)
            return
        self.counts.note(sent.intake, ACCEPTED, now_ms())
        if sent.answer is not None:
            self._informs.keep(sent.same)
            if not transport.is_closing():
                transport.sendto(sent.answer, sender)

    async def _configured(self) -> Configured:
        now = asyncio.get_running_loop().time()
        if now - self._read_at > REMEMBER:
            self._who, self._read_at = await sync_to_async(configured)(), now
        return self._who

    def _turn_away(self, turned: Turned, sender: Place, why: str) -> None:
        if turned.asks:
            return
        if turned.intake:
            self.counts.note(turned.intake, turned.why, now_ms())
        else:
            self.strangers.note(sender[0], turned.why, now_ms())
        if self.failures.note(sender[0]):
            log.warning("a datagram from %s was refused: %s", sender[0], why)

    async def _write_strangers(self) -> None:
        while True:
            await asyncio.sleep(PAUSE)
            if gathered := self.strangers.take():
                await sync_to_async(write_strangers, thread_sensitive=False)(gathered)


class Informs:
    """Informs of the last minute, by what is alike when one is sent again: on their way to the inbox, or kept there."""

    def __init__(self) -> None:
        self._known: OrderedDict[bytes, tuple[float, bool]] = OrderedDict()

    def state(self, same: bytes, now: float) -> str:
        """`new`, which it is no more from here on; `coming` or `kept`."""
        while self._known and (len(self._known) > MOST_REMEMBERED or next(iter(self._known.values()))[0] < now - AGAIN):
            self._known.popitem(last=False)
        if same not in self._known:
            self._known[same] = (now, False)
            return "new"
        return "kept" if self._known[same][1] else "coming"

    def keep(self, same: bytes) -> None:
        if same in self._known:
            self._known[same] = (self._known[same][0], True)

    def forget(self, same: bytes) -> None:
        self._known.pop(same, None)


class _Receiver(asyncio.DatagramProtocol):
    """Puts what comes in line; what no longer fits is lost, as datagrams are, and counted."""

    def __init__(self, queue: "asyncio.Queue[tuple[bytes, Place]]", strangers: Strangers) -> None:
        self._queue, self._strangers = queue, strangers

    def datagram_received(self, data: bytes, addr: Place) -> None:
        try:
            self._queue.put_nowait((data, addr))
        except asyncio.QueueFull:
            self._strangers.note(addr[0], "crowd", now_ms())
