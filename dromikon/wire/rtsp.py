"""Receiving one medium of a device's stream (RTSP 1.0, RFC 2326), its packets interleaved with the conversation, so that one
connection through the gate is all that it needs."""

import hashlib
import secrets
from collections.abc import AsyncGenerator, Mapping
from contextlib import aclosing, asynccontextmanager
from dataclasses import dataclass, field
from time import monotonic
from urllib.parse import urljoin, urlsplit, urlunsplit

import httpcore

from dromikon.core.reading import parameters
from dromikon.wire.onvif.soap import DeviceError
from dromikon.wire.outgoing import GatedBackend, NotAllowed
from dromikon.wire.rtp import Assembly, NoPacket
from dromikon.wire.sdp import Medium, media_of

PORT = 554
#: A device answers within so many seconds; a stream may be still for longer, but a device that does not answer when it is told
#: that we are still here is gone.
PATIENCE, STILL = 8.0, 60.0
#: A session that names no time ends so many seconds after it was last heard of.
LASTS = 60.0
LONGEST_HEAD, LONGEST_BODY = 16_384, 65_536
#: Digests that devices ask for (RFC 7616), and what they are here.
DIGESTS = {"MD5": hashlib.md5, "SHA-256": hashlib.sha256}


@dataclass(frozen=True, slots=True)
class Answer:
    """What a device answered: status, headers by name in lower case, body."""

    status: int
    headers: Mapping[str, str]
    body: bytes


async def documents(address: str, user: str, password: str, encoding: str) -> AsyncGenerator[bytes]:
    """The documents of a stream's medium with an encoding ("vnd.onvif.metadata"), as they come, until it is closed. Raises
    DeviceError."""
    async with conversation(address, user, password) as talk:
        await talk.begin(address, encoding)
        async with aclosing(talk.documents()) as coming:
            async for document in coming:
                yield document


@asynccontextmanager
async def conversation(address: str, user: str, password: str) -> "AsyncGenerator[Conversation]":
    """A connection to a device's stream. Raises DeviceError with reason not_allowed, unreachable, timeout, refused, malformed,
    oversized or fault."""
    parts = urlsplit(address)
    if parts.scheme != "rtsp":
        raise DeviceError("fault", "The device streams by a protocol that is not read here.")
    try:
        stream = await GatedBackend().connect_tcp(parts.hostname or "", parts.port or PORT, PATIENCE)
    except NotAllowed as error:
        raise DeviceError("not_allowed", str(error)) from error
    except httpcore.TimeoutException as error:
        raise DeviceError("timeout", "The device's stream does not answer.") from error
    except httpcore.NetworkError as error:
        raise DeviceError("unreachable", f"The device's stream cannot be reached: {error}") from error
    try:
        yield Conversation(stream, user, password)
    except httpcore.NetworkError as error:
        raise DeviceError("unreachable", "The device broke its stream off.") from error
    except httpcore.TimeoutException as error:
        raise DeviceError("timeout", "The device's stream stopped answering.") from error
    finally:
        await stream.aclose()


