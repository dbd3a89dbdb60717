"""Sending traps and informs by UDP, through the gate."""

import asyncio
import secrets
import socket
import time
from collections.abc import Callable
from dataclasses import dataclass

from dromikon.core.reading import NotReadable
from dromikon.core.snmp import telling, usm
from dromikon.core.snmp.usm import Clock, User
from dromikon.wire.outgoing import resolve

PORT = 162
#: An inform is sent so often, and an answer waited for so long each time, in seconds.
TIMES, PATIENCE = 3, 1.5
#: A message is no larger than this, so that it need not be split on its way.
LARGEST = 1_400


class NoConfirmation(Exception):
    """Nobody confirmed; the message says more."""


class Refused(Exception):
    """The manager does not take it from us; the message says why."""


@dataclass(frozen=True, slots=True)
class Manager:
    """Whom to tell, and how: by a community, or as a user."""

    host: str
    port: int
    inform: bool
    community: str = ""
    user: User | None = None


class _Answers(asyncio.DatagramProtocol):
    """What comes back on one socket."""

    def __init__(self) -> None:
        self.came: asyncio.Queue[bytes] = asyncio.Queue(32)

    def datagram_received(self, data: bytes, addr: tuple[str, int]) -> None:
        if not self.came.full():
            self.came.put_nowait(data)


class Teller:
    """Sends for one process: it knows managers' clocks, and what our own engine is."""

    def __init__(self, ours: Callable[[], Clock]) -> None:
        self.ours = ours
        self._clocks: dict[tuple[str, int], tuple[Clock, float]] = {}
        self._salt = secrets.randbits(64)
        self._began = time.monotonic()

    async def tell(self, manager: Manager, notification: str, variables: list[bytes]) -> None:
        """One notification; an inform until it is confirmed. Raises NotAllowed, NoConfirmation, Refused."""
        loop = asyncio.get_running_loop()
        try:
            address = await resolve(manager.host, manager.port, socket.SOCK_DGRAM)
            transport, answers = await loop.create_datagram_endpoint(_Answers, remote_addr=(address, manager.port))
        except OSError as error:
            raise NoConfirmation(f"{manager.host} cannot be reached: {error}") from error
        try:
            await self._tell(transport, answers, manager, notification, telling.fitting(variables, LARGEST))
        finally:
            transport.close()

    async def _tell(
        self, transport: asyncio.DatagramTransport, answers: _Answers, manager: Manager, notification: str,
        variables: list[bytes],
    ) -> None:  # fmt: skip
        # One number for all attempts: a manager that gets it twice can tell.
        request = secrets.randbits(31) or 1
        kind = usm.INFORM if manager.inform else usm.TRAP
        pdu = telling.pdu(kind, request, time.monotonic() - self._began, notification, variables)
        if manager.user is None:
            message = telling.of_version_2c(manager.community, pdu)
            await self._send(transport, answers, manager, lambda: message, lambda a: telling.confirms_2c(a, request))
            return
        user = manager.user
        if not manager.inform:
            transport.sendto(telling.of_version_3(user, self.ours(), request, pdu, self._next_salt()))
            return
        where = manager.host, manager.port
        for _ in range(2):
            clock = await self._clock(transport, answers, manager)
            report: list[usm.Frame] = []
            await self._send(
                transport,
                answers,
                manager,
                lambda clock=clock: telling.of_version_3(user, clock, request, pdu, self._next_salt()),  # type: ignore[misc]
                lambda a, report=report: _understood(a, user, request, report),  # type: ignore[misc]
            )
            if not report:
                return
            # It says that our idea of its time is wrong: asked anew, once.
            self._clocks.pop(where, None)
        raise Refused(f"{manager.host} does not take it: neither its time nor this user's passphrase fits.")

    async def _send(
        self, transport: asyncio.DatagramTransport, answers: _Answers, manager: Manager,
        message: Callable[[], bytes], confirms: Callable[[bytes], bool],
    ) -> None:  # fmt: skip
        if not manager.inform:
            transport.sendto(message())
            return
        for _ in range(TIMES):
            transport.sendto(message())
            try:
                async with asyncio.timeout(PATIENCE):
                    while not confirms(await answers.came.get()):
                        pass
                return
            except TimeoutError:
                continue
            except usm.Rejected as error:
                raise Refused(f"{manager.host} answered what this user has not signed.") from error
        raise NoConfirmation(f"{manager.host} did not confirm within {TIMES * PATIENCE:g} s.")

    async def _clock(self, transport: asyncio.DatagramTransport, answers: _Answers, manager: Manager) -> Clock:
        """Who the manager is, and what its time is now."""
        where = manager.host, manager.port
        if where not in self._clocks:
            found: list[Clock] = []
            id = secrets.randbits(31) or 1

            def heard(answer: bytes) -> bool:
                try:
                    found.append(telling.clock_of(answer))
                except NotReadable:
                    return False
                return True

            await self._send(transport, answers, manager, lambda: telling.question(id), heard)
            self._clocks[where] = found[0], time.monotonic()
        clock, since = self._clocks[where]
        return Clock(clock.engine, clock.boots, clock.time + int(time.monotonic() - since))

    def _next_salt(self) -> bytes:
        self._salt = (self._salt + 1) & 0xFFFFFFFFFFFFFFFF
        return self._salt.to_bytes(8, "big")


def _understood(answer: bytes, user: User, request: int, report: list[usm.Frame]) -> bool:
    """Whether something of use came: a confirmation, or a report, which is put aside."""
    found = telling.confirms_3(answer, user, request)
    if isinstance(found, usm.Frame):
        report.append(found)
        return True
    return found
