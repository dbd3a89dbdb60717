"""The user-based security model of SNMP version 3 (RFC 3414), with the sums of RFC 7860 and the cipher of RFC 3826: who sends a
trap or an inform, what it says inside, and what is answered. Pure: messages in, messages out."""

import hmac
from dataclasses import dataclass, replace
from functools import lru_cache
from hashlib import new as hashing_by
from typing import Literal

from cryptography.hazmat.decrepit.ciphers.modes import CFB
from cryptography.hazmat.primitives.ciphers import Cipher
from cryptography.hazmat.primitives.ciphers.algorithms import AES
from pyasn1.type.univ import OctetString
from pysnmp.proto.secmod.rfc3414 import localkey

from dromikon.core.reading import NotReadable
from dromikon.core.snmp import ber
from dromikon.core.words import t

Hashing = Literal["sha1", "sha224", "sha256", "sha384", "sha512"]
Cipher_ = Literal["aes128", "none"]
#: So many bytes of each sum are sent (RFC 3414, 6.3.1; RFC 7860, 4.1).
DIGEST_SIZES: dict[str, int] = {"sha1": 12, "sha224": 16, "sha256": 24, "sha384": 32, "sha512": 48}
AES_KEY = 16
#: Bits of the message's flags.
AUTHENTICATED, PRIVATE, REPORTABLE = 1, 2, 4
USM = 3
#: A message may be so much older than its engine's time, in s (RFC 3414, 2.2.3).
WINDOW = 150
LARGEST = 65_507
GET, INFORM, RESPONSE, REPORT, TRAP = 0xA0, 0xA6, 0xA2, 0xA8, 0xA7
#: Counters that a report tells of, by why a message was not taken (RFC 3414, 5).
WHY = {
    "time": "1.3.6.1.6.3.15.1.1.2.0", "user": "1.3.6.1.6.3.15.1.1.3.0", "engine": "1.3.6.1.6.3.15.1.1.4.0",
    "signature": "1.3.6.1.6.3.15.1.1.5.0", "level": "1.3.6.1.6.3.15.1.1.1.0", "cipher": "1.3.6.1.6.3.15.1.1.6.0",
}  # fmt: skip


class Rejected(Exception):
    """A message is not taken; `why` is a key of `WHY`."""

    def __init__(self, why: str) -> None:
        super().__init__(why)
        self.why = why


@dataclass(frozen=True, slots=True)
class User:
    """Somebody who may send: name, passphrases, and how they are used."""

    name: str
    secret: str
    private: str = ""
    hashing: Hashing = "sha256"
    cipher: Cipher_ = "aes128"


@dataclass(frozen=True, slots=True)
class Clock:
    """An engine's name and time: how often it has begun, and since how many seconds it runs."""

    engine: bytes
    boots: int
    time: int


@dataclass(frozen=True, slots=True)
class Frame:
    """The outside of a message. `digest`: where its sum stands; `inside`: its content, in the clear or not."""

    id: int
    flags: int
    clock: Clock
    user: str
    digest: tuple[int, int]
    salt: bytes
    inside: bytes

    @property
    def reportable(self) -> bool:
        return bool(self.flags & REPORTABLE)


@dataclass(frozen=True, slots=True)
class Inside:
    """A scoped PDU: what sort it is, its number, and where the PDU stands in it."""

    data: bytes
    sort: int
    request: int
    place: int


def is_version_3(data: bytes) -> bool:
    """Whether a datagram says that it is of version 3."""
    try:
        begins, _ = ber.element(data, 0, ber.SEQUENCE)
        return ber.integer(data, begins)[0] == 3
    except NotReadable:
        return False