@dataclass
class Conversation:
    """One connection: requests and their answers, with packets in between."""

    stream: httpcore.AsyncNetworkStream
    user: str
    password: str
    _waiting: bytearray = field(default_factory=bytearray)
    _challenge: dict[str, str] = field(default_factory=dict)
    _sequence: int = 0
    _counted: int = 0
    _address: str = ""
    _session: str = ""
    _lasts: float = LASTS

    async def begin(self, address: str, encoding: str) -> Medium:
        """Ask what there is, and have the medium sent. Raises DeviceError."""
        described = await self.ask("DESCRIBE", address, Accept="application/sdp")
        base = described.headers.get("content-base") or described.headers.get("content-location") or address
        medium = medium_of(described.body.decode("utf-8", "replace"), encoding)
        if medium is None:
            raise DeviceError("fault", "The device's stream has no such medium.")
        place = kept_to(address, urljoin(base if base.endswith("/") else f"{base}/", medium.control))
        made = await self.ask("SETUP", place, Transport="RTP/AVP/TCP;unicast;interleaved=0-1")
        self.keep_session(made)
        self._address = kept_to(address, base)
        await self.ask("PLAY", self._address, Range="npt=0.000-")
        return medium

    def keep_session(self, made: Answer) -> None:
        """The session that a device has made; what is asked from now on belongs to it."""
        self._session, _, rest = made.headers.get("session", "").partition(";")
        told = rest.strip().removeprefix("timeout=")
        self._lasts = max(10.0, float(told)) if told.isdigit() else LASTS

    async def documents(self) -> AsyncGenerator[bytes]:
        """The documents that come, each of as many packets as it needs."""
        assembly = Assembly()
        async with aclosing(self.packets()) as coming:
            async for packet in coming:
                try:
                    document = assembly.take(packet)
                except NoPacket as error:
                    raise unreadable(error) from error
                if document is not None:
                    yield document

    async def packets(self) -> AsyncGenerator[bytes]:
        """What comes of the medium, packet by packet, while the device is told now and then that we are still here."""
        heard = monotonic()
        due = heard + self._lasts / 2
        while True:
            try:
                channel, packet = await self._next(max(0.05, due - monotonic()))
            except httpcore.ReadTimeout:
                if monotonic() - heard > STILL + self._lasts / 2:
                    raise
                channel, packet = None, b""
            else:
                heard = monotonic()
            if monotonic() >= due:
                await self._send("GET_PARAMETER", self._address, {"Session": self._session})
                due = monotonic() + self._lasts / 2
            if channel == 0:
                yield packet

    # -- asking --------------------------------------------------------------------------------------------------------

    async def ask(self, method: str, address: str, **headers: str) -> Answer:
        """Ask once, and again with the password when it is asked for. Raises DeviceError."""
        more = {"Session": self._session} if self._session else {}
        answer = await self._exchange(method, address, {**headers, **more})
        if answer.status == 401 and self._take_challenge(answer):
            answer = await self._exchange(method, address, {**headers, **more})
        if answer.status in (401, 403):
            raise DeviceError("refused", "The device's stream refuses the user name or password.")
        if answer.status != 200:
            raise DeviceError("fault", f"The device answered {answer.status} to {method} of its stream.")
        return answer

    async def _exchange(self, method: str, address: str, headers: Mapping[str, str]) -> Answer:
        await self._send(method, address, headers)
        while True:
            channel, said = await self._next(PATIENCE)
            if channel is None:
                return _answer(said)

    async def _send(self, method: str, address: str, headers: Mapping[str, str]) -> None:
        self._sequence += 1
        lines = [f"{method} {address} RTSP/1.0", f"CSeq: {self._sequence}", "User-Agent: Dromikon"]
        lines += [f"{name}: {value}" for name, value in headers.items()]
        if self._challenge:
            lines.append(f"Authorization: {self._digest(method, address)}")
        await self.stream.write(("\r\n".join(lines) + "\r\n\r\n").encode(), PATIENCE)

    def _take_challenge(self, answer: Answer) -> bool:
        """Keep what the device wants the password answered to. A second refusal is one of the password, unless what it wanted
        was too old; a password is not sent in the clear."""
        kind, _, rest = answer.headers.get("www-authenticate", "").partition(" ")
        said = parameters(rest) if kind.lower() == "digest" else {}
        if said.get("algorithm", "MD5").upper() not in DIGESTS or "nonce" not in said:
            return False
        again, self._challenge = bool(self._challenge), said
        return not again or said.get("stale", "").lower() == "true"

    def _digest(self, method: str, address: str) -> str:
        """RFC 7616, 3.4; without "qop" as RFC 2069 had it."""
        said = self._challenge
        algorithm, realm, nonce = said.get("algorithm", "MD5"), said.get("realm", ""), said["nonce"]

        def digest(text: str) -> str:
            return DIGESTS[algorithm.upper()](text.encode(), usedforsecurity=False).hexdigest()

        first, second = digest(f"{self.user}:{realm}:{self.password}"), digest(f"{method}:{address}")
        content = {"username": self.user, "realm": realm, "nonce": nonce, "uri": address}
        if "auth" in said.get("qop", ""):
            self._counted += 1
            count, ours = f"{self._counted:08x}", secrets.token_hex(8)
            content |= {"response": digest(f"{first}:{nonce}:{count}:{ours}:auth:{second}"), "cnonce": ours}
            bare = f", algorithm={algorithm}, qop=auth, nc={count}"
        else:
            content |= {"response": digest(f"{first}:{nonce}:{second}")}
            bare = f", algorithm={algorithm}" if "algorithm" in said else ""
        if "opaque" in said:
            content["opaque"] = said["opaque"]
        return "Digest " + ", ".join(f'{name}="{value}"' for name, value in content.items()) + bare

    # -- reading -------------------------------------------------------------------------------------------------------

    async def _next(self, timeout: float) -> tuple[int | None, bytes]:
        """The next packet with its channel, or the head and body of a message with None. Raises DeviceError, and what the
        stream raises."""
        await self._until(1, timeout)
        if self._waiting[0] == ord("$"):
            await self._until(4)
            size = int.from_bytes(self._waiting[2:4], "big")
            await self._until(4 + size)
            packet = self._cut(4 + size)
            return packet[1], packet[4:]
        while (end := self._waiting.find(b"\r\n\r\n")) < 0:
            if len(self._waiting) > LONGEST_HEAD:
                raise DeviceError("oversized", "What the device's stream says has no end.")
            await self._until(len(self._waiting) + 1)
        size = _length(bytes(self._waiting[:end]))
        await self._until(end + 4 + size)
        return None, self._cut(end + 4 + size)

    async def _until(self, count: int, timeout: float = PATIENCE) -> None:
        """Read until so many bytes wait."""
        while len(self._waiting) < count:
            more = await self.stream.read(65_536, timeout)
            if not more:
                raise DeviceError("unreachable", "The device ended its stream.")
            self._waiting += more

    def _cut(self, count: int) -> bytes:
        found = bytes(self._waiting[:count])
        del self._waiting[:count]
        return found


