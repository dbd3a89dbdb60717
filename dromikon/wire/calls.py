"""Calls to other systems and to devices: one request, one answer, many a second, through the gate for outgoing connections.

Apart from the client that recorders are spoken to with: that one costs ten times as much for each request, which neither a
burst of steps nor forty sessions can afford.
"""

import asyncio
import base64
import socket
import ssl
from collections.abc import Mapping
from dataclasses import dataclass, field
from ipaddress import ip_address
from weakref import WeakKeyDictionary

import aiohttp
from aiohttp.abc import AbstractResolver, ResolveResult
from yarl import URL

from dromikon.wire.outgoing import NotAllowed, gate, resolve, tls

#: How long connecting, and then each wait for something of the answer, may take, in seconds.
PATIENCE = 8.0
#: How long one call may take with all its waits, in seconds.
LONGEST = 60.0
#: An idle connection is kept for so long, in seconds.
IDLE = 5.0
#: More of an answer than this is of no interest, in bytes; its connection is not kept.
MOST_READ = 65_536
_sessions: "WeakKeyDictionary[asyncio.AbstractEventLoop, aiohttp.ClientSession]" = WeakKeyDictionary()


class NotSent(Exception):
    """The request did not leave: the host could not be reached. It may be tried again."""


class NoAnswer(Exception):
    """The request may have arrived; no answer came, or half of one."""


class NoAddress(Exception):
    """What should be called is no address."""


@dataclass(frozen=True, slots=True)
class Answer:
    """What came back: at most `MOST_READ` bytes of it."""

    status: int
    content: bytes = b""

    @property
    def text(self) -> str:
        return self.content.decode("utf-8", "replace")

    @property
    def beginning(self) -> str:
        """What it says first, in one line, for people."""
        return " ".join(self.text.split())[:160]

    @property
    def is_success(self) -> bool:
        return 200 <= self.status < 300


class GatedResolver(AbstractResolver):
    """Finds the one address of a name that the gate lets through. Raises NotAllowed, OSError."""

    async def resolve(
        self, host: str, port: int = 0, family: socket.AddressFamily = socket.AF_UNSPEC
    ) -> list[ResolveResult]:
        address = await resolve(host, port)
        numeric = socket.AI_NUMERICHOST | socket.AI_NUMERICSERV
        sort = socket.AF_INET6 if ":" in address else socket.AF_INET
        return [ResolveResult(hostname=host, host=address, port=port, family=sort, proto=0, flags=numeric)]

    async def close(self) -> None:
        return


@dataclass(frozen=True, slots=True)
class LogIn:
    """Who we are to a system. `scheme`: basic, digest (RFC 7616), bearer, or header: the secret in a header of its own."""

    scheme: str
    user: str
    secret: str = field(repr=False)
    header: str = ""

    def headers(self) -> dict[str, str]:
        """What is sent at once; a digest is sent once it has been asked for."""
        if self.scheme == "basic":
            pair = base64.b64encode(f"{self.user}:{self.secret}".encode()).decode()
            return {"authorization": f"Basic {pair}"}
        if self.scheme == "bearer":
            return {"authorization": f"Bearer {self.secret}"}
        return {self.header: self.secret} if self.scheme == "header" else {}


async def call(
    method: str, url: str, *, body: bytes | None = None, headers: Mapping[str, str] | None = None,
    patience: float | None = None, login: LogIn | None = None,
) -> Answer:  # fmt: skip
    """Make one call. Redirects are not followed, cookies not kept. `patience`: how long it may take in all, in seconds.
    Raises NotAllowed, NoAddress, NotSent or NoAnswer."""
    sent = {**(headers or {}), **(login.headers() if login else {})}
    digest = (aiohttp.DigestAuthMiddleware(login.user, login.secret),) if login and login.scheme == "digest" else None
    try:
        check_numeric(URL(url).host or "")
        async with _session().request(
            method, URL(url), data=body, headers=sent, allow_redirects=False, middlewares=digest,
            timeout=_timeout(patience),
        ) as answer:  # fmt: skip
            return Answer(answer.status, await answer.content.read(MOST_READ))
    except (aiohttp.ClientConnectorError, aiohttp.ConnectionTimeoutError) as error:
        # First: a certificate that does not fit is a ValueError too.
        raise NotSent(str(error) or type(error).__name__) from error
    except (aiohttp.InvalidURL, aiohttp.NonHttpUrlClientError, ValueError) as error:
        raise NoAddress(str(error)) from error
    except (aiohttp.ClientError, TimeoutError) as error:
        raise NoAnswer(str(error) or type(error).__name__) from error


def _timeout(patience: float | None) -> aiohttp.ClientTimeout:
    waits = PATIENCE if patience is None else patience
    return aiohttp.ClientTimeout(total=patience or LONGEST, sock_connect=min(PATIENCE, waits), sock_read=waits)


def check_numeric(host: str) -> None:
    """An address in numbers is not resolved, so the resolver does not see it. Raises NotAllowed."""
    try:
        ip_address(host)
    except ValueError:
        return
    gate().choose(host, [host])


def _session() -> aiohttp.ClientSession:
    """The running loop's connections, kept for the next call."""
    loop = asyncio.get_running_loop()
    if loop not in _sessions:
        _sessions[loop] = session()
    return _sessions[loop]


def session(
    trusting: ssl.SSLContext | None = None,
    keep: float = IDLE,
    middlewares: tuple[aiohttp.ClientMiddlewareType, ...] = (),
) -> aiohttp.ClientSession:
    """Connections through the gate, for whoever keeps them. `trusting`: another context than that of the authorities;
    `keep`: for how long an idle one is kept, in seconds."""
    connector = aiohttp.TCPConnector(
        resolver=GatedResolver(), use_dns_cache=False, ssl=trusting or tls(), limit=0, keepalive_timeout=keep,
        family=socket.AF_UNSPEC,
    )  # fmt: skip
    made = aiohttp.ClientSession(
        connector=connector,
        timeout=aiohttp.ClientTimeout(total=LONGEST, sock_connect=PATIENCE, sock_read=PATIENCE),
        cookie_jar=aiohttp.DummyCookieJar(),
        headers={"User-Agent": "Dromikon"},
        auto_decompress=False,
        trust_env=False,
        middlewares=middlewares,
    )
    # A call whose connection breaks off is never made a second time behind our back, whatever its method.
    made._retry_connection = False
    return made


async def close() -> None:
    """Close the running loop's connections, at the end of its life."""
    session = _sessions.pop(asyncio.get_running_loop(), None)
    if session is not None:
        await session.close()


__all__ = [
    "Answer",
    "LogIn",
    "NoAddress",
    "NoAnswer",
    "NotAllowed",
    "NotSent",
    "call",
    "check_numeric",
    "close",
    "session",
]