def frame(data: bytes) -> Frame:
    """Read the outside of a message. Raises NotReadable."""
    at, _ = ber.element(data, 0, ber.SEQUENCE)
    _, at = ber.integer(data, at)
    head, at = ber.element(data, at, ber.SEQUENCE)
    id, head = ber.integer(data, head)
    _, head = ber.integer(data, head)
    flags, head = ber.octets(data, head)
    model, _ = ber.integer(data, head)
    if model != USM or len(flags) != 1:
        raise NotReadable(t("it is of a security model that is not read here"))
    security, after = ber.element(data, at, ber.OCTETS)
    place, _ = ber.element(data, security, ber.SEQUENCE)
    engine, place = ber.octets(data, place)
    boots, place = ber.integer(data, place)
    time, place = ber.integer(data, place)
    user, place = ber.octets(data, place)
    digest = ber.element(data, place, ber.OCTETS)
    salt, _ = ber.octets(data, digest[1])
    if flags[0] & PRIVATE:
        inside, _ = ber.octets(data, after)
    else:
        inside = data[after : ber.element(data, after, ber.SEQUENCE)[1]]
    clock = Clock(engine, boots, time)
    return Frame(id, flags[0], clock, user.decode("utf-8", "replace"), digest, salt, inside)


def opened(message: Frame, data: bytes, user: User) -> Inside:
    """What a message says inside, once its sum is right and it is as private as the user's messages are to be. Raises
    Rejected, NotReadable."""
    if not message.flags & AUTHENTICATED or (user.cipher != "none" and not message.flags & PRIVATE):
        raise Rejected("level")
    begins, ends = message.digest
    said = data[begins:ends]
    blank = data[:begins] + bytes(ends - begins) + data[ends:]
    if not hmac.compare_digest(said, _digest(blank, user, message.clock.engine)):
        raise Rejected("signature")
    if not message.flags & PRIVATE:
        return inside(message.inside)
    if len(message.salt) != 8 or user.cipher == "none":
        raise Rejected("cipher")
    decryptor = _cipher(user, message.clock, message.salt).decryptor()
    try:
        return inside(decryptor.update(message.inside) + decryptor.finalize())
    except NotReadable as error:
        # The sum is right, so that only the passphrase for privacy can be another one.
        raise Rejected("cipher") from error


def inside(data: bytes) -> Inside:
    """Read a scoped PDU as far as its number. Raises NotReadable."""
    at, ends = ber.element(data, 0, ber.SEQUENCE)
    _, at = ber.octets(data, at)
    _, at = ber.octets(data, at)
    if at >= ends:
        raise NotReadable(t("it is cut off"))
    begins, _ = ber.element(data, at, data[at])
    request, _ = ber.integer(data, begins)
    return Inside(data[:ends], data[at], request, at)


def answer(message: Frame, said: Inside, user: User, ours: Clock, salt: bytes) -> bytes:
    """What an inform waits for: itself as a response, as secret as it came (RFC 3416, 4.2.7). `salt`: eight bytes that have
    not been used before."""
    pdu = said.data[: said.place] + bytes([RESPONSE]) + said.data[said.place + 1 :]
    return written(message.id, message.flags & ~REPORTABLE, ours, user, pdu, salt)


def report(message: Frame, why: str, count: int, ours: Clock, user: User | None = None) -> bytes:
    """Why a message was not taken (RFC 3412, 7.1): how its sender learns who we are and what our time is. With a `user` the
    report is signed, since a time is only believed so."""
    value = ber.write(ber.SEQUENCE, ber.write_oid(WHY[why]) + ber.write_integer(count & 0x7FFFFFFF, ber.COUNTER))
    numbers = b"".join(ber.write_integer(n) for n in (_request_of(message), 0, 0))
    pdu = ber.write(REPORT, numbers + ber.write(ber.SEQUENCE, value))
    scoped = ber.write(ber.SEQUENCE, ber.write(ber.OCTETS, ours.engine) + ber.write(ber.OCTETS, b"") + pdu)
    signed = replace(user, cipher="none") if user else User("", "", cipher="none")
    return written(message.id, AUTHENTICATED if user else 0, ours, signed, scoped, b"")


def _request_of(message: Frame) -> int:
    """The number of the request inside, where it is in the clear."""
    if message.flags & PRIVATE:
        return 0
    try:
        return inside(message.inside).request
    except NotReadable:
        return 0