def medium_of(description: str, encoding: str) -> Medium | None:
    """The medium with an encoding, from a session's description; None when it has none."""
    return next((m for m in media_of(description) if m.carries(encoding)), None)


def unreadable(error: NoPacket) -> DeviceError:
    """What a stream sends is no packet."""
    return DeviceError("malformed", f"The device's stream cannot be read: {error}")


def kept_to(address: str, told: str) -> str:
    """An address that the device tells, at the host and port that it was reached at."""
    ours, theirs = urlsplit(address), urlsplit(told)
    return urlunsplit((ours.scheme, ours.netloc, theirs.path, theirs.query, ""))


def _length(head: bytes) -> int:
    """How long the body is that a head announces. Raises DeviceError."""
    told = _headers(head).get("content-length", "0")
    if not told.isdigit():
        raise DeviceError("malformed", "The device's stream says something that cannot be read.")
    if int(told) > LONGEST_BODY:
        raise DeviceError("oversized", "What the device's stream says is too long.")
    return int(told)


def _answer(said: bytes) -> Answer:
    head, _, body = said.partition(b"\r\n\r\n")
    first = head.split(b"\r\n", 1)[0].decode("latin-1").split(" ", 2)
    if len(first) < 2 or not first[0].startswith("RTSP/") or not first[1].isdigit():
        raise DeviceError("malformed", "The device's stream says something that cannot be read.")
    return Answer(int(first[1]), _headers(head), body)


def _headers(head: bytes) -> dict[str, str]:
    pairs = (line.partition(":") for line in head.decode("latin-1").split("\r\n")[1:])
    return {name.strip().lower(): value.strip() for name, _, value in pairs}
