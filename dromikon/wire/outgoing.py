"""The one gate for every outgoing connection: calls, devices, recorders, tables for lists.

An administrator allows hosts in DROMIKON_OUTGOING: names, addresses and networks, separated by commas
(``gateway.example, 10.20.0.0/16``). A name stands for where it leads when it is asked, so the decision is made on the
resolved address, and the connection goes to that very address: a name that leads elsewhere a moment later gets nowhere.
Addresses of this machine, of the link, and multicast must be listed as addresses (``127.0.0.0/8``, or ``localhost``);
a listed name that leads there is refused. Nothing is allowed where nothing is listed.
"""

import asyncio
import os
import socket
import ssl
from collections.abc import Callable, Iterable, Sequence
from contextlib import suppress
from dataclasses import dataclass
from functools import lru_cache
from http.cookiejar import DefaultCookiePolicy
from ipaddress import IPv4Network, IPv6Network, ip_address, ip_network
from typing import Any
from urllib.parse import urlsplit

import httpcore
import httpx

LOCAL = ("127.0.0.0/8", "::1/128")
#: An idle connection is kept for so long, in seconds. Each request looks at all that its client has open.
IDLE = 5.0


class NotAllowed(Exception):
    """The host may not be called; the message says what to do."""


@dataclass(frozen=True, slots=True)
class Gate:
    """What an administrator allows."""

    names: frozenset[str]
    networks: tuple[IPv4Network | IPv6Network, ...]

    @classmethod
    def read(cls, text: str) -> "Gate":
        """From the setting. What is no address or network is a name."""
        names, networks = set(), []
        for entry in (e.strip().lower() for e in text.split(",") if e.strip()):
            if entry == "localhost":
                names.add(entry)
                networks += [ip_network(n) for n in LOCAL]
                continue
            try:
                networks.append(ip_network(entry.strip("[]"), strict=False))
            except ValueError:
                names.add(entry)
        return cls(frozenset(names), tuple(networks))

    def lets(self, host: str, address: str) -> bool:
        """Whether a connection to `host` may go to this address of it."""
        try:
            where = ip_address(address.partition("%")[0])
        except ValueError:
            return False
        where = getattr(where, "ipv4_mapped", None) or where
        if any(where in network for network in self.networks):
            return True
        special = where.is_loopback or where.is_link_local or where.is_multicast or where.is_unspecified
        return not special and host.lower().rstrip(".") in self.names

    def choose(self, host: str, addresses: Iterable[str]) -> str:
        """The first address that may be called. Raises NotAllowed."""
        for address in addresses:
            if self.lets(host, address):
                return address
        raise _not_allowed(host)

    def check_unresolved(self, host: str) -> None:
        """A name that leads nowhere must at least be listed. Raises NotAllowed."""
        if host.lower().rstrip(".") not in self.names:
            raise _not_allowed(host)


def _not_allowed(host: str) -> NotAllowed:
    return NotAllowed(
        f"Calls to {host} are not allowed here; an administrator can allow it (Outgoing, or DROMIKON_OUTGOING)."
    )


_more: Callable[[], str] = str


def also_allowed(more: Callable[[], str]) -> None:
    """Name who knows what is allowed besides the setting, in the same form. It is asked for each connection."""
    global _more
    _more = more


def gate() -> Gate:
    """The gate as set now."""
    return _read(f"{os.environ.get('DROMIKON_OUTGOING', '')},{_more()}")


@lru_cache(maxsize=8)
def _read(text: str) -> Gate:
    return Gate.read(text)


class Unresolved(OSError):
    """A name that may be called leads nowhere just now."""


async def resolve(host: str, port: int | None, kind: int = socket.SOCK_STREAM) -> str:
    """The one address of a host that may be called. Raises NotAllowed, Unresolved."""
    try:
        found = await asyncio.get_running_loop().getaddrinfo(host, port, type=kind)
    except (OSError, UnicodeError) as error:
        raise _unresolved(host) from error
    return _chosen(host, found)


def resolve_now(host: str, port: int | None) -> str:
    """The same for those who may wait. Raises NotAllowed, Unresolved."""
    try:
        found = socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)
    except (OSError, UnicodeError) as error:
        raise _unresolved(host) from error
    return _chosen(host, found)


def _chosen(host: str, found: Sequence[Any]) -> str:
    return gate().choose(host, [str(f[4][0]) for f in found])


def _unresolved(host: str) -> Unresolved:
    gate().check_unresolved(host)
    return Unresolved(f"the name {host} leads nowhere")


def check_address(url: str) -> None:
    """Refuse an address to be kept that could not be called anyhow. Raises NotAllowed. A listed name that does not
    resolve just now passes: it is asked again for each connection."""
    with suppress(Unresolved):
        resolve_now(_host(url), None)


def _host(url: str) -> str:
    try:
        return urlsplit(url).hostname or ""
    except ValueError:
        return ""


class GatedBackend(httpcore.AsyncNetworkBackend):
    """Opens connections for the HTTP clients, to addresses that the gate lets through."""

    def __init__(self) -> None:
        self._inner = httpcore.AnyIOBackend()

    async def connect_tcp(
        self, host: str, port: int, timeout: float | None = None, local_address: str | None = None,
        socket_options: Any = None,
    ) -> httpcore.AsyncNetworkStream:  # fmt: skip
        try:
            address = await resolve(host, port)
        except Unresolved as error:
            raise httpcore.ConnectError(str(error)) from error
        return await self._inner.connect_tcp(address, port, timeout, local_address, socket_options)

    async def connect_unix_socket(
        self, path: str, timeout: float | None = None, socket_options: Any = None
    ) -> httpcore.AsyncNetworkStream:
        raise NotAllowed("Only network addresses are called.")

    async def sleep(self, seconds: float) -> None:
        await self._inner.sleep(seconds)


@lru_cache(maxsize=1)
def tls() -> ssl.SSLContext:
    """Made once: reading the certificates of all authorities takes a tenth of a second."""
    return ssl.create_default_context()


def client(timeout: float = 10.0, **more: Any) -> httpx.AsyncClient:
    """An HTTP client whose connections pass the gate. It follows no redirects, keeps no cookies, and takes nothing from
    the environment. A connection that may not be made raises NotAllowed."""
    transport = httpx.AsyncHTTPTransport(verify=tls(), trust_env=False)
    # The transport has no argument for its network backend, its pool has.
    transport._pool = httpcore.AsyncConnectionPool(
        ssl_context=tls(), max_connections=None, max_keepalive_connections=100, keepalive_expiry=IDLE,
        network_backend=GatedBackend(),
    )  # fmt: skip
    made = httpx.AsyncClient(transport=transport, timeout=timeout, follow_redirects=False, trust_env=False, **more)
    made.cookies.jar.set_policy(DefaultCookiePolicy(allowed_domains=[]))
    return made
