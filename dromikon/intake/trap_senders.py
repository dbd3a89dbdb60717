"""Who sends traps: known by the community that they say, or as a user of version 3 by what they sign with."""

import json
import secrets as random_secrets
from collections.abc import Callable
from dataclasses import dataclass
from hashlib import sha256
from typing import cast

from dromikon import secrets
from dromikon.clock import now_ms
from dromikon.core.decoding import snmp
from dromikon.core.proofs import BY_TRAP
from dromikon.core.reading import NotReadable
from dromikon.core.snmp import usm
from dromikon.core.snmp.own import ENTERPRISE
from dromikon.core.snmp.usm import Clock, Frame, Inside, Rejected, Times, User
from dromikon.intake.known import Known, known_intake
from dromikon.sources.models import Intake

#: Ours in names of engines: the number that is kept for examples (RFC 5612), since nobody has given us one.
OCTETS_FOLLOW = 5
#: Boots are counted in minutes since then, so that they grow without being kept.
SINCE_S = 1_577_836_800


@dataclass(frozen=True, slots=True)
class Sent:
    """A trap or an inform of somebody who is known. `body`: what is kept; `answer`: what an inform waits for; `same`: alike for
    the same inform that is sent again."""

    intake: str
    known: Known
    body: bytes
    meta: str
    answer: bytes | None
    same: bytes


@dataclass(frozen=True, slots=True)
class Turned:
    """What is not taken: why, by whose intake where that is known, and what is said to its sender at once."""

    why: str
    intake: str = ""
    reply: bytes | None = None
    #: It is no more than the first half of a conversation.
    asks: bool = False


@dataclass(frozen=True, slots=True)
class Configured:
    """Who may send: intakes by the digest of a community, and by a user's name."""

    communities: dict[str, tuple[str, Known]]
    users: dict[str, tuple[str, Known]]


def configured() -> Configured:
    """As the configuration has it now."""
    found = Configured({}, {})
    wanted = Intake.objects.filter(proof__in=BY_TRAP, enabled=True, retired_at=None)
    for id in wanted.values_list("id", flat=True):
        known = known_intake(id)
        if known is None:
            continue
        if known.proof == "community":
            found.communities.update(dict.fromkeys(known.settings.secrets, (id, known)))
        else:
            found.users[known.settings.user] = (id, known)
    return found


class OurEngine:
    """What our engine is called in SNMP, and its time since this process began (RFC 3414, 2.2)."""

    def __init__(self, clock: Callable[[], int] = now_ms, part: str = "") -> None:
        """`part`: which of our processes; each has a time of its own, and so a name."""
        self._clock = clock
        self._began_s = clock() // 1000
        name = sha256(secrets.derived(f"snmp engine{part}")).digest()[:8]
        self.name = (0x80000000 | ENTERPRISE).to_bytes(4, "big") + bytes([OCTETS_FOLLOW]) + name

    @property
    def now(self) -> Clock:
        """Boots and time. Boots are the minutes since 2020 at which the process began, so that they grow without being kept."""
        now = self._clock() // 1000
        return Clock(self.name, max(1, (self._began_s - SINCE_S) // 60), max(0, now - self._began_s))


class Senders:
    """Tells who sent a datagram. It knows what our engine is called, and how far the clocks of others have come."""

    def __init__(self, clock: Callable[[], int] = now_ms) -> None:
        self._clock = clock
        self._own = OurEngine(clock)
        self._times = Times()
        self._reports = 0
        self._salt = random_secrets.randbits(64)
        self._engine = self._own.name

    @property
    def ours(self) -> Clock:
        """Our engine's time."""
        return self._own.now

    def recognise(self, data: bytes, sender: str, who: Configured) -> Sent | Turned:
        """Who sent a datagram, and what of it is kept. Raises NotReadable."""
        return self._by_user(data, sender, who) if usm.is_version_3(data) else _by_community(data, sender, who)

    def _by_user(self, data: bytes, sender: str, who: Configured) -> Sent | Turned:
        message = usm.frame(data)
        if message.reportable and message.clock.engine != self._engine:
            # How whoever sends informs learns who we are (RFC 3414, 4).
            return Turned("engine", reply=self._report(message, "engine"), asks=True)
        found = who.users.get(message.user)
        if found is None:
            return Turned("user", reply=self._report(message, "user") if message.reportable else None)
        intake, known = found
        try:
            user, inside = self._opened(message, data, known)
        except Rejected as rejected:
            signed = rejected.why == "time"
            reply = (
                self._report(message, rejected.why, _user(known) if signed else None) if message.reportable else None
            )
            return Turned(rejected.why, intake, reply, asks=signed and message.reportable)
        if inside.sort not in (usm.TRAP, usm.INFORM):
            raise NotReadable("it is no trap")
        meta = json.dumps({"from": sender, "user": message.user, "engine": message.clock.engine.hex()})
        answer = self._answer(message, inside, user) if inside.sort == usm.INFORM else None
        return Sent(intake, known, inside.data, meta, answer, sender.encode() + inside.data)

    def _opened(self, message: Frame, data: bytes, known: Known) -> tuple[User, Inside]:
        """By the passphrase in use, or by the one before while a rotation overlaps. Raises Rejected, NotReadable."""
        failed = Rejected("signature")
        for secret in known.settings.secrets:
            user = _user(known, secret)
            try:
                inside = usm.opened(message, data, user)
            except Rejected as rejected:
                failed = rejected
                continue
            if message.clock.engine == self._engine:
                usm.check_ours(message.clock, self.ours)
            elif inside.sort == usm.INFORM:
                raise Rejected("engine")
            else:
                self._times.check(message.clock, self._clock() // 1000)
            return user, inside
        raise failed

    def _answer(self, message: Frame, inside: Inside, user: User) -> bytes:
        self._salt = (self._salt + 1) & 0xFFFFFFFFFFFFFFFF
        return usm.answer(message, inside, user, self.ours, self._salt.to_bytes(8, "big"))

    def _report(self, message: Frame, why: str, user: User | None = None) -> bytes:
        self._reports += 1
        return usm.report(message, why, self._reports, self.ours, user)


def _user(known: Known, secret: str = "") -> User:
    settings = known.settings
    return User(
        settings.user, secret or next(iter(settings.secrets), ""), settings.private, cast(usm.Hashing, settings.hashing),
        cast(usm.Cipher_, settings.cipher),
    )  # fmt: skip


def _by_community(data: bytes, sender: str, who: Configured) -> Sent | Turned:
    head = snmp.header(data)
    found = who.communities.get(secrets.digest_of_token(head.community))
    if found is None:
        return Turned("community")
    return Sent(*found, data, json.dumps({"from": sender}), head.answer(data), sender.encode() + data)