def written(id: int, flags: int, clock: Clock, user: User, scoped: bytes, salt: bytes) -> bytes:
    """A message around a scoped PDU, signed and made private as its flags say."""
    head = ber.write_integer(id) + ber.write_integer(LARGEST) + ber.write(ber.OCTETS, bytes([flags]))
    content = scoped
    if flags & PRIVATE:
        encryptor = _cipher(user, clock, salt).encryptor()
        content = ber.write(ber.OCTETS, encryptor.update(scoped) + encryptor.finalize())
    blank = bytes(DIGEST_SIZES[user.hashing]) if flags & AUTHENTICATED else b""

    def whole(digest: bytes) -> bytes:
        parameters = (
            ber.write(ber.OCTETS, clock.engine) + ber.write_integer(clock.boots) + ber.write_integer(clock.time)
        )
        parameters += ber.write(ber.OCTETS, user.name.encode()) + ber.write(ber.OCTETS, digest)
        parameters += ber.write(ber.OCTETS, salt if flags & PRIVATE else b"")
        security = ber.write(ber.OCTETS, ber.write(ber.SEQUENCE, parameters))
        header = ber.write(ber.SEQUENCE, head + ber.write_integer(USM))
        return ber.write(ber.SEQUENCE, ber.write_integer(3) + header + security + content)

    return whole(_digest(whole(blank), user, clock.engine)) if flags & AUTHENTICATED else whole(b"")


def _digest(blank: bytes, user: User, engine: bytes) -> bytes:
    """The sum of a message whose place for it is blank."""
    key = _localized(user.hashing, user.secret, engine)
    return hmac.digest(key, blank, user.hashing)[: DIGEST_SIZES[user.hashing]]


def _cipher(user: User, clock: Clock, salt: bytes) -> "Cipher[CFB]":
    """RFC 3826, 3.1.2.1: boots, time and salt are the start."""
    key = _localized(user.hashing, user.private, clock.engine)[:AES_KEY]
    start = (clock.boots & 0xFFFFFFFF).to_bytes(4, "big") + (clock.time & 0xFFFFFFFF).to_bytes(4, "big") + salt
    return Cipher(AES(key), CFB(start))


@lru_cache(maxsize=2_000)
def _localized(hashing: str, passphrase: str, engine: bytes) -> bytes:
    """The key of a passphrase for one engine (RFC 3414, A.2)."""
    key = _key(hashing, passphrase)
    return hashing_by(hashing, key + engine + key).digest()


@lru_cache(maxsize=200)
def _key(hashing: str, passphrase: str) -> bytes:
    """A megabyte of the passphrase, summed: slow on purpose."""
    return bytes(localkey.hash_passphrase(OctetString(passphrase.encode()), lambda: hashing_by(hashing)))


class Times:
    """How far the clocks of engines that send traps have come: what is older than what came before is not taken again."""

    def __init__(self, most: int = 2_000) -> None:
        self._most = most
        self._known: dict[bytes, tuple[int, int, int]] = {}

    def check(self, clock: Clock, now_s: int) -> None:
        """A message of an engine, authenticated, at our second `now_s`. Raises Rejected("time") (RFC 3414, 3.2.7b)."""
        known = self._known.get(clock.engine)
        if known is not None:
            boots, time, since = known
            expected = time + max(0, now_s - since)
            if clock.boots < boots or (clock.boots == boots and clock.time < expected - WINDOW):
                raise Rejected("time")
            if clock.boots == boots and clock.time < time:
                return
        elif len(self._known) >= self._most:
            self._known.pop(next(iter(self._known)))
        self._known[clock.engine] = (clock.boots, clock.time, now_s)


def check_ours(clock: Clock, ours: Clock) -> None:
    """Whether an inform goes by our time. Raises Rejected("time") (RFC 3414, 3.2.7a)."""
    if clock.boots != ours.boots or abs(clock.time - ours.time) > WINDOW:
        raise Rejected("time")
