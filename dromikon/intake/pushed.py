"""Events that devices push: each session has an address of its own for a while, which nobody can guess."""

import asyncio
import logging
import secrets
import socket
from collections.abc import Callable
from urllib.parse import urlsplit

from starlette.requests import ClientDisconnect, Request
from starlette.responses import Response

from dromikon.wire.onvif.session import Take
from dromikon.wire.onvif.soap import DeviceError, parse_xml
from dromikon.wire.onvif.subscription import notifications

log = logging.getLogger("dromikon.intake")
PLACE = "/notify/"


class Pushed:
    """A `Consumer` whose addresses are on the intake's own port."""

    def __init__(self, port: Callable[[], int]) -> None:
        self._port = port
        self._takers: dict[str, Take] = {}

    async def open(self, device: str, take: Take) -> str:
        key = secrets.token_urlsafe(24)
        self._takers[key] = take
        return f"http://{await _our_address(device)}:{self._port()}{PLACE}{key}"

    def close(self, address: str) -> None:
        self._takers.pop(address.rsplit("/", 1)[-1], None)

    async def receive(self, request: Request) -> Response:
        """Take what a device posts, and answer once it is stored."""
        take = self._takers.get(str(request.path_params["key"]))
        if take is None:
            return Response(status_code=404)
        try:
            messages = notifications(parse_xml(await request.body()))
        except ClientDisconnect:
            return Response(status_code=400)
        except DeviceError as error:
            log.info("a device pushed what cannot be read: %s", error)
            return Response(status_code=400)
        await take(messages)
        return Response(status_code=202)


async def _our_address(device: str) -> str:
    """Our address as a device sees it: that from which we would speak to it. Nothing is sent."""
    parts = urlsplit(device)
    host = parts.hostname or "127.0.0.1"
    found = await asyncio.get_running_loop().getaddrinfo(host, parts.port or 80, type=socket.SOCK_DGRAM)
    family, _, _, _, place = found[0]
    with socket.socket(family, socket.SOCK_DGRAM) as probe:
        probe.connect(place)
        ours = str(probe.getsockname()[0])
    return f"[{ours}]" if ":" in ours else ours
